"""What of worksheets and of a property's files not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act

WORKSHEETS = Act("worksheets", "begin and change worksheets, set what the team assumes", "it changes no worksheets")
FILES = Act("files", "keep files of a property", "it keeps no files")
ACTS = (WORKSHEETS, FILES)
