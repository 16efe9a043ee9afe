"""The tables stay; ``contacts`` and ``mailings`` have them from here on."""

from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('contacts', '0001_tables_of_outreach'),
        ('mailings', '0001_tables_of_outreach'),
        ('outreach', '0005_forms_of_exports'),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.DeleteModel(name=name)
                for name in (
                    'MailReport', 'MailOrder', 'PieceOutcome', 'MailPiece', 'SentLetter', 'Mailing', 'Series', 'LetterTemplate', 'Printer',
                    'ContactExport', 'DoNotContact', 'FileColumns', 'MailSettings',
                )
            ],
        ),
    ]
