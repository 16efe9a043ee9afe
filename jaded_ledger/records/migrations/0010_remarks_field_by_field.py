from django.db import migrations


def forget_joined_remarks(apps, schema_editor):
    """Remarks were kept without their blank fields, so that none could be told from another. They are derived again from the listings."""
    apps.get_model("records", "ParcelFacts").objects.filter(remarks__isnull=False).delete()
    apps.get_model("records", "Remarks").objects.all().delete()


class Migration(migrations.Migration):
    dependencies = [
        ("records", "0009_facts_version"),
    ]

    operations = [
        migrations.RunPython(forget_joined_remarks, migrations.RunPython.noop, elidable=True),
    ]
