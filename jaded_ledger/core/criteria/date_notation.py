"""Dates as people write them, months first as US records have it: ``4/30/2014``, ``apr 2014``, ``2014``, ``last 90 days``."""

from __future__ import annotations

import calendar
import re
from dataclasses import dataclass
from datetime import date, timedelta

from jaded_ledger.core import dates
from jaded_ledger.core.criteria.bounds import Bounds, bounds_of
from jaded_ledger.core.criteria.figure_notation import NUMBER_WORDS, figure
from jaded_ledger.core.criteria.wrong_value import ValueTextError

_EXPECTED = (
    "is not a date; write one such as 4/30/2014, apr 2014, before 2020, since 2020-01-01, between 2020 and 2021, "
    "in the last 90 days, in the next 14 days, or more than 5 years ago"
)
_MONTHS = {name.casefold(): number for number, name in enumerate(calendar.month_name) if name}
_MONTHS |= {name.casefold(): number for number, name in enumerate(calendar.month_abbr) if name} | {"sept": 9}
_MONTH = "|".join(sorted(_MONTHS, key=len, reverse=True))
_UNIT = r"(days?|d|weeks?|wks?|months?|mos?|years?|yrs?|y)\.?"
_UNITS = {"d": dates.CalendarUnit.DAY, "w": dates.CalendarUnit.WEEK, "m": dates.CalendarUnit.MONTH, "y": dates.CalendarUnit.YEAR}
_LENGTH = rf"(\d{{1,5}}|an?|{'|'.join(sorted(NUMBER_WORDS))})\s*{_UNIT}"


def _form(expression: str) -> re.Pattern[str]:
    return re.compile(expression, re.IGNORECASE)


_ISO = _form(r"(\d{4})-(\d{1,2})(?:-(\d{1,2}))?")
_SLASHED = _form(r"(\d{1,2})([/.-])(\d{1,2})\2(\d{4}|\d{2})")
_MONTH_OF_YEAR = _form(r"(\d{1,2})/(\d{4})")
_MONTH_FIRST = _form(rf"({_MONTH})\.?(?:\s+(\d{{1,2}})(?:st|nd|rd|th)?,?)?,?\s+(\d{{4}})")
_DAY_FIRST = _form(rf"(\d{{1,2}})(?:st|nd|rd|th)?\s+({_MONTH})\.?,?\s+(\d{{4}})")
_YEAR = _form(r"(?:in\s+)?((?:1[6-9]|20)\d\d)")
_DECADE = _form(r"(?:in\s+)?(?:the\s+)?((?:1[6-9]|20)\d0)'?s")
_AGO = _form(rf"{_LENGTH}\s+ago")
_LAST = _form(rf"((?:with)?in\s+)?(the\s+)?(last|past|previous)\s+(?:{_LENGTH}|{_UNIT})")
_NEXT = _form(rf"(?:(?:with)?in\s+)?(?:the\s+)?(?:next|coming)\s+(?:{_LENGTH}|{_UNIT})")
_MORE_THAN_AGO = _form(rf"(?:(?:more|longer|older|greater)\s+than\s+|over\s+|above\s+|>\s*){_LENGTH}(?:\s+ago|\s+old)?")
_LESS_THAN_AGO = _form(rf"(?:less\s+than\s+|under\s+|within\s+the\s+|<\s*){_LENGTH}\s+ago")
_OR_MORE_AGO = (
    _form(rf"{_LENGTH}\s*(?:\+|or\s+more)\s+ago"),
    _form(rf"(\d{{1,5}})\s*\+\s*{_UNIT}\s+ago"),
    _form(rf"at\s+least\s+{_LENGTH}\s+ago"),
    _form(rf"{_LENGTH}\s+ago\s+or\s+(?:more|longer|earlier|before)"),
)
_A_LENGTH = _form(rf"(?:within\s+)?{_LENGTH}")
_OF_THE_CALENDAR = _form(r"(?:in\s+)?(last|this|next)\s+(year|month|week|quarter)")


@dataclass(frozen=True)
class _Period:
    """A day, a month or a year: its first and last day; or a day told from today."""

    first: dates.Moment
    last: dates.Moment


def _day(year: int, month: int, day: int) -> date:
    try:
        return date(year, month, day)
    except ValueError:
        raise ValueTextError(f"{year:04}-{month:02}-{day:02}", "names a day that is not in the calendar") from None


def _days(year: int, month: int, day: str | None) -> _Period:
    """Return a day of a month, or where none is said the whole of it."""
    if day:
        return _Period(_day(year, month, int(day)), _day(year, month, int(day)))
    first = _day(year, month, 1)
    return _Period(first, first.replace(day=calendar.monthrange(year, month)[1]))


def _slashed(match: re.Match[str]) -> _Period:
    month, day, year = int(match[1]), int(match[3]), match[4]
    if len(year) == 2:
        raise ValueTextError(match[0], f"can be of 20{year} or of 19{year}; write the year with four figures")
    if month > 12 >= day:
        raise ValueTextError(match[0], f"has no such month; the month comes first: write {day}/{month}/{year}")
    return _days(int(year), month, match[3])


