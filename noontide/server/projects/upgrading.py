"""Stored documents brought to today's format, so that an edit finds the fields under their new names; a step of the database's migrations."""

from typing import Any

from noontide.core.design import DesignError, difference
from noontide.core.design.migrations import upgrade
from noontide.server.projects.evaluation_key import key_of_document
from noontide.server.projects.thinning import documents_in_order


def upgrade_documents(apps: Any, schema_editor: Any) -> None:
    """Upgrade every revision, and the differences between them."""
    Revision = apps.get_model("projects", "Revision")
    for scheme in apps.get_model("projects", "Scheme").objects.all():
        new: dict[int, dict] = {}
        in_order = Revision.objects.filter(scheme=scheme).order_by("number").iterator(chunk_size=100)
        for revision, was in documents_in_order(in_order):
            try:
                document = upgrade(was)
            except DesignError:
                document = was
            new[revision.pk] = document
            if revision.document is not None:
                revision.document = document
            if revision.parent_id is not None and revision.is_difference:
                revision.patch = difference(new[revision.parent_id], document)
            revision.evaluation_key = key_of_document(document)
            revision.save(update_fields=["document", "patch", "evaluation_key"])
