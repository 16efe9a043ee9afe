"""What of lists not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act

LISTS = Act("lists", "make, fill and delete lists, tag, set stages, weigh urgency", "it changes no lists")
ACTS = (LISTS,)
