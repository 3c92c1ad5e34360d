"""A project is known by an id of its own wherever it travels; those that are there get one each."""

from uuid import uuid4

from django.db import migrations, models


def name_projects(apps, schema_editor):
    Project = apps.get_model("projects", "Project")
    for project in Project.objects.all():
        project.uid = uuid4()
        project.save(update_fields=["uid"])


class Migration(migrations.Migration):
    dependencies = [("projects", "0007_design_format_5")]
    operations = [
        migrations.AddField("project", "uid", models.UUIDField(default=uuid4, null=True)),
        migrations.AddField("project", "copy_of", models.UUIDField(null=True)),
        migrations.RunPython(name_projects, migrations.RunPython.noop),
        migrations.AlterField("project", "uid", models.UUIDField(default=uuid4, unique=True)),
    ]
