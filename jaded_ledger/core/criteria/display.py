"""How a trait's value is shown, and how a criterion reads as a sentence."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

from jaded_ledger.core import dates
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.figure_notation import step_of
from jaded_ledger.core.criteria.ring_notation import ring_words
from jaded_ledger.core.criteria.search import (
    AnyOf,
    Criterion,
    Exactly,
    FigureRange,
    Line,
    Match,
    Members,
    Named,
    Numbers,
    Presence,
    Ring,
    Value,
)
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.values import value_text
from jaded_ledger.core.letter_case import in_reading_case

UNKNOWN = "·"
"""What stands for a value that is not known."""

NONE = "none"
"""What stands for something of which it is known that there is none."""

Shown = tuple[str, ...] | str | int | float | Decimal | bool | date | None


def day_text(day: date) -> str:
    """Return a date as 24 Nov 2026."""
    return f"{day.day} {day:%b %Y}"


def age_text(day: date, today: date) -> str:
    """Return how long ago a day is, in full years and months; within a month in days.

    >>> [age_text(date(*day), date(2026, 11, 24)) for day in ((2021, 9, 24), (2025, 11, 24), (2026, 10, 25), (2026, 11, 24))]
    ['5 y 2 m', '1 y', '30 d', 'today']
    """
    years, months = divmod((today.year - day.year) * 12 + today.month - day.month - (today.day < day.day), 12)
    if years < 0:
        return f"in {(day - today).days:,} d"
    parts = [f"{count} {unit}" for count, unit in ((years, "y"), (months, "m")) if count]
    return " ".join(parts) or (f"{(today - day).days} d" if day < today else "today")


def money_text(amount: Decimal) -> str:
    """Return dollars as $1,284,500, with cents where there are any."""
    return f"${amount:,.2f}".removesuffix(".00")


def figure_shown(trait: Trait, number: int | float | Decimal) -> str:
    """Return a figure with its thousands commas, dollar sign or percent sign."""
    if not trait.grouped:
        return str(number)
    places = trait.decimals if isinstance(number, float) or number != int(number) else 0
    text = f"{number:,.{places}f}"
    if trait.kind is not Kind.MONEY and "." in text:
        text = text.rstrip("0").rstrip(".")
    if trait.kind is Kind.MONEY:
        return f"−${text[1:]}" if text.startswith("-") else f"${text}"
    text = text.replace("-", "−")
    return f"{text} %" if trait.kind is Kind.PERCENT else text


def shown(trait: Trait, value: Shown) -> str:
    """Return a value as the table shows it."""
    if value is None:
        return UNKNOWN
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, date):
        return day_text(value)
    if isinstance(value, tuple):
        return ", ".join(value) or NONE
    if isinstance(value, str):
        return in_reading_case(value) if trait.kind is Kind.NAME and value != NONE else value
    return figure_shown(trait, value)


def _moment_words(moment: dates.Moment) -> str:
    return day_text(moment) if isinstance(moment, date) else str(moment)


def _bound_words(trait: Trait, low: Decimal | None, high: Decimal | None) -> str | None:
    """Return an open end as it was said where the figure next to it is the rounder one: ``under $300,000`` for up to 299,999."""
    step = step_of(trait)
    round_to = Decimal(1) if trait.decimals else Decimal(1000)

    def is_rounder(other: Decimal, end: Decimal) -> bool:
        return other % round_to == 0 != end % round_to

    if high is not None and low is None and is_rounder(high + step, high):
        return f"under {figure_shown(trait, high + step)}"
    if low is not None and high is None and is_rounder(low - step, low):
        return f"over {figure_shown(trait, low - step)}"
    return None


def _period_words(first: dates.Moment, last: dates.Moment) -> str:
    """Return two days as the year or the month that they are the ends of, where they are."""
    if isinstance(first, date) and isinstance(last, date) and first.day == 1 and last.month in (12, first.month) and first <= last:
        if (first.month, last.month, last.day) == (1, 12, 31):
            return f"in {first.year}" if first.year == last.year else f"in {first.year} to {last.year}"
        if (first.year, first.month) == (last.year, last.month) and (last + timedelta(days=1)).day == 1:
            return f"in {first:%b %Y}"
    return f"between {_moment_words(first)} and {_moment_words(last)}"


def _figure_words(trait: Trait, value: Exactly | FigureRange) -> str:
    match value:
        case Exactly(Decimal() as number):
            return figure_shown(trait, number)
        case FigureRange(Decimal() as low, Decimal() as high):
            return f"{figure_shown(trait, low)} to {figure_shown(trait, high)}"
        case FigureRange(low, high) if said := _bound_words(trait, low, high):
            return said
        case FigureRange(Decimal() as low, None):
            return f"{figure_shown(trait, low)} or more"
        case FigureRange(None, Decimal() as high):
            return f"{figure_shown(trait, high)} or less"
    return value_text(value)


def _span_words(span: dates.Span) -> str:
    match span:
        case dates.On(day):
            return f"on {_moment_words(day)}"
        case dates.Before(day):
            return f"before {_moment_words(day)}"
        case dates.Until(day):
            return f"{_moment_words(day)} or earlier"
        case dates.Since(day):
            return f"since {_moment_words(day)}"
        case dates.BetweenDays(first, last):
            return _period_words(first, last)
    return str(span)


def value_words(trait: Trait, value: Value) -> str:
    """Return a value as a reader says it: ``60 % or more``, ``before 1 Jan 2020``."""
    match value:
        case Presence(is_there):
            return "any" if is_there else NONE
        case Exactly(str() as name):
            return name
        case Exactly(bool()):
            return value_text(value)
        case Exactly() | FigureRange():
            return _figure_words(trait, value)
        case Named(text, Match.EXACT):
            return in_reading_case(text)
        case Named(text, Match.BEGINNING):
            return f"beginning “{text}”"
        case Named(text):
            return f"with “{text}”"
        case Members(quantity, items):
            where = f" in the {' and '.join(value.within)} remarks" if value.within else ""
            of = "" if len(items) == 1 else f"{quantity} "
            return f"{of}{', '.join(f'“{item}”' for item in items)}{where}"
        case Numbers():
            return value_text(value)
        case Ring():
            return ring_words(value)
    return _span_words(value)


def value_phrase(criterion: Criterion, *, most: int = 4) -> str:
    """Return what a criterion asks, without its trait, as a short phrase."""
    trait = CATALOGUE[criterion.trait]

    def listed(values: tuple[Value, ...]) -> str:
        words = [value_words(trait, value) for value in values]
        return ", ".join(words) if len(words) <= most else f"{', '.join(words[: most - 1])} and {len(words) - most + 1} more"

    parts = []
    if criterion.accepts:
        parts.append(listed(criterion.accepts))
    if criterion.refuses:
        parts.append(f"{'but ' if parts else ''}not {listed(criterion.refuses)}")
    if criterion.unknown:
        parts.append("or not known" if parts else "not known")
    return ", ".join(parts) or "to be asked"


def line_phrase(line: Line) -> str:
    r"""Return a line as its sentence.

    >>> from jaded_ledger.core.criteria.text import parse
    >>> [line_phrase(line) for line in parse("beds: 3..\nany of:\n  pool: yes\n  units: 2").lines]
    ['beds 3 or more', 'any of pool yes or units 2']
    """
    sentence = " or ".join(f"{CATALOGUE[one.trait].label} {value_phrase(one)}" for one in line.members())
    return f"any of {sentence}" if isinstance(line, AnyOf) else sentence
