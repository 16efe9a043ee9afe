"""The tables stay; ``comps`` and ``worksheets`` have them from here on."""

from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('comps', '0001_tables_of_deals'),
        ('deals', '0003_pools_and_values_after_repair'),
        ('worksheets', '0001_tables_of_deals'),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.DeleteModel(name=name)
                for name in (
                    'DealFile', 'WorksheetVersion', 'WorksheetDefaults', 'Worksheet', 'ScreenedParcel', 'ScreenedList', 'Screening',
                    'CompDecision', 'CompPool', 'CompRange', 'CompSettings', 'CompedList', 'ConditionGrade', 'KeptComps',
                )
            ],
        ),
    ]
