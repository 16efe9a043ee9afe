"""What left the building and to whom, who must get nothing, and what mail costs."""

from jaded_ledger.outreach.models.do_not_contact import DoNotContact
from jaded_ledger.outreach.models.exports import ContactExport
from jaded_ledger.outreach.models.file_columns import FileColumns
from jaded_ledger.outreach.models.letters import LetterTemplate, SentLetter
from jaded_ledger.outreach.models.mail_orders import MailOrder, MailReport
from jaded_ledger.outreach.models.mailings import Mailing, MailPiece, PieceOutcome
from jaded_ledger.outreach.models.printing import MailSettings, Printer
from jaded_ledger.outreach.models.series import Series

__all__ = [
    "ContactExport",
    "DoNotContact",
    "FileColumns",
    "LetterTemplate",
    "MailOrder",
    "MailPiece",
    "MailReport",
    "MailSettings",
    "Mailing",
    "PieceOutcome",
    "Printer",
    "SentLetter",
    "Series",
]
