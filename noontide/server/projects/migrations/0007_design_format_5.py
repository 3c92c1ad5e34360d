"""Stored documents are brought to format 5; differences between them too."""

from django.db import migrations

from noontide.server.projects.upgrading import upgrade_documents


class Migration(migrations.Migration):
    dependencies = [("projects", "0006_design_format_4")]
    operations = [migrations.RunPython(upgrade_documents, migrations.RunPython.noop)]
