"""Amounts and periods in words, as patterns over tokens, and as the notation that a criterion takes."""

from __future__ import annotations

import calendar
import re
from collections.abc import Sequence
from datetime import date, timedelta

from jaded_ledger.core.criteria.language.tokens import Token

_OVER = (
    "over|more than|more then|above|greater than|bigger than|larger than|higher than|longer than|upwards of|north of|exceeding|"
    "in excess of|better than|beyond|>"
)
_UNDER = "under|less than|less then|below|fewer than|smaller than|lower than|shorter than|south of|cheaper than|beneath|<"
_LEAST = "at least|no less than|not less than|no fewer than|not under|not below|a minimum of|minimum of|minimum|min|starting at|>="
_MOST = "at most|no more than|not more than|up to|a maximum of|maximum of|maximum|max|not over|not above|<="
_EXACT = "exactly|just|only|precisely|="
_OR_MORE = (
    "or more|or better|or bigger|or larger|or over|or above|or higher|or greater|or longer|or newer|or up|and up|and over|and above|"
    "or wider|or deeper|plus|\\+|minimum|min"
)
_OR_LESS = "or less|or fewer|or under|or below|or smaller|or lower|or shorter|or cheaper|and under|and less|maximum|max|or older"

NUMBER = r"#[yz]?"
_BEFORE = "|".join((_OVER, _UNDER, _LEAST, _MOST, _EXACT))
AFTER = f"(?:{_OR_MORE}|{_OR_LESS})"
AMOUNT = (
    rf"(?:between {NUMBER} (?:and|to|-) {NUMBER}|(?:from )?{NUMBER} (?:to|-|through) {NUMBER}|{NUMBER} or {NUMBER}(?! or)"
    rf"|(?:(?:{_BEFORE}) )?{NUMBER}(?: {AFTER})?)"
)
"""An amount: a figure, a range, or a figure with a comparator before or after it."""

_MONTHS = {name.casefold(): place for place, name in enumerate(calendar.month_name) if name}
_MONTHS |= {name.casefold(): place for place, name in enumerate(calendar.month_abbr) if name} | {"sept": 9}
_MONTH = "|".join(sorted(_MONTHS, key=len, reverse=True))
_SEASONS = {"spring": (3, 5), "summer": (6, 8), "fall": (9, 11), "autumn": (9, 11)}
_UNIT = "(?<!@)day|week|month|year|quarter"
_LENGTH = rf"(?:(?:{NUMBER}|a|an|couple|couple of|a couple of) )?(?:{_UNIT})"
_POINT = (
    rf"(?:@day|(?:{_MONTH})(?: #(?:st|nd|rd|th)?)?(?: ,)?(?: #y)?|(?:{'|'.join(_SEASONS)})(?: of)? #y|(?:the )?#d|#y"
    "|last year|this year)"
)
PERIOD = (
    rf"(?:(?:(?:with)?in |over |during |for |from )?(?:the )?(?:last|past|previous) {_LENGTH}"
    rf"|(?:with)?in (?:the )?(?:next|coming) {_LENGTH}|(?:next|coming) {_LENGTH}|within {_LENGTH}"
    rf"|(?:over|more than|longer than|at least|older than) {_LENGTH}(?: ago)?"
    rf"|{_LENGTH} (?:or more )?ago(?: or more)?|less than {_LENGTH} ago"
    rf"|between {_POINT} and {_POINT}|(?:from )?{_POINT} (?:to|-|through) {_POINT}"
    rf"|(?:since|after|before|prior to|until|by|pre|post|since before|on or after|on or before) (?:- )?{_POINT}"
    rf"|{_POINT} or (?:earlier|before|later|after)"
    rf"|(?:in |on |during |of )?(?:the )?(?:early |late |mid )?{_POINT}(?: or {_POINT})?"
    r"|(?:in )?(?:this|last|next) (?:year|month|week|quarter))"
)
"""A period: behind, ahead, or between days of the calendar."""


def _plain(number: Token) -> str:
    assert number.number is not None
    value = number.number
    sign = "$" if number.is_money else ""
    return sign + (f"{value.normalize():f}" if value != value.to_integral_value() else f"{value:.0f}")


