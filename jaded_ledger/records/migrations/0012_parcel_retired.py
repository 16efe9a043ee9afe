from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("records", "0011_signs_and_outcomes")]

    operations = [
        migrations.AddIndex(
            model_name="parcel",
            index=models.Index(models.F("id"), condition=models.Q(("retired_on__isnull", False)), name="parcel_retired"),
        ),
    ]
