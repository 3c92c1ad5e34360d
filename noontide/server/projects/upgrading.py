"""Stored documents brought to today's format, so that an edit finds the fields under their new names; a step of the database's migrations."""

from typing import Any

from noontide.core.design import DesignError, difference, merge_patch
from noontide.core.design.migrations import upgrade
from noontide.server.projects.evaluation_key import key_of_document


def upgrade_documents(apps: Any, schema_editor: Any) -> None:
    """Upgrade every revision, and the differences between them."""
    Revision = apps.get_model("projects", "Revision")
    for scheme in apps.get_model("projects", "Scheme").objects.all():
        old: dict[int, dict] = {}
        new: dict[int, dict] = {}
        # Numbers rise along children: a parent has been seen before what was made of it.
        for revision in Revision.objects.filter(scheme=scheme).order_by("number").iterator(chunk_size=100):
            was = revision.document if revision.document is not None else merge_patch(old[revision.parent_id], revision.patch)
            try:
                document = upgrade(was)
            except DesignError:
                document = was
            old[revision.pk], new[revision.pk] = was, document
            if revision.document is not None:
                revision.document = document
            if revision.parent_id is not None and revision.is_difference:
                revision.patch = difference(new[revision.parent_id], document)
            revision.evaluation_key = key_of_document(document)
            revision.save(update_fields=["document", "patch", "evaluation_key"])
