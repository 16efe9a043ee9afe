from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('clients', '0001_tables'),
    ]

    operations = [
        migrations.AddField(
            model_name='clientsearch',
            name='past_too',
            field=models.BooleanField(default=False, help_text='Whether they are written of what is not on the market as well.'),
        ),
    ]