def amount_text(tokens: Sequence[Token]) -> tuple[str, bool]:
    """Return an amount in the notation of criteria, and whether it is bare: a figure without a comparator."""
    text = " ".join(token.text for token in tokens)
    figures = [_plain(token) for token in tokens if token.number is not None]
    if len(figures) == 2:
        return (f"{figures[0]}, {figures[1]}", False) if " or " in text else (f"{figures[0]}..{figures[1]}", False)
    (figure,) = figures

    def begins(words: str) -> bool:
        return re.match(rf"(?:{words}) #", text) is not None

    def ends(words: str) -> bool:
        return re.search(rf"# ?[yz]? (?:{words})$|#[yz]? (?:{words})$", text) is not None

    if begins(_LEAST) or ends(_OR_MORE):
        return f"{figure}..", False
    if begins(_MOST) or ends(_OR_LESS):
        return f"..{figure}", False
    if begins(_OVER):
        return f"over {figure}", False
    if begins(_UNDER):
        return f"under {figure}", False
    return figure, not begins(_EXACT)


_SAY_NOTHING = frozenset("in on of the during early late mid from between -".split())
_LONG = {"day": "days", "week": "weeks", "month": "months", "year": "years", "quarter": "months"}


def _length(text: str, numbers: Sequence[Token]) -> str | None:
    """Return a length of time: ``3 months``."""
    found = re.search(rf"(?:({NUMBER}|a|an|couple)(?: of)? )?({_UNIT})\b", text)
    if not found:
        return None
    unit = found[2].rstrip("s")
    count = 1
    if found[1] and found[1].startswith("#"):
        count = int(numbers[0].number or 1)
        if numbers[0].number != count:
            return f"{int((numbers[0].number or 1) * 12)} months" if unit == "year" else None
    elif found[1] == "couple":
        count = 2
    if unit == "quarter":
        count *= 3
    return f"{count} {_LONG[unit] if count != 1 else _LONG[unit].rstrip('s')}"


def _days_of(tokens: Sequence[Token], today: date, *, ahead: bool, sentence: str) -> tuple[date, date] | None:
    """Return the first and last day that a point of the calendar names."""
    text = " ".join(token.text for token in tokens)
    numbers = [token for token in tokens if token.number is not None]
    if text == "this year":
        return date(today.year, 1, 1), date(today.year, 12, 31)
    if text == "last year":
        return date(today.year - 1, 1, 1), date(today.year - 1, 12, 31)
    if tokens[0].text == "@day":
        written = sentence[tokens[0].start : tokens[0].end]
        try:
            if "/" in written:
                month, day, year = map(int, written.split("/"))
                found = date(year, month, day)
            else:
                found = date.fromisoformat(written)
        except ValueError:
            return None
        return found, found
    if match := re.match(rf"({_MONTH})\b", text):
        return _of_month(_MONTHS[match[1]], numbers, today, ahead=ahead)
    for season, (first, final) in _SEASONS.items():
        if text.startswith(season):
            year = int(numbers[0].number or 0)
            return date(year, first, 1), date(year, final, calendar.monthrange(year, final)[1])
    if any(token.text == "#d" for token in numbers):
        year = int(next(token.number or 0 for token in numbers if token.text == "#d"))
        return date(year, 1, 1), date(year + 9, 12, 31)
    if numbers and numbers[0].text == "#y":
        year = int(numbers[0].number or 0)
        return date(year, 1, 1), date(year, 12, 31)
    return None


def _of_month(month: int, numbers: Sequence[Token], today: date, *, ahead: bool) -> tuple[date, date] | None:
    """Return a month, or a day of it; without a year the one that is nearest, behind or ahead."""
    year = next((int(token.number or 0) for token in numbers if token.text == "#y"), None)
    day = next((int(token.number or 0) for token in numbers if token.text != "#y"), None)
    if year is None:
        is_other_year = month < today.month if ahead else month > today.month
        year = today.year + (1 if ahead else -1) * is_other_year
    last = calendar.monthrange(year, month)[1]
    if day is None:
        return date(year, month, 1), date(year, month, last)
    return (date(year, month, day), date(year, month, day)) if 1 <= day <= last else None


def _point_text(days: tuple[date, date]) -> str:
    first, last = days
    if (first.month, first.day, last.month, last.day) == (1, 1, 12, 31) and first.year == last.year:
        return str(first.year)
    return f"between {first} and {last}" if first != last else str(first)


