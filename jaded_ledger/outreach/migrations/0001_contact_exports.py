import django.contrib.postgres.fields
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    """The table is there under this name since accounts 0004."""

    initial = True

    dependencies = [("accounts", "0004_logs_move_out")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="ContactExport",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("made_at", models.DateTimeField()),
                        ("form", models.CharField(choices=[("csv", "CSV file"), ("labels", "Label sheets")], max_length=10)),
                        ("search", models.TextField(help_text="The search's text form.")),
                        ("count", models.PositiveIntegerField(help_text="Rows in the file, or pieces printed.")),
                        ("parcel_ids", django.contrib.postgres.fields.ArrayField(base_field=models.BigIntegerField(), default=list, help_text="The parcels whose contact data it holds.", size=None)),
                        ("details", models.JSONField(default=dict, help_text="The columns of a file; sheet, addressing and refusals of labels.")),
                        ("team", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="contact_exports", to="accounts.team")),
                        ("user", models.ForeignKey(help_text="Blank when it was made from the command line.", null=True, on_delete=django.db.models.deletion.PROTECT, related_name="contact_exports", to=settings.AUTH_USER_MODEL)),
                    ],
                    options={
                        "ordering": ["-made_at", "-id"],
                        "indexes": [models.Index(fields=["team", "-made_at"], name="outreach_co_team_id_c7f02a_idx")],
                    },
                ),
            ]
        )
    ]
