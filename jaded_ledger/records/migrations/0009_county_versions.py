import uuid

import django.db.models.deletion
from django.db import migrations, models


def draw_versions(apps, schema_editor):
    """Give the facts of every county there is a version."""
    version = apps.get_model("records", "CountyFactsVersion")
    version.objects.bulk_create(
        version(county=county, version=uuid.uuid4()) for county in apps.get_model("records", "County").objects.all()
    )


class Migration(migrations.Migration):
    dependencies = [("records", "0008_case_papers")]

    operations = [
        migrations.CreateModel(
            name="CountyFactsVersion",
            fields=[
                (
                    "county",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        primary_key=True,
                        related_name="+",
                        serialize=False,
                        to="records.county",
                    ),
                ),
                ("version", models.UUIDField(help_text="Drawn by lot, so that no other history of the same county has it.")),
            ],
            options={"verbose_name_plural": "versions of counties' facts"},
        ),
        migrations.RunPython(draw_versions, migrations.RunPython.noop),
    ]
