"""What the worker does for facts: those that a new day changes are derived again."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.records.derivation import let_time_pass


# The day changes once a night; looking every few minutes costs one indexed question, and finds a day that came while nobody ran.
@app.periodic(cron="*/5 * * * *")
@app.task(name="records.derive_due", queueing_lock="records.derive_due", lock="intake")
def derive_what_is_due(timestamp: int) -> None:
    """Derive the facts that have changed by themselves."""
    let_time_pass()
