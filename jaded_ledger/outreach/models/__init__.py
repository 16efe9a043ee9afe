"""What left the building and to whom, who must get nothing, and what mail costs."""

from jaded_ledger.outreach.models.do_not_contact import DoNotContact
from jaded_ledger.outreach.models.exports import ContactExport
from jaded_ledger.outreach.models.mailings import Mailing, MailPiece, PieceOutcome
from jaded_ledger.outreach.models.printing import MailSettings, Printer

__all__ = ["ContactExport", "DoNotContact", "MailPiece", "MailSettings", "Mailing", "PieceOutcome", "Printer"]
