from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('watch', '0002_watched_searches'),
    ]

    operations = [
        migrations.AddField(
            model_name='calendarfeed',
            name='shows',
            field=models.CharField(choices=[('dates', 'dates alone'), ('all', 'addresses, lists and clients as well')], default='dates', max_length=10),
        ),
    ]
