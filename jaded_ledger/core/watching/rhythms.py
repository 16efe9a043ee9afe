"""How often a watched search is told of: each morning, at once, or on days of the week; and what its own past proposes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo

AT_MOST_EVERY = timedelta(hours=1)
"""Between two messages of what is told at once."""
A_DAY = 5
"""So many new ones are done in a morning; more want to be told weekly, and fewer."""
_PAST, _WEEK = 30, 7
DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


class Rhythm(StrEnum):
    """How often a search is told of."""

    MORNING = "morning"
    AT_ONCE = "at-once"
    WEEKLY = "weekly"

    @property
    def words(self) -> str:
        return {Rhythm.MORNING: "each morning", Rhythm.AT_ONCE: "at once", Rhythm.WEEKLY: "weekly"}[self]


@dataclass(frozen=True)
class Times:
    """When a team's day begins: its hour, 0 to 23, in its time zone (of the IANA database)."""

    hour: int
    zone: str

    def on(self, day: date) -> datetime:
        """Return the moment on a day. Where clocks are put forward over it, it is as much later."""
        return datetime.combine(day, time(self.hour), ZoneInfo(self.zone))


@dataclass(frozen=True)
class Schedule:
    """A rhythm, for ``Rhythm.WEEKLY`` with its days of the week (1 for Monday to 7, ISO 8601)."""

    rhythm: Rhythm
    days: tuple[int, ...] = ()

    @property
    def words(self) -> str:
        """Say how often its search runs: each morning; weekly on Mon, Thu."""
        if self.rhythm is not Rhythm.WEEKLY:
            return self.rhythm.words
        return f"weekly on {', '.join(DAYS[day - 1] for day in self.days)}"

    def told_on(self, day: date) -> bool:
        """Whether it is told of in the morning of a day."""
        return self.rhythm is Rhythm.MORNING or day.isoweekday() in self.days

    def last_due(self, times: Times, at: datetime) -> datetime | None:
        """Return the latest moment, not after another, at which it is to be told of; None for weekly on no day."""
        if self.rhythm is Rhythm.AT_ONCE:
            return at
        day = at.astimezone(ZoneInfo(times.zone)).date()
        for back in range(_WEEK + 1):
            due = times.on(day - timedelta(back))
            if due <= at and self.told_on(due.date()):
                return due
        return None

    def is_due(self, times: Times, told_to: datetime, at: datetime) -> bool:
        """Whether it is to be told of now, where it was told of last at a moment."""
        if self.rhythm is Rhythm.AT_ONCE:
            return at - told_to >= AT_MOST_EVERY
        due = self.last_due(times, at)
        return due is not None and told_to < due


@dataclass(frozen=True)
class Proposal:
    """The rhythm that a search's past proposes, from how many new ones in how many days; ``is_too_wide`` says to narrow it first."""

    rhythm: Rhythm
    new: int
    days: int

    @property
    def is_too_wide(self) -> bool:
        return self.rhythm is Rhythm.WEEKLY


def proposed(new: Sequence[int]) -> Proposal:
    """Return the rhythm for a search that had so many new matches each day, the latest last; of more than thirty days the last count.

    None new in most weeks: at once. Up to five new a day: each morning. More: weekly.

    >>> proposed([0] * 30).rhythm, proposed([5] * 30).rhythm, proposed([6] * 30).rhythm
    (<Rhythm.AT_ONCE: 'at-once'>, <Rhythm.MORNING: 'morning'>, <Rhythm.WEEKLY: 'weekly'>)
    """
    past = list(new[-_PAST:])
    total = sum(past)
    weeks = [sum(past[max(end - _WEEK, 0) : end]) for end in range(len(past), 0, -_WEEK) if end >= _WEEK]
    if weeks and sum(not week for week in weeks) * 2 > len(weeks):
        return Proposal(Rhythm.AT_ONCE, total, len(past))
    return Proposal(Rhythm.WEEKLY if total > A_DAY * len(past) else Rhythm.MORNING, total, len(past))
