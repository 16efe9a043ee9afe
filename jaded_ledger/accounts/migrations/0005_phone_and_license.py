from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('accounts', '0004_morning_hour'),
    ]

    operations = [
        migrations.AddField(
            model_name='team',
            name='license',
            field=models.CharField(blank=True, help_text='The license line of letters.', max_length=120),
        ),
        migrations.AddField(
            model_name='team',
            name='phone',
            field=models.CharField(blank=True, help_text='The number that letters and mails give, as it is printed.', max_length=40),
        ),
        migrations.AddField(
            model_name='user',
            name='phone',
            field=models.CharField(blank=True, help_text='Their own number, as mails to their clients give it.', max_length=40),
        ),
    ]