def _period(text: str) -> _Period | None:
    """Return the days that a text names; None where it names none. Raises ValueTextError for one that is not in the calendar."""
    folded = text.casefold()
    if folded in ("today", "now"):
        today = dates.Ago(dates.Length(0, dates.CalendarUnit.DAY))
        return _Period(today, today)
    if folded == "yesterday":
        yesterday = dates.Ago(dates.Length(1, dates.CalendarUnit.DAY))
        return _Period(yesterday, yesterday)
    if found := _AGO.fullmatch(text):
        return _Period(dates.Ago(_length(found[1], found[2])), dates.Ago(_length(found[1], found[2])))
    if found := _ISO.fullmatch(text):
        return _days(int(found[1]), int(found[2]), found[3])
    if found := _SLASHED.fullmatch(text):
        return _slashed(found)
    if found := _MONTH_OF_YEAR.fullmatch(text):
        return _days(int(found[2]), int(found[1]), None)
    if found := _MONTH_FIRST.fullmatch(text):
        return _days(int(found[3]), _MONTHS[found[1].casefold()], found[2])
    if found := _DAY_FIRST.fullmatch(text):
        return _days(int(found[3]), _MONTHS[found[2].casefold()], found[1])
    return _years(text)


def _years(text: str) -> _Period | None:
    if found := _YEAR.fullmatch(text):
        return _Period(date(int(found[1]), 1, 1), date(int(found[1]), 12, 31))
    if found := _DECADE.fullmatch(text):
        return _Period(date(int(found[1]), 1, 1), date(int(found[1]) + 9, 12, 31))
    return None


def _length(count: str | None, unit: str) -> dates.Length:
    many = 1 if count is None or count.casefold() in ("a", "an") else int(figure(count))
    return dates.Length(many, _UNITS[unit[0].casefold()])


def _relative(text: str) -> dates.Span | None:
    """Return a span told from today by its length; None where the text is none. Raises ValueTextError for what may be two things."""
    if found := _OF_THE_CALENDAR.fullmatch(text):
        which, unit = found[1].casefold(), found[2].casefold()
        rolling = "" if which == "this" else f"in the {which} {_ROLLING[unit]}, or "
        dates_themselves = "the dates themselves, such as 2025 or since 2026"
        raise ValueTextError(text, f"can be told from today or by the calendar; write {rolling}{dates_themselves}")
    if (found := _LAST.fullmatch(text)) or (found := _LESS_THAN_AGO.fullmatch(text)):
        *_, count, unit, alone = (*found.groups(), None) if found.re is _LESS_THAN_AGO else found.groups()
        return dates.InTheLast(_length(count, unit or alone or ""))
    if found := _NEXT.fullmatch(text):
        return dates.InTheNext(_length(found[1], found[2] or found[3]))
    if found := _MORE_THAN_AGO.fullmatch(text):
        return dates.MoreThanAgo(_length(found[1], found[2]))
    for form in _OR_MORE_AGO:
        if found := form.fullmatch(text):
            return dates.Until(dates.Ago(_length(found[1], found[2])))
    if found := _A_LENGTH.fullmatch(text):
        length = _length(found[1], found[2])
        raise ValueTextError(text, f"can be in the last {length}, in the next {length} or more than {length} ago; write one of them")
    return None


_ROLLING = {"year": "12 months", "month": "30 days", "week": "7 days", "quarter": "3 months"}


def _next_day(text: str, day: date) -> date:
    try:
        return day + timedelta(days=1)
    except OverflowError:
        raise ValueTextError(text, "reaches outside the calendar") from None


def _bounded(text: str, said: Bounds) -> dates.Span:
    def period(part: str) -> _Period:
        if found := _period(part):
            return found
        raise ValueTextError(part if part in text else text, _EXPECTED)

    first = period(said.low).first if said.low else None
    if said.above:
        last = period(said.above).last
        if isinstance(last, dates.Ago):
            raise ValueTextError(text, f"leaves out the day itself, which can't be told from today; write since {last}")
        first = _next_day(text, last)
    if first is not None and (said.high or said.below):
        final = period(said.high).last if said.high else period(said.below).first
        if said.below:
            if isinstance(final, dates.Ago):
                raise ValueTextError(text, f"leaves out the day itself, which can't be told from today; write between {first} and {final}")
            final -= timedelta(days=1)
        if isinstance(first, date) and isinstance(final, date) and first > final:
            raise ValueTextError(text, "runs backwards; write the earlier day first")
        return dates.BetweenDays(first, final)
    if first is not None:
        return dates.Since(first)
    if said.below:
        return dates.Before(period(said.below).first)
    last = period(said.high).last
    return dates.Until(last) if isinstance(last, dates.Ago) else dates.Before(_next_day(text, last))


def _read(text: str) -> dates.Span:
    if span := _relative(text):
        return span
    period = _period(text)
    said = Bounds(value=text) if period else bounds_of(text)
    if said.value:
        period = period or _period(said.value)
        if period is None:
            raise ValueTextError(text, _EXPECTED)
        return dates.On(period.first) if period.first == period.last else dates.BetweenDays(period.first, period.last)
    if not (said.low or said.above or said.high or said.below):
        raise ValueTextError(text, "has no end; write one such as 2014.. or ..2018")
    return _bounded(text, said)


def span(text: str) -> dates.Span:
    """Return what a text asks of a date. Raises ValueTextError.

    >>> str(span("apr 2014")), str(span("after 2014")), str(span("last 90 days"))
    ('between 2014-04-01 and 2014-04-30', 'since 2015-01-01', 'in the last 90 days')
    """
    text = " ".join(text.split())
    found = _read(text)
    try:
        found.resolve(date(2026, 1, 1))
    except OverflowError as error:
        raise ValueTextError(text, "reaches outside the calendar") from error
    return found
