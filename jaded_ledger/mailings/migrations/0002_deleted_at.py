"""When a row was deleted is called deleted_at, as in every app."""

from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('accounts', '0005_phone_and_license'),
        ('find', '0004_pending_is_not_for_sale'),
        ('mailings', '0001_tables_of_outreach'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RemoveConstraint(
            model_name='lettertemplate',
            name='letter_name_once',
        ),
        migrations.RemoveConstraint(
            model_name='mailing',
            name='mailing_round_once',
        ),
        migrations.RenameField(
            model_name='lettertemplate',
            old_name='removed_at',
            new_name='deleted_at',
        ),
        migrations.RenameField(
            model_name='mailing',
            old_name='thrown_away_at',
            new_name='deleted_at',
        ),
        migrations.RenameField(
            model_name='printer',
            old_name='removed_at',
            new_name='deleted_at',
        ),
        migrations.AddConstraint(
            model_name='lettertemplate',
            constraint=models.UniqueConstraint(models.F('team'), models.F('name'), condition=models.Q(('deleted_at', None)), name='letter_name_once'),
        ),
        migrations.AddConstraint(
            model_name='mailing',
            constraint=models.UniqueConstraint(models.F('series'), models.F('round'), condition=models.Q(('deleted_at', None)), name='mailing_round_once'),
        ),
    ]
