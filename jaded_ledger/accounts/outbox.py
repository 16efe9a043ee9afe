"""Mails that were written and have not left: each is sent once, and tried again for three days where it can't be."""

from __future__ import annotations

import logging
from collections.abc import Callable
from datetime import timedelta
from smtplib import SMTPException
from typing import TypeVar

from django.db import transaction
from django.db.models import Model, QuerySet

from jaded_ledger.accounts.team_mail import TeamMail
from jaded_ledger.records.clock import now
from jaded_ledger.records.rounds import go_round

TRIED_FOR = timedelta(days=3)
"""From the moment at which a mail may leave. What could not be sent by then is old."""
log = logging.getLogger(__name__)
Written = TypeVar("Written", bound=Model)
"""A model with ``sent_at``, null until it left, and ``fault``, why it could not be sent."""


class UnsendableError(Exception):
    """A mail that can't be sent as things are; the message says why."""


def send_waiting(round_name: str, waiting: QuerySet[Written], compose: Callable[[Written], TeamMail | None]) -> int:
    """Send each mail that waits, and return how many left. One that can't be sent keeps why, and waits for the next round.

    ``compose`` returns a mail as it leaves, or None for one that is not to be sent after all. What it writes and that the mail was sent
    are one transaction: a mail that could not be handed over leaves nothing behind. It may raise UnsendableError.
    """

    def send(waits: Written) -> bool:
        rows = waiting.model._default_manager.filter(pk=waits.pk)
        try:
            with transaction.atomic():
                # Another round may be at it.
                locked = waiting.select_for_update(skip_locked=True, of=("self",)).filter(pk=waits.pk).first()
                message = compose(locked) if locked is not None else None
                if message is None:
                    return False
                rows.update(sent_at=now(), fault="")
                message.send()
                return True
        except (OSError, SMTPException, UnsendableError) as error:
            log.warning("%s: %s could not be sent: %s", round_name, waits, error)
            rows.update(fault=str(error)[:300])
            return False

    return sum(go_round(round_name, waiting.order_by("pk"), send))
