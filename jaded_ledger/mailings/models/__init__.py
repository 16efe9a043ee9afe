"""Mailings with their pieces, letters and series, who prints them, and what came of them."""

from jaded_ledger.mailings.models.letters import LetterTemplate, SentLetter
from jaded_ledger.mailings.models.mail_orders import MailOrder, MailReport
from jaded_ledger.mailings.models.mailings import Mailing, MailPiece, PieceOutcome
from jaded_ledger.mailings.models.printing import Printer
from jaded_ledger.mailings.models.series import Series

__all__ = ["LetterTemplate", "MailOrder", "MailPiece", "MailReport", "Mailing", "PieceOutcome", "Printer", "SentLetter", "Series"]
