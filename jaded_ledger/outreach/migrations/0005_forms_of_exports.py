from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('outreach', '0004_file_columns'),
    ]

    operations = [
        migrations.AlterField(
            model_name='contactexport',
            name='form',
            field=models.CharField(choices=[('csv', 'Contact file'), ('labels', 'Mailing'), ('merge', 'Merge data'), ('house', 'To a mail house')], max_length=10),
        ),
    ]
