"""What of properties not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act

OWNERS = Act("owners", "merge and split owners", "it merges and splits no owners")
ACTS = (OWNERS,)
