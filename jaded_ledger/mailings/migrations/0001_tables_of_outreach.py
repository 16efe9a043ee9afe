"""The tables of mailings stay as they are under their names of ``outreach``: only Django’s own notes say that they are of another app."""

import django.contrib.postgres.fields
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


MODELS = ('lettertemplate', 'mailing', 'mailorder', 'mailpiece', 'mailreport', 'pieceoutcome', 'printer', 'sentletter', 'series')


def name_app(apps, schema_editor):
    """Have what Django notes of these models, permissions among it, go on under the app's new name."""
    types = apps.get_model('contenttypes', 'ContentType').objects.using(schema_editor.connection.alias)
    types.filter(app_label='outreach', model__in=MODELS).update(app_label='mailings')


class Migration(migrations.Migration):

    dependencies = [
        ('contenttypes', '0002_remove_content_type_name'),
        ('outreach', '0005_forms_of_exports'),
        ('accounts', '0005_phone_and_license'),
        ('find', '0004_pending_is_not_for_sale'),
        ('records', '0013_pending_is_not_for_sale'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
            migrations.CreateModel(
                name='LetterTemplate',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=80)),
                    ('form', models.CharField(choices=[('letters', 'letter'), ('postcards', 'postcard')], max_length=10)),
                    ('text', models.TextField(help_text='With fields in braces; core.mail.letters reads it.')),
                    ('changed_at', models.DateTimeField()),
                    ('removed_at', models.DateTimeField(null=True)),
                    ('changed_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='letters', to='accounts.team')),
                ],
                options={
                    'db_table': 'outreach_lettertemplate',
                    'ordering': ['name', 'pk'],
                },
            ),
            migrations.CreateModel(
                name='Mailing',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=80)),
                    ('begun_at', models.DateTimeField()),
                    ('to', models.CharField(choices=[('owner-mailing', 'owner at the mailing address'), ('owner-property', 'owner at the property'), ('resident', 'current resident at the property'), ('owner-or-resident', 'owner or current resident, at the property')], default='owner-mailing', max_length=20)),
                    ('form', models.CharField(choices=[('labels', 'labels'), ('envelopes', 'envelopes'), ('letters', 'letters'), ('postcards', 'postcards')], default='labels', max_length=10)),
                    ('stock', models.CharField(default='letter-30', help_text='The sheet of labels, the envelope, or the letter’s paper.', max_length=12)),
                    ('start', models.PositiveSmallIntegerField(default=1)),
                    ('batch', models.PositiveIntegerField(default=0, help_text='Pieces a file; 0 for one file.')),
                    ('note', models.CharField(blank=True, help_text='The small line at the foot; {code} stands for the reply code.', max_length=60)),
                    ('return_address', models.BooleanField(default=False)),
                    ('postage', models.CharField(default='first_class', max_length=20)),
                    ('relaxed', django.contrib.postgres.fields.ArrayField(base_field=models.CharField(choices=[('no-address', 'no deliverable address'), ('do-not-mail', 'asked not to be contacted'), ('returned', 'mail came back'), ('stopped', 'replied, sold or was listed since the series began'), ('recent', 'bought lately'), ('stale', 'passed to somebody else since it was listed'), ('public', 'government or lender'), ('mailed', 'mailed lately'), ('no-owner', 'no owner name on record'), ('no-building', 'no building there'), ('can-not-print', 'has characters that can’t be printed'), ('too-long', 'too long for what it is printed on'), ('no-letter', 'no letter for such owners'), ('no-field', 'what its letter says is unknown'), ('same-owner', 'second piece to the same owner'), ('same-household', 'second piece to the same household'), ('same-dwelling', 'second piece to the same dwelling')], max_length=20), default=list, size=None)),
                    ('bought_within', models.PositiveSmallIntegerField(default=365, help_text='Days.')),
                    ('mailed_within', models.PositiveSmallIntegerField(default=60, help_text='Days.')),
                    ('letter_of', models.JSONField(default=dict, help_text='By kind of owner another letter’s id; 0 for none. core.mail.letters.Recipient')),
                    ('round', models.PositiveSmallIntegerField(default=0, help_text='Which mailing of its series it is, from 1; 0 without one.')),
                    ('code', models.CharField(max_length=8)),
                    ('made_at', models.DateTimeField(null=True)),
                    ('made_on', models.DateField(help_text="The team's day.", null=True)),
                    ('account', models.JSONField(default=dict, help_text='Parcels, refusals by reason, and costs, as they were when it was made.')),
                    ('pieces_made', models.PositiveIntegerField(default=0)),
                    ('cost', models.DecimalField(decimal_places=2, default=0, max_digits=12)),
                    ('thrown_away_at', models.DateTimeField(null=True)),
                    ('against', models.ForeignKey(help_text='Goes to a random half in the place of letter.', null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='mailings.lettertemplate')),
                    ('letter', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='mailings.lettertemplate')),
                    ('selection', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='find.selection')),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='mailings', to='accounts.team')),
                    ('user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'db_table': 'outreach_mailing',
                    'ordering': ['-begun_at', '-pk'],
                },
            ),
            migrations.CreateModel(
                name='MailOrder',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('house', models.CharField(help_text="The mail house's key.", max_length=40)),
                    ('reference', models.CharField(max_length=40)),
                    ('placed_at', models.DateTimeField()),
                    ('placed_on', models.DateField(help_text="The team's day.")),
                    ('charge', models.DecimalField(decimal_places=2, max_digits=12)),
                    ('asked_through', models.DateField(help_text='Through which day its reports were asked for.', null=True)),
                    ('mailing', models.OneToOneField(on_delete=django.db.models.deletion.PROTECT, related_name='order', to='mailings.mailing')),
                    ('user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'db_table': 'outreach_mailorder',
                },
            ),
            migrations.CreateModel(
                name='MailPiece',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('number', models.PositiveIntegerField()),
                    ('lines', django.contrib.postgres.fields.ArrayField(base_field=models.TextField(), size=None)),
                    ('place', models.CharField(help_text='The household or dwelling, as core.mail.addresses tells it.', max_length=200)),
                    ('parcels', django.contrib.postgres.fields.ArrayField(base_field=models.BigIntegerField(), default=list, size=None)),
                    ('values', models.JSONField(default=dict, help_text='What the letter’s fields said, by field.')),
                    ('mailing', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='pieces', to='mailings.mailing')),
                    ('owner', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='records.owner')),
                    ('parcel', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='records.parcel')),
                ],
                options={
                    'db_table': 'outreach_mailpiece',
                    'ordering': ['number'],
                },
            ),
            migrations.CreateModel(
                name='MailReport',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kind', models.CharField(choices=[('printed', 'printed'), ('posted', 'given to the post'), ('delivered', 'delivered'), ('returned', 'came back')], max_length=10)),
                    ('on', models.DateField()),
                    ('order', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='reports', to='mailings.mailorder')),
                    ('piece', models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='reports', to='mailings.mailpiece')),
                ],
                options={
                    'db_table': 'outreach_mailreport',
                    'ordering': ['on', 'pk'],
                },
            ),
            migrations.CreateModel(
                name='PieceOutcome',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kind', models.CharField(choices=[('reply', 'replied'), ('meeting', 'met'), ('listing', 'gave a listing'), ('deal', 'sold to us'), ('returned', 'came back'), ('opted-out', 'wants no more')], max_length=10)),
                    ('on', models.DateField()),
                    ('note', models.CharField(blank=True, max_length=500)),
                    ('noted_at', models.DateTimeField()),
                    ('undone_at', models.DateTimeField(null=True)),
                    ('piece', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='outcomes', to='mailings.mailpiece')),
                    ('user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'db_table': 'outreach_pieceoutcome',
                    'ordering': ['-noted_at', '-pk'],
                },
            ),
            migrations.CreateModel(
                name='Printer',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=40)),
                    ('right', models.FloatField(default=0)),
                    ('down', models.FloatField(default=0)),
                    ('removed_at', models.DateTimeField(null=True)),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='printers', to='accounts.team')),
                ],
                options={
                    'db_table': 'outreach_printer',
                    'ordering': ['name'],
                },
            ),
            migrations.AddField(
                model_name='mailing',
                name='printer',
                field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='mailings.printer'),
            ),
            migrations.CreateModel(
                name='SentLetter',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=80)),
                    ('text', models.TextField()),
                    ('letter', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='sent', to='mailings.lettertemplate')),
                    ('mailing', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='sent_letters', to='mailings.mailing')),
                ],
                options={
                    'db_table': 'outreach_sentletter',
                    'ordering': ['pk'],
                },
            ),
            migrations.AddField(
                model_name='mailpiece',
                name='letter',
                field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='pieces', to='mailings.sentletter'),
            ),
            migrations.CreateModel(
                name='Series',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=80)),
                    ('begun_at', models.DateTimeField()),
                    ('every_days', models.PositiveSmallIntegerField()),
                    ('rounds', models.PositiveSmallIntegerField(help_text='How many mailings in all, the first among them.')),
                    ('next_on', models.DateField(null=True)),
                    ('ended_at', models.DateTimeField(help_text='When somebody ended it before its last.', null=True)),
                    ('team', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='mail_series', to='accounts.team')),
                    ('user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name_plural': 'series',
                    'db_table': 'outreach_series',
                    'ordering': ['next_on', 'pk'],
                },
            ),
            migrations.AddField(
                model_name='mailing',
                name='series',
                field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='mailings', to='mailings.series'),
            ),
            migrations.AddConstraint(
                model_name='lettertemplate',
                constraint=models.UniqueConstraint(models.F('team'), models.F('name'), condition=models.Q(('removed_at', None)), name='letter_name_once'),
            ),
            migrations.AddConstraint(
                model_name='lettertemplate',
                constraint=models.CheckConstraint(condition=models.Q(('form__in', ['letters', 'postcards'])), name='letter_form_known'),
            ),
            migrations.AddConstraint(
                model_name='mailorder',
                constraint=models.UniqueConstraint(models.F('house'), models.F('reference'), name='mail_order_once'),
            ),
            migrations.AddConstraint(
                model_name='mailreport',
                constraint=models.UniqueConstraint(models.F('order'), models.F('kind'), models.F('on'), models.F('piece'), name='mail_report_once', nulls_distinct=False),
            ),
            migrations.AddConstraint(
                model_name='mailreport',
                constraint=models.CheckConstraint(condition=models.Q(('kind__in', ['printed', 'posted', 'delivered', 'returned'])), name='mail_report_kind_known'),
            ),
            migrations.AddConstraint(
                model_name='pieceoutcome',
                constraint=models.CheckConstraint(condition=models.Q(('kind__in', ['reply', 'meeting', 'listing', 'deal', 'returned', 'opted-out'])), name='piece_outcome_known'),
            ),
            migrations.AddConstraint(
                model_name='printer',
                constraint=models.UniqueConstraint(models.F('team'), models.F('name'), name='printer_once'),
            ),
            migrations.AddConstraint(
                model_name='printer',
                constraint=models.CheckConstraint(condition=models.Q(('down__range', (-20, 20)), ('right__range', (-20, 20))), name='printer_not_far_off'),
            ),
            migrations.AddConstraint(
                model_name='sentletter',
                constraint=models.UniqueConstraint(models.F('mailing'), models.F('letter'), name='sent_letter_once'),
            ),
            migrations.AddIndex(
                model_name='mailpiece',
                index=models.Index(fields=['parcel'], name='outreach_ma_parcel__a28c7f_idx'),
            ),
            migrations.AddIndex(
                model_name='mailpiece',
                index=models.Index(fields=['owner'], name='outreach_ma_owner_i_7cb456_idx'),
            ),
            migrations.AddIndex(
                model_name='mailpiece',
                index=models.Index(fields=['place'], name='outreach_ma_place_0dbdc0_idx'),
            ),
            migrations.AddConstraint(
                model_name='mailpiece',
                constraint=models.UniqueConstraint(models.F('mailing'), models.F('number'), name='mail_piece_once'),
            ),
            migrations.AddConstraint(
                model_name='series',
                constraint=models.CheckConstraint(condition=models.Q(('every_days__range', (1, 730)), ('rounds__range', (2, 24))), name='series_bounds'),
            ),
            migrations.AddIndex(
                model_name='mailing',
                index=models.Index(models.F('team'), models.OrderBy(models.F('begun_at'), descending=True), name='mailing_newest'),
            ),
            migrations.AddConstraint(
                model_name='mailing',
                constraint=models.UniqueConstraint(models.F('team'), models.F('code'), name='mailing_code_once'),
            ),
            migrations.AddConstraint(
                model_name='mailing',
                constraint=models.CheckConstraint(condition=models.Q(('form__in', ['labels', 'envelopes', 'letters', 'postcards'])), name='mailing_form_known'),
            ),
            migrations.AddConstraint(
                model_name='mailing',
                constraint=models.CheckConstraint(condition=models.Q(models.Q(('round', 0), ('series', None)), models.Q(('round__gte', 1), ('series__isnull', False)), _connector='OR'), name='mailing_round'),
            ),
            migrations.AddConstraint(
                model_name='mailing',
                constraint=models.UniqueConstraint(models.F('series'), models.F('round'), condition=models.Q(('thrown_away_at', None)), name='mailing_round_once'),
            ),
            migrations.AddConstraint(
                model_name='mailing',
                constraint=models.CheckConstraint(condition=models.Q(('made_at', None), ('made_on__isnull', False), _connector='OR'), name='mailing_made_on'),
            ),
            ],
        ),
        migrations.RunPython(name_app, migrations.RunPython.noop),
    ]
