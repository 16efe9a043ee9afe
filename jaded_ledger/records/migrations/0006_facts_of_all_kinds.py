import django.contrib.postgres.fields
import django.contrib.postgres.indexes
import django.core.serializers.json
import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('records', '0005_half_storeys'),
    ]

    # Facts are derived: the table is made anew, so that columns of fixed width stand first in it.
    operations = [
        migrations.DeleteModel('ParcelFacts'),
        migrations.CreateModel(
            name='AreaFigures',
            fields=[
                ('area', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='figures', serialize=False, to='records.area')),
                ('price', models.IntegerField(null=True)),
                ('rental_yield', models.FloatField(null=True)),
                ('growth', models.FloatField(null=True)),
                ('days', models.IntegerField(null=True)),
                ('supply', models.FloatField(null=True)),
                ('population', models.IntegerField(null=True)),
                ('resales', models.FloatField(null=True)),
                ('counts', models.JSONField(default=dict)),
                ('context', models.JSONField(default=dict)),
                ('through', models.DateField(help_text='The end of the last month through which deeds are on file, and of its twelve months.', null=True)),
            ],
            options={
                'verbose_name_plural': 'area figures',
            },
        ),
        migrations.CreateModel(
            name='ParcelSale',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('sold_on', models.DateField()),
                ('recorded_on', models.DateField()),
                ('price', models.DecimalField(decimal_places=2, max_digits=12)),
                ('property_class', models.SmallIntegerField(null=True)),
                ('living_area', models.IntegerField(null=True)),
                ('dwellings', models.SmallIntegerField(null=True)),
                ('is_resale', models.BooleanField(help_text='Whether it was a resale for more within 24 months.')),
            ],
        ),
        migrations.CreateModel(
            name='RecordedText',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('text', models.TextField()),
                ('folded', models.TextField(help_text='One case, single spaces: for exact comparison.')),
                ('words', models.TextField(help_text='The words with a space around each: for whole words.')),
            ],
        ),
        migrations.CreateModel(
            name='Remarks',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('text', models.TextField()),
                ('folded', models.TextField(help_text='One case, single spaces: for exact comparison.')),
                ('words', models.TextField(help_text='The words with a space around each: for whole words.')),
                ('digest', models.CharField(max_length=32, unique=True)),
            ],
            options={
                'verbose_name_plural': 'remarks',
            },
        ),
        migrations.AddField(
            model_name='listing',
            name='occupant_type',
            field=models.CharField(blank=True, choices=[('Owner', 'Owner'), ('Tenant', 'Tenant'), ('Vacant', 'Vacant')], max_length=20, verbose_name='occupant'),
        ),
        migrations.AddIndex(
            model_name='recordedaddress',
            index=models.Index(models.F('street'), models.F('zip5'), name='recorded_address_building'),
        ),
        migrations.AddConstraint(
            model_name='listing',
            constraint=models.CheckConstraint(condition=models.Q(('occupant_type__in', ['Owner', 'Tenant', 'Vacant', ''])), name='listing_occupant_type_known', violation_error_message='occupant type is none of Owner, Tenant, Vacant'),
        ),
        migrations.AddField(
            model_name='parcelsale',
            name='area',
            field=models.ForeignKey(db_constraint=False, db_index=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='records.area'),
        ),
        migrations.AddField(
            model_name='parcelsale',
            name='county',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='records.county'),
        ),
        migrations.AddField(
            model_name='parcelsale',
            name='parcel',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='records.parcel'),
        ),
        migrations.AddIndex(
            model_name='recordedtext',
            index=django.contrib.postgres.indexes.GinIndex(django.contrib.postgres.indexes.OpClass(models.F('words'), 'gin_trgm_ops'), name='recorded_text_words'),
        ),
        migrations.AddConstraint(
            model_name='recordedtext',
            constraint=models.UniqueConstraint(models.F('text'), name='recorded_text_once'),
        ),
        migrations.AddIndex(
            model_name='remarks',
            index=django.contrib.postgres.indexes.GinIndex(django.contrib.postgres.indexes.OpClass(models.F('words'), 'gin_trgm_ops'), name='remarks_words'),
        ),
        migrations.AddIndex(
            model_name='parcelsale',
            index=models.Index(models.F('county'), models.F('area'), models.F('recorded_on'), name='sale_by_area'),
        ),
    ]
