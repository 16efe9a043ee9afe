"""When a row was deleted is called deleted_at, as in every app."""

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('accounts', '0005_phone_and_license'),
        ('contacts', '0001_tables_of_outreach'),
    ]

    operations = [
        migrations.RemoveConstraint(
            model_name='filecolumns',
            name='file_columns_once',
        ),
        migrations.RenameField(
            model_name='filecolumns',
            old_name='removed_at',
            new_name='deleted_at',
        ),
        migrations.AddConstraint(
            model_name='filecolumns',
            constraint=models.UniqueConstraint(models.F('team'), models.F('name'), condition=models.Q(('deleted_at', None)), name='file_columns_once'),
        ),
    ]
