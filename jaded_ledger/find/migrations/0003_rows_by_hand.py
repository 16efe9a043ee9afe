from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("find", "0002_columns_and_rows")]

    operations = [
        migrations.RemoveConstraint("takenout", "taken_out_once"),
        migrations.RemoveConstraint("takenoutrow", "taken_out_row_once"),
        migrations.RenameModel("TakenOut", "RowsByHand"),
        migrations.RenameModel("TakenOutRow", "RowByHand"),
        migrations.RenameField("RowByHand", "taken_out", "rows"),
        migrations.AlterField(
            "RowsByHand", "team", models.ForeignKey(on_delete=models.CASCADE, related_name="rows_by_hand", to="accounts.team")
        ),
        migrations.AlterField(
            "RowByHand", "rows", models.ForeignKey(on_delete=models.CASCADE, related_name="each", to="find.rowsbyhand")
        ),
        migrations.AddField(
            "RowsByHand",
            "way",
            models.CharField(choices=[("taken-out", "taken out"), ("kept", "kept")], default="taken-out", max_length=10),
            preserve_default=False,
        ),
        migrations.AddField(
            "RowByHand", "reason", models.CharField(blank=True, default="", max_length=200), preserve_default=False
        ),
        migrations.AddConstraint(
            "RowsByHand", models.UniqueConstraint(models.F("team"), models.F("way"), models.F("digest"), name="rows_by_hand_once")
        ),
        migrations.AddConstraint("RowByHand", models.UniqueConstraint(models.F("rows"), models.F("parcel"), name="row_by_hand_once")),
    ]
