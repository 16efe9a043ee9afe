"""What of Find not everybody may do; their own column sets all keep."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act

TEAM_COLUMNS = Act("team-columns", "change the team’s column sets", "it doesn’t change the team’s column sets")
PHRASE_BOOKS = Act("phrase-books", "change the team’s phrase books", "it changes no phrase book")
ACTS = (
    TEAM_COLUMNS,
    PHRASE_BOOKS,
)
