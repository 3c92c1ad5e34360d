"""Stored documents are brought to format 3, so that an edit finds the fields under their new names."""

from django.db import migrations


def upgrade_documents(apps, schema_editor):
    from noontide.core.design.migrations import upgrade
    from noontide.server.projects.evaluation_key import key_of_document

    Revision = apps.get_model("projects", "Revision")
    for revision in Revision.objects.iterator(chunk_size=200):
        try:
            revision.document = upgrade(revision.document)
        except ValueError:
            continue
        revision.evaluation_key = key_of_document(revision.document)
        revision.save(update_fields=["document", "evaluation_key"])


class Migration(migrations.Migration):
    dependencies = [("projects", "0003_freeze_parts")]
    operations = [migrations.RunPython(upgrade_documents, migrations.RunPython.noop)]
