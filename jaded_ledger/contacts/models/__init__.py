"""What left the building, who must get nothing, and what a team set for both."""

from jaded_ledger.contacts.models.do_not_contact import DoNotContact
from jaded_ledger.contacts.models.exports import ContactExport
from jaded_ledger.contacts.models.file_columns import FileColumns
from jaded_ledger.contacts.models.mail_settings import MailSettings

__all__ = ["ContactExport", "DoNotContact", "FileColumns", "MailSettings"]
