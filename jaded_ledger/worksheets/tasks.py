"""What the worker does for worksheets: screens what is on the market, and lists that are marked."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.records import jobs
from jaded_ledger.worksheets.screened import SCREEN, ask_where_due, screen_team


@jobs.task(SCREEN, lock="deals.screen")
def screen(team_id: int) -> None:
    """Screen for a team. The lock has workers take teams one after another."""
    screen_team(team_id)


@app.periodic(cron="*/2 * * * *")
@jobs.task("deals.ask_to_screen", queueing_lock="deals.ask_to_screen")
def ask_to_screen(timestamp: int) -> None:
    """Have every team be screened for whose facts or day are newer than its screening."""
    ask_where_due()
