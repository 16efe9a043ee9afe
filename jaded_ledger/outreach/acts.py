"""What of outreach not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import TEAM_OWNERS, Act

CONTACTS = Act("contacts", "take contact data out: mailings and files", "it sees contact data but takes none out")
DO_NOT_CONTACT = Act("do-not-contact", "note who must not be contacted", "it sees who must not be contacted, and notes nobody")
REPLIES = Act("replies", "note what came of a piece", "it sees what came of mailings, and notes nothing")
PRICES = Act("prices", "set prices and printers", "it sees prices and printers, and sets none")
LETTERS = Act("letters", "write letters and postcards", "it reads letters, and writes none")
SERIES = Act("series", "begin and end series of mailings", "it sees series, and begins or ends none")
EXPORT_LIMITS = Act("export-limits", "set how many rows each role takes out", "it sees how many rows each role takes out", TEAM_OWNERS)
ACTS = (CONTACTS, DO_NOT_CONTACT, REPLIES, PRICES, LETTERS, SERIES, EXPORT_LIMITS)