def period_text(tokens: Sequence[Token], today: date, sentence: str, *, ahead: bool = False) -> str | None:
    """Return a period in the notation of criteria; None where it names no day of the calendar."""
    text = " ".join(token.text for token in tokens)
    numbers = [token for token in tokens if token.number is not None]
    if re.fullmatch(r"(?:in )?(?:this|last|next) (?:year|month|week|quarter)", text):
        return _of_the_calendar(text, today)
    if re.search(rf"\b(?:last|past|previous)\b.* (?:{_UNIT})$|\b(?:last|past|previous) (?:{_UNIT})$", text):
        length = _length(text, numbers)
        return f"in the last {length}" if length else None
    if re.search(rf"\b(?:next|coming) .*(?:{_UNIT})$", text):
        length = _length(text, numbers)
        return f"in the next {length}" if length else None
    if re.match(rf"within .*(?:{_UNIT})$", text) and (length := _length(text, numbers)):
        return f"in the {'next' if ahead else 'last'} {length}"
    if re.match(rf"less than .*(?:{_UNIT}) ago$", text) and (length := _length(text, numbers)):
        return f"in the last {length}"
    if re.search(rf"(?:{_UNIT})(?: or more)?(?: ago)?(?: or more)?$", text) and (length := _length(text, numbers)):
        if re.search(r"or more|at least", text):
            return f"at least {length} ago"
        return f"more than {length} ago" if re.match(r"over|more than|longer than|older than", text) else None
    return _between(tokens, text, today, sentence, ahead=ahead)


def _of_the_calendar(text: str, today: date) -> str | None:
    which, unit = text.split()[-2:]
    monday = today - timedelta(days=today.weekday())
    match which, unit:
        case "this", "year":
            return f"since {today.year}-01-01"
        case "last", "year":
            return str(today.year - 1)
        case "next", "year":
            return str(today.year + 1)
        case "this", "week":
            return f"since {monday}"
        case "last", "week":
            return f"between {monday - timedelta(days=7)} and {monday - timedelta(days=1)}"
        case "next", "week":
            return f"between {monday + timedelta(days=7)} and {monday + timedelta(days=13)}"
        case _, "month":
            shift = {"this": 0, "last": -1, "next": 1}[which]
            year, month = divmod(today.year * 12 + today.month - 1 + shift, 12)
            return f"between {date(year, month + 1, 1)} and {date(year, month + 1, calendar.monthrange(year, month + 1)[1])}"
        case _, "quarter":
            shift = {"this": 0, "last": -1, "next": 1}[which]
            year, quarter = divmod(today.year * 4 + (today.month - 1) // 3 + shift, 4)
            first = date(year, 3 * quarter + 1, 1)
            return f"between {first} and {date(year, 3 * quarter + 3, calendar.monthrange(year, 3 * quarter + 3)[1])}"
    return None


def _between(tokens: Sequence[Token], text: str, today: date, sentence: str, *, ahead: bool) -> str | None:
    def days(part: Sequence[Token]) -> tuple[date, date] | None:
        kept = [token for token in part if token.text not in _SAY_NOTHING]
        return _days_of(kept, today, ahead=ahead, sentence=sentence) if kept else None

    if match := re.match(r"(since before|on or after|on or before|prior to|since|after|before|until|by|pre|post)\b", text):
        skipped = len(match[1].split())
        found = days(tokens[skipped:])
        if found is None:
            return None
        match match[1]:
            case "since" | "on or after":
                return f"since {found[0]}"
            case "after" | "post":
                return f"since {found[1] + timedelta(days=1)}"
            case "until" | "by" | "on or before":
                return f"before {found[1] + timedelta(days=1)}"
        return f"before {found[0]}"
    if match := re.search(r" or (earlier|before|later|after)$", text):
        found = days(tokens[:-2])
        if found is None:
            return None
        return f"before {found[1] + timedelta(days=1)}" if match[1] in ("earlier", "before") else f"since {found[0]}"
    for word in ("and", "to", "through", "-", "or"):
        places = [place for place, token in enumerate(tokens) if token.text == word]
        if places and 0 < places[0] < len(tokens) - 1:
            first, last = days(tokens[: places[0]]), days(tokens[places[0] + 1 :])
            if first and last:
                if word == "or":
                    return f"{_point_text(first)}, {_point_text(last)}"
                return f"between {first[0]} and {last[1]}" if first[0] <= last[1] else None
    found = days(tokens)
    return _point_text(found) if found else None
