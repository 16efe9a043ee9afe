"""What of contact data not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import TEAM_OWNERS, Act

CONTACTS = Act("contacts", "take contact data out: mailings and files", "it sees contact data but takes none out")
DO_NOT_CONTACT = Act("do-not-contact", "note who must not be contacted", "it sees who must not be contacted, and notes nobody")
EXPORT_LIMITS = Act("export-limits", "set how many rows each role takes out", "it sees how many rows each role takes out", TEAM_OWNERS)
ACTS = (CONTACTS, DO_NOT_CONTACT, EXPORT_LIMITS)
