"""What a team's mail costs, who sends it, and its printers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import isfinite

from django.db import transaction
from django.db.models import QuerySet

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.phone_field import phone_as_printed
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.export_limits import SettingError
from jaded_ledger.contacts.models import MailSettings
from jaded_ledger.core.mail.postage import PriceError, Prices, as_json, prices_from
from jaded_ledger.mailings.acts import PRICES
from jaded_ledger.mailings.models import Printer
from jaded_ledger.mailings.models.printing import MOST_OFF

MOST_LINES, LONGEST_LINE, LONGEST_NAME, LONGEST_LICENSE = 4, 60, 40, 120


def prices_of(scope: Scope) -> Prices:
    """Return the team's prices, the shipped ones where it set none."""
    found = MailSettings.objects.filter(team=scope.team).first()
    return prices_from(found.prices) if found else Prices()


def sender_of(scope: Scope) -> tuple[str, ...]:
    """Return the lines of the team's return address."""
    found = MailSettings.objects.filter(team=scope.team).first()
    return tuple(found.sender) if found else ()


@dataclass(frozen=True)
class Signature:
    """What letters give of the team beside its name: the phone number as it is printed, and the license line; blank where none is set."""

    phone: str = ""
    license: str = ""


def signature_of(scope: Scope) -> Signature:
    """Return what the team's letters give of it."""
    return Signature(scope.team.phone, scope.team.license)


def change_settings(scope: Scope, prices: Mapping[str, object], sender: Sequence[str], phone: str = "", license_line: str = "") -> None:
    """Set the prices, the return address, and the phone number and license line of letters. Raises SettingError and PermissionDenied."""
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
    shown = " ".join(license_line.split())
    if len(shown) > LONGEST_LICENSE:
        raise SettingError(f"a license line has at most {LONGEST_LICENSE} characters; this one has {len(shown)}")
    try:
        number = phone_as_printed(phone)
    except ValueError as error:
        raise SettingError(str(error)) from error
    MailSettings.objects.update_or_create(team=scope.team, defaults={"prices": kept, "sender": lines})
    Team.objects.filter(pk=scope.team.pk).update(phone=number, license=shown)
    scope.team.refresh_from_db(fields=["phone", "license"])


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
    off = {"right": millimeters(right), "down": millimeters(down), "deleted_at": None}
    return Printer.objects.update_or_create(team=scope.team, name=called, defaults=off)[0]


def printers_of(scope: Scope) -> QuerySet[Printer]:
    """Return the team's printers, by name."""
    return Printer.objects.filter(team=scope.team, deleted_at=None)
