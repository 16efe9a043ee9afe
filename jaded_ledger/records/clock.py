"""The one source of now and today: a pinned day, else the demo world's, else the clock in the team's time zone."""

from __future__ import annotations

from datetime import date, datetime
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db.models import DateTimeField, F, Value
from django.db.models.functions import Greatest
from django.utils import timezone

from jaded_ledger.records.models import World

EARLIEST = date(1900, 1, 1)
"""The earliest day that a file or a list can be said to speak of: an earlier one is a slip of the hand."""


def fault_of_day(day: date, latest: date) -> str:
    """Return what is wrong with a day that data are said to be of, going on after the day; blank when nothing is."""
    if day > latest:
        return "is yet to come"
    return f"is before {EARLIEST:%Y}" if day < EARLIEST else ""


def today(zone: str | None = None) -> date:
    """Return the day the application stands at, in a time zone (the installation's unless one is named)."""
    if settings.PINNED_TODAY:
        return settings.PINNED_TODAY
    if world := World.objects.order_by("-id").first():
        return world.today
    return timezone.localdate(timezone=ZoneInfo(zone or settings.TIME_ZONE))


def now() -> datetime:
    """Return the moment for stamping a row: the clock's time of day on the day the application stands at."""
    moment = timezone.localtime(timezone=ZoneInfo(settings.TIME_ZONE))
    return datetime.combine(today(), moment.timetz())


def day_of(moment: datetime) -> date:
    """Return the installation's day on which a moment lies; rows come out of the database in UTC, whose day is another in the evening."""
    return moment.astimezone(ZoneInfo(settings.TIME_ZONE)).date()


def not_before(column: str) -> Greatest:
    """Return now, or what a column of moments holds where that is later: where the day stands still, midnight sets the clock back."""
    return Greatest(Value(now(), output_field=DateTimeField()), F(column))
