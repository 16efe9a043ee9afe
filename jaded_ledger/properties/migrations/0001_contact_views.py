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
                    name="ContactView",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("seen_at", models.DateTimeField()),
                        ("count", models.PositiveSmallIntegerField(help_text="How many numbers and addresses were shown.")),
                        ("parcel", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="contact_views", to="records.parcel")),
                        ("team", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="contact_views", to="accounts.team")),
                        ("user", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="contact_views", to=settings.AUTH_USER_MODEL)),
                    ],
                    options={
                        "ordering": ["-seen_at", "-id"],
                        "indexes": [models.Index(fields=["team", "parcel", "-seen_at"], name="properties__team_id_04b59a_idx")],
                    },
                ),
            ]
        )
    ]
