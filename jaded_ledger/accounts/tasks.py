"""What the worker does for accounts: old tries to sign in are forgotten."""

from __future__ import annotations

from datetime import timedelta

from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.utils import timezone
from procrastinate.contrib.django import app

from jaded_ledger.accounts.sign_in import KNOWN_FOR
from jaded_ledger.records import jobs


@app.periodic(cron="17 3 * * *")
@jobs.task("accounts.forget_tries", queueing_lock="accounts.forget_tries")
def forget_tries(timestamp: int) -> None:
    """Forget tries, good and bad, that no limit asks for any more. Who came in is told by the audit."""
    before = timezone.now() - KNOWN_FOR - timedelta(days=1)
    for model in (AccessAttempt, AccessFailureLog, AccessLog):
        model.objects.filter(attempt_time__lt=before).delete()
