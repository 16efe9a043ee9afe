"""The tables of contacts stay as they are under their names of ``outreach``: only Django’s own notes say that they are of another app."""

import django.contrib.postgres.fields
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


MODELS = ('mailsettings', 'contactexport', 'donotcontact', 'filecolumns')


def name_app(apps, schema_editor):
    """Have what Django notes of these models, permissions among it, go on under the app's new name."""
    types = apps.get_model('contenttypes', 'ContentType').objects.using(schema_editor.connection.alias)
    types.filter(app_label='outreach', model__in=MODELS).update(app_label='contacts')


class Migration(migrations.Migration):

    dependencies = [
        ('contenttypes', '0002_remove_content_type_name'),
        ('outreach', '0005_forms_of_exports'),
        ('accounts', '0005_phone_and_license'),
        ('records', '0013_pending_is_not_for_sale'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
            migrations.CreateModel(
                name='MailSettings',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('prices', models.JSONField(default=dict, help_text='Dollars, by the names of core.mail.postage.Prices.')),
                    ('export_limits', models.JSONField(default=dict, help_text='By role how many rows a contact file has at most; without, none.')),
                    ('sender', django.contrib.postgres.fields.ArrayField(base_field=models.CharField(max_length=60), blank=True, default=list, help_text='The lines of the return address.', size=None)),
                    ('team', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='mail_settings', to='accounts.team')),
                ],
                options={
                    'db_table': 'outreach_mailsettings',
                },
            ),
            migrations.CreateModel(
                name='ContactExport',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('made_at', models.DateTimeField()),
                    ('form', models.CharField(choices=[('csv', 'Contact file'), ('labels', 'Mailing'), ('merge', 'Merge data'), ('house', 'To a mail house')], max_length=10)),
                    ('search', models.TextField(help_text="The search's text form.")),
                    ('count', models.PositiveIntegerField(help_text='Rows in the file, or pieces printed.')),
                    ('parcel_ids', django.contrib.postgres.fields.ArrayField(base_field=models.BigIntegerField(), default=list, help_text='The parcels whose contact data it holds.', size=None)),
                    ('details', models.JSONField(default=dict, help_text='The columns of a file; sheet, addressing and refusals of labels.')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='contact_exports', to='accounts.team')),
                    ('user', models.ForeignKey(help_text='Blank when it was made from the command line.', null=True, on_delete=django.db.models.deletion.PROTECT, related_name='contact_exports', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'db_table': 'outreach_contactexport',
                    'ordering': ['-made_at', '-id'],
                    'indexes': [models.Index(fields=['team', '-made_at'], name='outreach_co_team_id_c7f02a_idx')],
                },
            ),
            migrations.CreateModel(
                name='DoNotContact',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kind', models.CharField(choices=[('person', 'person'), ('address', 'address'), ('telephone', 'telephone'), ('e-mail', 'e-mail')], max_length=10)),
                    ('value', models.CharField(blank=True, max_length=200)),
                    ('label', models.CharField(help_text='The person, address or number as it is shown.', max_length=200)),
                    ('source', models.CharField(choices=[('by-hand', 'by hand'), ('file', 'from a file'), ('call', 'said on the telephone'), ('unsubscribed', 'unsubscribed'), ('returned', 'mail came back')], max_length=12)),
                    ('since', models.DateField()),
                    ('note', models.CharField(blank=True, max_length=300)),
                    ('noted_at', models.DateTimeField()),
                    ('ended_at', models.DateTimeField(null=True)),
                    ('ended_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('noted_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('owner', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='records.owner')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='do_not_contact', to='accounts.team')),
                ],
                options={
                    'db_table': 'outreach_donotcontact',
                    'ordering': ['-noted_at', '-pk'],
                    'indexes': [models.Index(models.F('team'), models.OrderBy(models.F('noted_at'), descending=True), name='do_not_contact_newest')],
                    'constraints': [models.CheckConstraint(condition=models.Q(('kind__in', ['person', 'address', 'telephone', 'e-mail'])), name='do_not_contact_kind_known'), models.CheckConstraint(condition=models.Q(('source__in', ['by-hand', 'file', 'call', 'unsubscribed', 'returned'])), name='do_not_contact_source_known'), models.CheckConstraint(condition=models.Q(models.Q(('kind', 'person'), ('owner__isnull', False), ('value', '')), models.Q(models.Q(('kind', 'person'), _negated=True), ('owner', None), models.Q(('value', ''), _negated=True)), _connector='OR'), name='do_not_contact_says_who'), models.UniqueConstraint(models.F('team'), models.F('kind'), models.F('owner'), models.F('value'), condition=models.Q(('ended_at', None)), name='do_not_contact_once', nulls_distinct=False)],
                },
            ),
            migrations.CreateModel(
                name='FileColumns',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=60)),
                    ('columns', django.contrib.postgres.fields.ArrayField(base_field=models.CharField(max_length=140), size=None)),
                    ('removed_at', models.DateTimeField(null=True)),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='file_columns', to='accounts.team')),
                ],
                options={
                    'verbose_name_plural': 'file columns',
                    'db_table': 'outreach_filecolumns',
                    'ordering': ['name'],
                    'constraints': [models.UniqueConstraint(models.F('team'), models.F('name'), condition=models.Q(('removed_at', None)), name='file_columns_once'), models.CheckConstraint(condition=models.Q(('columns', []), _negated=True), name='file_columns_not_empty')],
                },
            ),
            ],
        ),
        migrations.RunPython(name_app, migrations.RunPython.noop),
    ]
