"""What of outreach not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act

CONTACTS = Act("contacts", "take contact data out: labels and files", "it sees contact data but takes none out")
ACTS = (CONTACTS,)
