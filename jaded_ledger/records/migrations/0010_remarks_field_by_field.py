import django.contrib.postgres.fields
from django.db import migrations, models


def forget_joined_remarks(apps, schema_editor):
    """Remarks were kept without their blank fields, so that none could be told from another. They are derived again from the listings."""
    apps.get_model("records", "ParcelFacts").objects.filter(remarks__isnull=False).delete()
    apps.get_model("records", "Remarks").objects.all().delete()


class Migration(migrations.Migration):
    dependencies = [
        ("records", "0009_facts_version"),
    ]

    operations = [
        migrations.AddField(
            model_name="remarks",
            name="fields",
            field=django.contrib.postgres.fields.ArrayField(
                base_field=models.TextField(blank=True), default=list, help_text="The text of each field, blank ones too.", size=None
            ),
        ),
        migrations.RunPython(forget_joined_remarks, migrations.RunPython.noop, elidable=True),
    ]
