"""The tables of comps stay as they are under their names of ``deals``: only Django’s own notes say that they are of another app."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


MODELS = ('compedlist', 'compdecision', 'comppool', 'comprange', 'compsettings', 'conditiongrade', 'keptcomps')


def name_app(apps, schema_editor):
    """Have what Django notes of these models, permissions among it, go on under the app's new name."""
    types = apps.get_model('contenttypes', 'ContentType').objects.using(schema_editor.connection.alias)
    types.filter(app_label='deals', model__in=MODELS).update(app_label='comps')


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
                name='CompedList',
                fields=[
                    ('list', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='comped', serialize=False, to='lists.parcellist')),
                    ('is_nightly', models.BooleanField(default=False)),
                    ('is_waiting', models.BooleanField(default=False)),
                    ('computed_on', models.DateField(null=True)),
                ],
                options={
                    'db_table': 'deals_compedlist',
                },
            ),
            migrations.CreateModel(
                name='CompDecision',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('sold_on', models.DateField()),
                    ('is_in', models.BooleanField()),
                    ('reason', models.CharField(blank=True, max_length=200)),
                    ('decided_at', models.DateTimeField()),
                    ('comp', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='records.parcel')),
                    ('decided_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('subject', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='records.parcel')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.team')),
                ],
                options={
                    'db_table': 'deals_compdecision',
                    'constraints': [models.UniqueConstraint(models.F('team'), models.F('subject'), models.F('comp'), models.F('sold_on'), name='comp_decision_once')],
                },
            ),
            migrations.CreateModel(
                name='CompPool',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('lines', models.TextField(blank=True)),
                    ('changed_at', models.DateTimeField()),
                    ('changed_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('subject', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='records.parcel')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.team')),
                ],
                options={
                    'db_table': 'deals_comppool',
                    'constraints': [models.UniqueConstraint(models.F('team'), models.F('subject'), name='comp_pool_once')],
                },
            ),
            migrations.CreateModel(
                name='CompRange',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('count', models.PositiveSmallIntegerField()),
                    ('value', models.IntegerField(null=True)),
                    ('low', models.IntegerField(null=True)),
                    ('median', models.IntegerField(null=True)),
                    ('high', models.IntegerField(null=True)),
                    ('spread', models.FloatField(null=True)),
                    ('repaired_count', models.PositiveSmallIntegerField(default=0)),
                    ('repaired_value', models.IntegerField(help_text='By what sold after repair; null where no such comp was in.', null=True)),
                    ('price', models.IntegerField(help_text='What was asked then, or else the estimated value.', null=True)),
                    ('price_to', models.FloatField(help_text='The price in percent of the value.', null=True)),
                    ('computed_on', models.DateField()),
                    ('parcel', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='records.parcel')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.team')),
                ],
                options={
                    'db_table': 'deals_comprange',
                    'constraints': [models.UniqueConstraint(models.F('team'), models.F('parcel'), name='comp_range_once')],
                },
            ),
            migrations.CreateModel(
                name='CompSettings',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('lines', models.TextField(blank=True)),
                    ('constants', models.JSONField(default=dict)),
                    ('changed_at', models.DateTimeField()),
                    ('changed_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('county', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='records.county')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.team')),
                ],
                options={
                    'verbose_name_plural': 'comp settings',
                    'db_table': 'deals_compsettings',
                    'constraints': [models.UniqueConstraint(models.F('team'), models.F('county'), name='comp_settings_once')],
                },
            ),
            migrations.CreateModel(
                name='ConditionGrade',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('sold_on', models.DateField(null=True)),
                    ('grade', models.CharField(choices=[('as-found', 'as found'), ('tidied', 'tidied'), ('rebuilt', 'rebuilt')], max_length=10)),
                    ('graded_at', models.DateTimeField()),
                    ('graded_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('parcel', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='records.parcel')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.team')),
                ],
                options={
                    'db_table': 'deals_conditiongrade',
                    'constraints': [models.UniqueConstraint(fields=('team', 'parcel', 'sold_on'), name='condition_grade_once', nulls_distinct=False), models.CheckConstraint(condition=models.Q(('grade__in', ['as-found', 'tidied', 'rebuilt'])), name='condition_grade_known')],
                },
            ),
            migrations.CreateModel(
                name='KeptComps',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kept_at', models.DateTimeField()),
                    ('lines', models.TextField(blank=True)),
                    ('of_set', models.CharField(max_length=10)),
                    ('value', models.IntegerField(help_text='In dollars; null where no comp was in.', null=True)),
                    ('content', models.JSONField()),
                    ('deleted_at', models.DateTimeField(null=True)),
                    ('kept_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('parcel', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='kept_comps', to='records.parcel')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='accounts.team')),
                ],
                options={
                    'verbose_name_plural': 'kept comps',
                    'db_table': 'deals_keptcomps',
                    'ordering': ['-kept_at', '-pk'],
                    'constraints': [models.CheckConstraint(condition=models.Q(('of_set__in', ['as-is', 'repaired'])), name='kept_comps_set_known')],
                },
            ),
            ],
        ),
        migrations.RunPython(name_app, migrations.RunPython.noop),
    ]
