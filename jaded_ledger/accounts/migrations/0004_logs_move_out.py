from django.db import migrations


class Migration(migrations.Migration):
    """The logs of contact data go to the apps that write them, which create their models under the tables' new names."""

    dependencies = [("accounts", "0003_team_version"), ("records", "0013_whose_decision")]

    operations = [
        migrations.RunSQL(
            [
                "ALTER TABLE accounts_contactexport RENAME TO outreach_contactexport",
                "ALTER SEQUENCE accounts_contactexport_id_seq RENAME TO outreach_contactexport_id_seq",
                "ALTER INDEX accounts_co_team_id_1a976c_idx RENAME TO outreach_co_team_id_c7f02a_idx",
            ],
            [
                "ALTER INDEX outreach_co_team_id_c7f02a_idx RENAME TO accounts_co_team_id_1a976c_idx",
                "ALTER SEQUENCE outreach_contactexport_id_seq RENAME TO accounts_contactexport_id_seq",
                "ALTER TABLE outreach_contactexport RENAME TO accounts_contactexport",
            ],
        ),
        migrations.RunSQL(
            [
                "ALTER TABLE accounts_contactview RENAME TO properties_contactview",
                "ALTER SEQUENCE accounts_contactview_id_seq RENAME TO properties_contactview_id_seq",
                "ALTER INDEX accounts_co_team_id_170a5b_idx RENAME TO properties__team_id_04b59a_idx",
            ],
            [
                "ALTER INDEX properties__team_id_04b59a_idx RENAME TO accounts_co_team_id_170a5b_idx",
                "ALTER SEQUENCE properties_contactview_id_seq RENAME TO accounts_contactview_id_seq",
                "ALTER TABLE properties_contactview RENAME TO accounts_contactview",
            ],
        ),
        migrations.SeparateDatabaseAndState(
            state_operations=[migrations.DeleteModel("ContactExport"), migrations.DeleteModel("ContactView")]
        ),
    ]
