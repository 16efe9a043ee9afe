"""Spans of days, fixed or relative to today. Relative ones stay relative when kept."""

from __future__ import annotations

import calendar
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum


class CalendarUnit(StrEnum):
    """A unit of calendar time."""

    DAY = "day"
    WEEK = "week"
    MONTH = "month"
    YEAR = "year"


@dataclass(frozen=True)
class Length:
    """So many days, weeks, months or years."""

    count: int
    unit: CalendarUnit

    def __str__(self) -> str:
        return f"{self.count} {self.unit}{'' if self.count == 1 else 's'}"


_MONTH_LENGTHS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)


def shift(day: date, length: Length, direction: int) -> date:
    """Return the day so much earlier (-1) or later (1); months clamp to the month's end. Raises OverflowError.

    >>> shift(date(2026, 1, 31), Length(1, CalendarUnit.MONTH), 1)
    datetime.date(2026, 2, 28)
    """
    count = direction * length.count
    if length.unit in (CalendarUnit.DAY, CalendarUnit.WEEK):
        return day + timedelta(days=count * (7 if length.unit is CalendarUnit.WEEK else 1))
    months = day.year * 12 + day.month - 1 + count * (12 if length.unit is CalendarUnit.YEAR else 1)
    year, month = divmod(months, 12)
    if not date.min.year <= year <= date.max.year:
        raise OverflowError(f"{length} from {day} is outside the calendar")
    return date(year, month + 1, min(day.day, 29 if month == 1 and calendar.isleap(year) else _MONTH_LENGTHS[month]))


@dataclass(frozen=True)
class Ago:
    """A day that lies a length before today; a length of 0 days is today."""

    length: Length

    def resolve(self, today: date) -> date:
        return shift(today, self.length, -1)

    def __str__(self) -> str:
        return "today" if self.length.count == 0 else f"{self.length} ago"


Moment = date | Ago


def _day(moment: Moment, today: date) -> date:
    return moment.resolve(today) if isinstance(moment, Ago) else moment


@dataclass(frozen=True)
class Days:
    """Days from one to another, both included; None leaves an end open."""

    low: date | None
    high: date | None

    def holds(self, day: date) -> bool:
        return (self.low is None or self.low <= day) and (self.high is None or day <= self.high)


@dataclass(frozen=True)
class On:
    """One day."""

    day: Moment

    def resolve(self, today: date) -> Days:
        day = _day(self.day, today)
        return Days(day, day)

    def __str__(self) -> str:
        return str(self.day)


@dataclass(frozen=True)
class Before:
    """Earlier than a day, the day excluded."""

    day: Moment

    def resolve(self, today: date) -> Days:
        return Days(None, _day(self.day, today) - timedelta(days=1))

    def __str__(self) -> str:
        return f"before {self.day}"


@dataclass(frozen=True)
class Until:
    """On a day told from today, or earlier. A fixed day is written as before the next."""

    day: Ago

    def resolve(self, today: date) -> Days:
        return Days(None, self.day.resolve(today))

    def __str__(self) -> str:
        return f"until {self.day}"


@dataclass(frozen=True)
class Since:
    """On a day or later."""

    day: Moment

    def resolve(self, today: date) -> Days:
        return Days(_day(self.day, today), None)

    def __str__(self) -> str:
        return f"since {self.day}"


@dataclass(frozen=True)
class BetweenDays:
    """From one day to another, both included."""

    first: Moment
    last: Moment

    def resolve(self, today: date) -> Days:
        return Days(_day(self.first, today), _day(self.last, today))

    def __str__(self) -> str:
        return f"between {self.first} and {self.last}"


@dataclass(frozen=True)
class InTheLast:
    """From a length before today to today."""

    length: Length

    def resolve(self, today: date) -> Days:
        return Days(shift(today, self.length, -1), today)

    def __str__(self) -> str:
        return f"in the last {self.length}"


@dataclass(frozen=True)
class InTheNext:
    """From today to a length after it."""

    length: Length

    def resolve(self, today: date) -> Days:
        return Days(today, shift(today, self.length, 1))

    def __str__(self) -> str:
        return f"in the next {self.length}"


@dataclass(frozen=True)
class MoreThanAgo:
    """Longer ago than a length: the day that lies exactly so far back is excluded."""

    length: Length

    def resolve(self, today: date) -> Days:
        return Days(None, shift(today, self.length, -1) - timedelta(days=1))

    def __str__(self) -> str:
        return f"more than {self.length} ago"


Span = On | Before | Until | Since | BetweenDays | InTheLast | InTheNext | MoreThanAgo
