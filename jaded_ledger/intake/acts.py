"""What of records not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import STAFF, Act

TAKE_IN_FILES = Act("take-in", "take in files of records", "Files are taken in by staff.", frozenset({STAFF}))
ACTS = (TAKE_IN_FILES,)
