"""Stored documents are brought to format 4, so that an edit finds the fields under their new names; differences between them too."""

from django.db import migrations


def upgrade_documents(apps, schema_editor):
    from noontide.core.design.merge_patch import difference, merge_patch
    from noontide.core.design.migrations import upgrade
    from noontide.server.projects.evaluation_key import key_of_document

    Revision = apps.get_model("projects", "Revision")
    for scheme in apps.get_model("projects", "Scheme").objects.all():
        old, new = {}, {}
        # Numbers rise along children: a parent has been seen before what was made of it.
        for revision in Revision.objects.filter(scheme=scheme).order_by("number").iterator(chunk_size=100):
            was = revision.document if revision.document is not None else merge_patch(old[revision.parent_id], revision.patch)
            try:
                document = upgrade(was)
            except ValueError:
                document = was
            old[revision.pk], new[revision.pk] = was, document
            if revision.document is not None:
                revision.document = document
            if revision.parent_id is not None and revision.is_difference:
                revision.patch = difference(new[revision.parent_id], document)
            revision.evaluation_key = key_of_document(document)
            revision.save(update_fields=["document", "patch", "evaluation_key"])


class Migration(migrations.Migration):
    dependencies = [("projects", "0005_thin_revisions")]
    operations = [migrations.RunPython(upgrade_documents, migrations.RunPython.noop)]
