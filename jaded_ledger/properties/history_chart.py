"""Debt and value over the years, as a picture above the statement."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.ledger import dated_values, debt_on, movements, value_on

WIDTH, HEIGHT = 780, 96
_LEFT, _RIGHT, _TOP, _FLOOR = 14, 74, 10, 78
_DAY = timedelta(days=1)
_LABELS_APART = 12


@dataclass(frozen=True)
class ChartMark:
    """A word or a tick at a place of the picture, in pixels."""

    x: float
    y: float
    text: str


@dataclass(frozen=True)
class HistoryChart:
    """The picture, in pixels of its own box. Paths are blank where nothing is known."""

    value: str
    debt: str
    debt_area: str
    years: tuple[ChartMark, ...]
    ends: tuple[ChartMark, ...]
    says: str
    floor: int = _FLOOR
    width: int = WIDTH
    height: int = HEIGHT


@dataclass(frozen=True)
class _Scale:
    first: date
    last: date
    most: Decimal

    def at(self, day: date, amount: Decimal) -> tuple[float, float]:
        along = (day - self.first).days / max((self.last - self.first).days, 1)
        height = float(amount / self.most) if self.most else 0.0
        return (round(_LEFT + along * (WIDTH - _LEFT - _RIGHT), 1), round(_FLOOR - height * (_FLOOR - _TOP), 1))

    def path(self, points: Iterable[tuple[date, Decimal]]) -> str:
        pixels = " L".join(f"{x:g} {y:g}" for x, y in (self.at(day, amount) for day, amount in points))
        return f"M{pixels}" if pixels else ""


def _debt_points(found: Findings, first: date) -> list[tuple[date, Decimal]]:
    """Return the debt on each day on which it jumps, the day before, and each new year; the days on which it is unknown left out."""
    turns = {movement.on for movement in movements(found)}
    years = {date(year, 1, 1) for year in range(first.year + 1, found.today.year + 1)}
    days = sorted(day for day in turns | {day - _DAY for day in turns} | years | {first, found.today} if first <= day <= found.today)
    return [(day, owed) for day in days if (owed := debt_on(found, day)) is not None]


def history_chart_of(found: Findings) -> HistoryChart | None:
    """Draw debt and value from the first that is known to today; None where neither is."""
    known = dated_values(found)
    begun = [*(one.on for one in known), *(movement.on for movement in movements(found))]
    if not begun or min(begun) >= found.today:
        return None
    first = min(begun)
    debt = _debt_points(found, first)
    most = max([*(one.value for one in known), *(amount for _, amount in debt)], default=Decimal(0))
    scale = _Scale(first, found.today, most)
    path = scale.path(debt)
    area = f"{path} L{scale.at(debt[-1][0], Decimal(0))[0]:g} {_FLOOR} L{scale.at(debt[0][0], Decimal(0))[0]:g} {_FLOOR}Z" if debt else ""
    value_now, debt_now = value_on(known, found.today), debt_on(found, found.today)
    says = f"Value and debt from {first.year} to {found.today.year}: today {_amount_text(value_now)} and {_amount_text(debt_now)}"
    return HistoryChart(
        scale.path((one.on, one.value) for one in known), path, area, _years(scale), _ends(scale, value_now, debt_now), says
    )


def _amount_text(amount: Decimal | None) -> str:
    return "not known" if amount is None else f"${amount:,.0f}"


def _years(scale: _Scale) -> tuple[ChartMark, ...]:
    span = scale.last.year - scale.first.year
    step = next((step for step in (1, 2, 5, 10, 20) if span / step <= 8), 50)
    years = range(scale.first.year + -scale.first.year % step, scale.last.year + 1, step)
    days = [date(year, 1, 1) for year in years if scale.first <= date(year, 1, 1)]
    return tuple(ChartMark(scale.at(day, Decimal(0))[0], HEIGHT - 5, str(day.year)) for day in days)


def _ends(scale: _Scale, value: Decimal | None, debt: Decimal | None) -> tuple[ChartMark, ...]:
    """Name both lines at their right end, the words kept apart."""
    found: list[ChartMark] = []
    for word, amount in (("value", value), ("debt", debt)):
        if amount is not None:
            x, y = scale.at(scale.last, amount)
            found.append(ChartMark(x + 6, min(max(y + 4, _TOP + 4), _FLOOR + 1), word))
    return tuple(_apart(found))


def _apart(marks: Sequence[ChartMark]) -> list[ChartMark]:
    if len(marks) < 2 or abs(marks[0].y - marks[1].y) >= _LABELS_APART:
        return list(marks)
    upper, lower = sorted(marks, key=lambda mark: mark.y)
    return [ChartMark(upper.x, max(lower.y - _LABELS_APART, _TOP), upper.text), lower]
