from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('records', '0011_reread_names'),
    ]

    operations = [
        migrations.CreateModel(
            name='RoundFault',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('round', models.CharField(help_text='Which round, in words.', max_length=60)),
                ('item', models.CharField(help_text='Model and key of what failed.', max_length=80)),
                ('about', models.CharField(help_text='What it is called.', max_length=200)),
                ('error', models.CharField(max_length=500)),
                ('first_at', models.DateTimeField()),
                ('last_at', models.DateTimeField()),
                ('times', models.PositiveIntegerField(default=1)),
            ],
            options={
                'ordering': ['-last_at', '-id'],
                'constraints': [models.UniqueConstraint(models.F('round'), models.F('item'), name='round_fault_once')],
            },
        ),
    ]
