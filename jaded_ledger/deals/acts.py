"""What of deals not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act

COMPS = Act("comps", "decide on comps, keep and set them", "it changes no comps")
WORKSHEETS = Act("worksheets", "begin and change worksheets, set what the team assumes", "it changes no worksheets")
FILES = Act("files", "keep files of a property", "it keeps no files")
ACTS = (
    COMPS,
    WORKSHEETS,
    FILES,
)
