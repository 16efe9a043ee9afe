"""What of clients not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import TEAM_OWNERS, Act

CLIENTS = Act("clients", "keep clients, and send them what they look for", "it sees clients, and changes or sends nothing")
CLIENT_SETTINGS = Act(
    "client-settings", "set reasons, the covering message and how long links last", "it sees how clients are written to", TEAM_OWNERS
)
ACTS = (CLIENTS, CLIENT_SETTINGS)
