"""Stored documents are brought to format 4; differences between them too."""

from django.db import migrations

from noontide.server.projects.upgrading import upgrade_documents


class Migration(migrations.Migration):
    dependencies = [("projects", "0005_thin_revisions")]
    operations = [migrations.RunPython(upgrade_documents, migrations.RunPython.noop)]
