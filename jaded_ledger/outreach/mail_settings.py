"""What a team's mail costs, who sends it, and its printers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import isfinite

from django.db import transaction
from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.mail.postage import PriceError, Prices, as_json, prices_from
from jaded_ledger.outreach.acts import PRICES
from jaded_ledger.outreach.models import MailSettings, Printer
from jaded_ledger.outreach.models.printing import MOST_OFF
from jaded_ledger.records.clock import now

MOST_LINES, LONGEST_LINE, LONGEST_NAME = 4, 60, 40


class SettingError(ValueError):
    """What can't be set; the message says why."""


def prices_of(scope: Scope) -> Prices:
    """Return the team's prices, the shipped ones where it set none."""
    found = MailSettings.objects.filter(team=scope.team).first()
    return prices_from(found.prices) if found else Prices()


def sender_of(scope: Scope) -> tuple[str, ...]:
    """Return the lines of the team's return address."""
    found = MailSettings.objects.filter(team=scope.team).first()
    return tuple(found.sender) if found else ()


def change_settings(scope: Scope, prices: Mapping[str, object], sender: Sequence[str]) -> None:
    """Set the prices and the return address. Raises SettingError and PermissionDenied."""
    require(scope, PRICES)
    lines = [" ".join(line.split()) for line in sender if line.strip()]
    if len(lines) > MOST_LINES:
        raise SettingError(f"a return address has at most {MOST_LINES} lines; {len(lines)} were given")
    if long := next((line for line in lines if len(line) > LONGEST_LINE), None):
        raise SettingError(f"a line of a return address has at most {LONGEST_LINE} characters; “{long[:20]}…” has {len(long)}")
    try:
        kept = as_json(prices_from(prices))
    except PriceError as error:
        raise SettingError(str(error)) from error
    MailSettings.objects.update_or_create(team=scope.team, defaults={"prices": kept, "sender": lines})


def millimeters(text: str) -> float:
    """Return how far off a printer is. Raises SettingError."""
    try:
        found = float(text.strip().replace("−", "-") or 0)
    except ValueError:
        raise SettingError(f"“{text.strip()[:20]}” is no length in millimeters; write it as 1.5 or -0.5") from None
    if not isfinite(found) or abs(found) > MOST_OFF:
        raise SettingError(f"a printer is off by at most {MOST_OFF} mm; {text.strip()[:20]} is more")
    return found


@transaction.atomic
def set_printer(scope: Scope, name: str, right: str, down: str) -> Printer:
    """Keep what a printer is off, in millimeters; one of that name is changed. Raises SettingError and PermissionDenied."""
    require(scope, PRICES)
    called = " ".join(name.split())
    if not 0 < len(called) <= LONGEST_NAME:
        raise SettingError(f"a printer has a name of 1 to {LONGEST_NAME} characters")
    off = {"right": millimeters(right), "down": millimeters(down), "removed_at": None}
    return Printer.objects.update_or_create(team=scope.team, name=called, defaults=off)[0]


def printers_of(scope: Scope) -> QuerySet[Printer]:
    """Return the team's printers, by name."""
    return Printer.objects.filter(team=scope.team, removed_at=None)


def remove_printer(scope: Scope, printer: Printer) -> None:
    """Remove a printer; mailings that were to go through it keep its offset. Raises PermissionDenied."""
    require(scope, PRICES)
    Printer.objects.filter(pk=printer.pk).update(removed_at=now())


def put_back_printer(scope: Scope, printer: Printer) -> None:
    """Undo that a printer was removed. Raises PermissionDenied."""
    require(scope, PRICES)
    Printer.objects.filter(pk=printer.pk).update(removed_at=None)
