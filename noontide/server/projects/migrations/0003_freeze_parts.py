"""Old documents get their owner, their datasheets and the key of their figures; what cannot be read stays as it is."""

from django.db import migrations


def freeze_parts(apps, schema_editor):
    from noontide.core.design import freeze
    from noontide.parts import built_in_parts
    from noontide.server.projects.evaluation_key import key_of_document

    Revision = apps.get_model("projects", "Revision")
    for revision in Revision.objects.iterator(chunk_size=200):
        try:
            revision.document = freeze(revision.document, built_in_parts())
        except ValueError:
            pass
        revision.first_number = revision.number
        revision.evaluation_key = key_of_document(revision.document)
        revision.save(update_fields=["document", "first_number", "evaluation_key"])


def set_owner(apps, schema_editor):
    User = apps.get_model("accounts", "User")
    owned = [apps.get_model("projects", "Project"), apps.get_model("weather_library", "WeatherYear"), apps.get_model("jobs", "Job")]
    if not any(model.objects.exists() for model in owned):
        return
    user, _ = User.objects.get_or_create(username="local", defaults={"first_name": "Local user", "password": "!"})
    for model in owned:
        model.objects.filter(owner=None).update(owner=user)


class Migration(migrations.Migration):
    dependencies = [
        ("projects", "0002_gestures_owners_evaluations"),
        ("accounts", "0001_initial"),
        ("weather_library", "0002_reading_steps_owner"),
        ("jobs", "0002_job_owner"),
    ]
    operations = [
        migrations.RunPython(freeze_parts, migrations.RunPython.noop),
        migrations.RunPython(set_owner, migrations.RunPython.noop),
    ]
