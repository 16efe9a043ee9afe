"""What of the morning not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import TEAM_OWNERS, Act

NOTES = Act("notes", "note something of a property", "it reads what was noted of properties, and notes nothing")
MORNING_HOUR = Act("morning-hour", "set the hour of the team’s morning", "it sees the hour of the morning", TEAM_OWNERS)
ACTS = (NOTES, MORNING_HOUR)
