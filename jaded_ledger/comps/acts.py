"""What of comps not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act

COMPS = Act("comps", "decide on comps, keep and set them", "it changes no comps")
ACTS = (COMPS,)
