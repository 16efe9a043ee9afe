"""What of searches not everybody may do; their own all keep."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act

TEAM_SEARCHES = Act(
    "team-searches", "share searches with the team, and change its shared ones", "it neither shares nor changes searches of the team"
)
FOLLOWED_LISTS = Act("followed-lists", "have a list follow a search", "it has no lists follow a search")
ACTS = (
    TEAM_SEARCHES,
    FOLLOWED_LISTS,
)
