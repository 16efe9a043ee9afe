"""The tables of worksheets stay as they are under their names of ``deals``: only Django’s own notes say that they are of another app."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


MODELS = ('screenedlist', 'screening', 'worksheet', 'dealfile', 'worksheetdefaults', 'worksheetversion', 'screenedparcel')


def name_app(apps, schema_editor):
    """Have what Django notes of these models, permissions among it, go on under the app's new name."""
    types = apps.get_model('contenttypes', 'ContentType').objects.using(schema_editor.connection.alias)
    types.filter(app_label='deals', model__in=MODELS).update(app_label='worksheets')


class Migration(migrations.Migration):

    dependencies = [
        ('contenttypes', '0002_remove_content_type_name'),
        ('deals', '0003_pools_and_values_after_repair'),
        ('accounts', '0005_phone_and_license'),
        ('lists', '0002_new_lists_are_working_sets'),
        ('records', '0013_pending_is_not_for_sale'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
            migrations.CreateModel(
                name='ScreenedList',
                fields=[
                    ('list', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='screened', serialize=False, to='lists.parcellist')),
                ],
                options={
                    'db_table': 'deals_screenedlist',
                },
            ),
            migrations.CreateModel(
                name='Screening',
                fields=[
                    ('team', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='screening', serialize=False, to='accounts.team')),
                    ('is_waiting', models.BooleanField(default=True)),
                    ('facts_version', models.IntegerField(default=0)),
                    ('screened_on', models.DateField(null=True)),
                    ('count', models.PositiveIntegerField(default=0)),
                ],
                options={
                    'db_table': 'deals_screening',
                },
            ),
            migrations.CreateModel(
                name='Worksheet',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(blank=True, max_length=80)),
                    ('stage', models.CharField(choices=[('looking', 'looking'), ('offered', 'offered'), ('contract', 'under contract'), ('bought', 'bought'), ('sold', 'sold'), ('passed', 'passed')], default='looking', max_length=10)),
                    ('content', models.JSONField(default=dict)),
                    ('before', models.JSONField(default=list)),
                    ('figures', models.JSONField(default=dict)),
                    ('made_at', models.DateTimeField()),
                    ('changed_at', models.DateTimeField()),
                    ('deleted_at', models.DateTimeField(null=True)),
                    ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('parcel', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='worksheets', to='records.parcel')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='worksheets', to='accounts.team')),
                ],
                options={
                    'db_table': 'deals_worksheet',
                    'ordering': ['-changed_at', '-pk'],
                },
            ),
            migrations.CreateModel(
                name='DealFile',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kind', models.CharField(choices=[('inspection', 'inspection report'), ('bid', 'bid'), ('plan', 'floor plan'), ('photograph', 'photograph'), ('other', 'other')], max_length=12)),
                    ('name', models.CharField(max_length=120)),
                    ('content_type', models.CharField(choices=[('application/pdf', 'PDF'), ('image/jpeg', 'JPEG'), ('image/png', 'PNG'), ('image/webp', 'WebP')], max_length=20)),
                    ('size', models.PositiveIntegerField(help_text='In bytes.')),
                    ('pages', models.PositiveSmallIntegerField(help_text='Of a PDF.', null=True)),
                    ('sha256', models.CharField(max_length=64)),
                    ('content', models.BinaryField()),
                    ('preview', models.BinaryField()),
                    ('kept_at', models.DateTimeField()),
                    ('deleted_at', models.DateTimeField(null=True)),
                    ('kept_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('parcel', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='deal_files', to='records.parcel')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.team')),
                    ('worksheet', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='files', to='worksheets.worksheet')),
                ],
                options={
                    'db_table': 'deals_dealfile',
                    'ordering': ['-kept_at', '-pk'],
                },
            ),
            migrations.CreateModel(
                name='WorksheetDefaults',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('grade', models.CharField(blank=True, choices=[('A', 'A'), ('B', 'B'), ('C', 'C'), ('D', 'D')], max_length=1)),
                    ('values', models.JSONField(default=dict)),
                    ('changed_at', models.DateTimeField()),
                    ('area', models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='+', to='records.area')),
                    ('changed_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.team')),
                ],
                options={
                    'verbose_name_plural': 'worksheet defaults',
                    'db_table': 'deals_worksheetdefaults',
                },
            ),
            migrations.CreateModel(
                name='WorksheetVersion',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('number', models.PositiveSmallIntegerField()),
                    ('content', models.JSONField()),
                    ('figures', models.JSONField()),
                    ('note', models.CharField(blank=True, max_length=200)),
                    ('kept_at', models.DateTimeField()),
                    ('kept_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('worksheet', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='versions', to='worksheets.worksheet')),
                ],
                options={
                    'db_table': 'deals_worksheetversion',
                    'ordering': ['-number'],
                },
            ),
            migrations.CreateModel(
                name='ScreenedParcel',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('cap_rate', models.FloatField(null=True)),
                    ('cash_on_cash', models.FloatField(null=True)),
                    ('discount_to_value', models.FloatField(null=True)),
                    ('highest_offer', models.IntegerField(null=True)),
                    ('value_needed', models.IntegerField(null=True)),
                    ('net_to_seller', models.IntegerField(null=True)),
                    ('screened_on', models.DateField()),
                    ('parcel', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='records.parcel')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.team')),
                ],
                options={
                    'db_table': 'deals_screenedparcel',
                    'constraints': [models.UniqueConstraint(models.F('team'), models.F('parcel'), name='screened_parcel_once')],
                },
            ),
            migrations.AddConstraint(
                model_name='worksheet',
                constraint=models.CheckConstraint(condition=models.Q(('stage__in', ['looking', 'offered', 'contract', 'bought', 'sold', 'passed'])), name='worksheet_stage_known'),
            ),
            migrations.AddConstraint(
                model_name='dealfile',
                constraint=models.CheckConstraint(condition=models.Q(('kind__in', ['inspection', 'bid', 'plan', 'photograph', 'other'])), name='deal_file_kind_known'),
            ),
            migrations.AddConstraint(
                model_name='dealfile',
                constraint=models.CheckConstraint(condition=models.Q(('content_type__in', ['application/pdf', 'image/jpeg', 'image/png', 'image/webp'])), name='deal_file_type_known'),
            ),
            migrations.AddConstraint(
                model_name='worksheetdefaults',
                constraint=models.UniqueConstraint(fields=('team', 'grade', 'area'), name='worksheet_defaults_once', nulls_distinct=False),
            ),
            migrations.AddConstraint(
                model_name='worksheetdefaults',
                constraint=models.CheckConstraint(condition=models.Q(('grade', ''), ('area', None), _connector='OR'), name='worksheet_defaults_of_one_kind'),
            ),
            migrations.AddConstraint(
                model_name='worksheetversion',
                constraint=models.UniqueConstraint(models.F('worksheet'), models.F('number'), name='worksheet_version_once'),
            ),
            ],
        ),
        migrations.RunPython(name_app, migrations.RunPython.noop),
    ]
