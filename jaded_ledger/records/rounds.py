"""Background rounds over many users, searches or clients, in which one failure does not stop the others."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from datetime import timedelta
from typing import Any, TypeVar

from django.db import transaction
from django.db.models import F, Model

from jaded_ledger.records.clock import now
from jaded_ledger.records.models import RoundFault
from jaded_ledger.web.errors import is_database_gone

KEPT_FOR = timedelta(days=7)
"""How long a failure is shown that did not occur again: what failed may have been deleted."""
log = logging.getLogger(__name__)
Item = TypeVar("Item", bound=Model)
Done = TypeVar("Done")


def go_round(name: str, items: Iterable[Item], act: Callable[[Item], Done]) -> list[Done]:
    """Call ``act`` for each item, and return the results of the calls that succeeded.

    A failure is logged, and shown to staff until the item succeeds. If the database is unavailable the round stops, and its job is
    retried.
    """
    RoundFault.objects.filter(round=name, last_at__lt=now() - KEPT_FOR).delete()
    failing = set(RoundFault.objects.filter(round=name).values_list("item", flat=True))
    done = []
    for item in items:
        key = f"{item._meta.label_lower} {item.pk}"
        try:
            # So that a failing item leaves nothing half written.
            with transaction.atomic():
                done.append(act(item))
        except Exception as error:
            if is_database_gone(error):
                raise
            log.exception("%s: %s failed", name, key)
            _note(name, key, str(item), error)
        else:
            if key in failing:
                RoundFault.objects.filter(round=name, item=key).delete()
    return done


def _note(name: str, key: str, about: str, error: Exception) -> None:
    at = now()
    words: dict[str, Any] = {"about": about[:200], "error": f"{type(error).__name__}: {error}"[:500], "last_at": at}
    _, is_new = RoundFault.objects.get_or_create(round=name, item=key, defaults={**words, "first_at": at})
    if not is_new:
        RoundFault.objects.filter(round=name, item=key).update(**words, times=F("times") + 1)
