"""What is typed for a value, by the kind of its trait, and its one canonical spelling."""

from __future__ import annotations

import difflib
import re
from datetime import date
from decimal import Decimal
from functools import cache
from pathlib import Path
from typing import Any

from lark import Lark, Transformer
from lark.exceptions import LarkError

from jaded_ledger.core import dates
from jaded_ledger.core.criteria.search import Exactly, FigureRange, Match, Members, Named, Numbers, Presence, Quantity, Value
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.phrases import check_phrase

GRAMMAR = (Path(__file__).parent / "grammar.lark").read_text()
_FIGURE = re.compile(r"(-)?\$?(\d{1,3}(?:,\d{3})+|\d+)?(\.\d+)?\s*([km])?\s*%?", re.IGNORECASE)
_SCALE = {"": 1, "k": 1_000, "m": 1_000_000}
_COUNTY_FIRST = re.compile(r"([^\W\d][\w .'-]*)/(.+)")
_PLAIN = re.compile(r"[^\W_][\w.'&/#()-]*(?: [\w.'&/#()-]+)*")
_PRESENCE = {"none": Presence(is_there=False), "any": Presence(is_there=True)}
_SHOWN = 60
_KEYWORDS = re.compile(r"(?i)(not|ask|or unknown|unknown|any of|all of|none of)\b")


class ValueTextError(ValueError):
    """A value that can't be read: the word at fault, and what would be accepted."""

    def __init__(self, word: str, expected: str) -> None:
        super().__init__(f'"{word}" {expected}')
        self.word = word


def figure(text: str) -> Decimal:
    """Return a figure: ``250k``, ``1.2m``, ``$1,284,500``, ``60 %``. Raises ValueTextError.

    >>> figure("1.2m"), figure("$1,284,500"), figure("250k")
    (Decimal('1200000'), Decimal('1284500'), Decimal('250000'))
    """
    match = _FIGURE.fullmatch(text.strip())
    if not match or not (match[2] or match[3]):
        raise ValueTextError(text.strip(), "is not a figure; write one such as 3, 250k, 1.2m or $1,284,500")
    number = Decimal((match[2] or "0").replace(",", "") + (match[3] or "")) * _SCALE[(match[4] or "").casefold()]
    if number >= 10**15:
        raise ValueTextError(text.strip(), "is larger than any figure on record")
    number = -number if match[1] and number else number
    return number.quantize(Decimal(1)) if number == number.to_integral_value() else number.normalize()


def figure_text(number: Decimal) -> str:
    """Return a figure in plain digits."""
    return f"{number:f}"


def _range(text: str) -> Value:
    low, dots, high = text.partition("..")
    if not dots:
        return Exactly(figure(text))
    if not low.strip() and not high.strip():
        raise ValueTextError(text, "has no end; write one such as 60.. or ..80")
    ends = FigureRange(figure(low) if low.strip() else None, figure(high) if high.strip() else None)
    if ends.low is not None and ends.high is not None and ends.low > ends.high:
        raise ValueTextError(text, "runs backwards; write the smaller figure first")
    return ends


class _Spans(Transformer[Any, dates.Span]):
    """The tree of a span of days to the span."""

    def iso(self, children: list[Any]) -> date:
        return date.fromisoformat(children[0])

    def today(self, _children: list[Any]) -> dates.Ago:
        return dates.Ago(dates.Length(0, dates.Unit.DAY))

    def ago(self, children: list[Any]) -> dates.Ago:
        return dates.Ago(children[0])

    def length(self, children: list[Any]) -> dates.Length:
        return dates.Length(int(children[0]), dates.Unit(children[1].casefold().removesuffix("s")))

    def on(self, children: list[Any]) -> dates.Span:
        return dates.On(children[0])

    def before(self, children: list[Any]) -> dates.Span:
        return dates.Before(children[0])

    def since(self, children: list[Any]) -> dates.Span:
        return dates.Since(children[0])

    def between(self, children: list[Any]) -> dates.Span:
        return dates.BetweenDays(*children)

    def in_the_last(self, children: list[Any]) -> dates.Span:
        return dates.InTheLast(children[0])

    def in_the_next(self, children: list[Any]) -> dates.Span:
        return dates.InTheNext(children[0])

    def more_than_ago(self, children: list[Any]) -> dates.Span:
        return dates.MoreThanAgo(children[0])


@cache
def _span_parser() -> Lark:
    return Lark(GRAMMAR, start="span", parser="lalr", transformer=_Spans())


def _span(text: str) -> dates.Span:
    expected = (
        "is not a date; write one such as 2026-11-24, before 2020-01-01, since 2020-01-01, between 2020-01-01 and "
        "2021-12-31, in the last 90 days, in the next 14 days, or more than 5 years ago"
    )
    try:
        span: dates.Span = _span_parser().parse(text)  # type: ignore[assignment]
        span.resolve(date(2026, 1, 1))
    except LarkError as error:
        raise ValueTextError(text, expected) from error
    except OverflowError as error:
        raise ValueTextError(text, "reaches outside the calendar") from error
    except ValueError as error:
        raise ValueTextError(text, "names a day that is not in the calendar") from error
    match span:
        case dates.BetweenDays(date() as first, date() as last) if first > last:
            raise ValueTextError(text, "runs backwards; write the earlier day first")
    return span


def _choice(trait: Trait, text: str) -> Exactly:
    if found := trait.choice(text):
        return Exactly(found.key)
    keys = [choice.key for choice in trait.choices]
    names = [name for choice in trait.choices for name in (choice.key, *choice.synonyms)]
    nearest = next((trait.choice(near) for near in difflib.get_close_matches(text.casefold(), names, n=1)), None)
    hint = f"did you mean {nearest.key}? It" if nearest else "it"
    raise ValueTextError(text, f"is not a known {trait.label}; {hint} can be {', '.join(keys)}")


def _flag(text: str) -> Exactly:
    word = text.casefold()
    if word not in ("yes", "no"):
        raise ValueTextError(text, "is neither yes nor no")
    return Exactly(word == "yes")


def numbers(text: str) -> Numbers:
    """Return a parcel-number pattern with its separators made one kind. Raises ValueTextError.

    >>> numbers("Tamarack/12 034.7..9")
    Numbers(pattern='12-034-7..9', county='tamarack')
    """
    county = ""
    if match := _COUNTY_FIRST.fullmatch(text.strip()):
        county, text = "-".join(match[1].casefold().split()), match[2]
    pattern = re.sub(r"(?<!\.)\.(?!\.)|[\s/_]+", "-", text.strip().upper())
    pattern = re.sub(r"-{2,}", "-", pattern).strip("-")
    if not re.fullmatch(r"[A-Z0-9](?:[A-Z0-9-]|\||\.\.(?=[A-Z0-9]))*\*?", pattern) or pattern.count("..") > pattern.count("|") + 1:
        raise ValueTextError(text, "is not a parcel number or pattern such as 12-034-007, 12-034-* or 12-034-7..9")
    return Numbers(pattern, county)


def plain_value(trait: Trait, text: str) -> Value:
    """Return what an unquoted text means for a trait. Raises ValueTextError."""
    text = " ".join(text.split())
    if text.casefold() in _PRESENCE and trait.takes_any and (found := _presence(trait, text)):
        return found
    match trait.kind:
        case Kind.NUMBER | Kind.MONEY | Kind.PERCENT:
            return _range(text)
        case Kind.DATE:
            return _span(text)
        case Kind.CHOICE:
            return _choice(trait, text)
        case Kind.FLAG:
            return _flag(text)
        case Kind.PLACE:
            return Exactly(text)
        case Kind.PARCEL_NUMBER:
            return numbers(text)
        case Kind.NAME:
            return Named(text)
    return Members(Quantity.ANY, (member(trait, text),))


def _presence(trait: Trait, text: str) -> Value | None:
    """Return what any or none means for a trait; None where the word is a value of its own. Raises ValueTextError."""
    is_there = text.casefold() == "any"
    if trait.zero_is_none and not trait.event:
        least = Decimal(1).scaleb(-trait.decimals)
        return FigureRange(least, None) if is_there else Exactly(Decimal(0))
    if trait.has_none or is_there:
        return Presence(is_there)
    if trait.nothing:
        return Exactly(trait.nothing.key)
    raise ValueTextError(text, f"can't be told of {trait.label}; ask for unknown where it is not known")


def member(trait: Trait, text: str) -> str:
    """Return a phrase, or a member of a set by its key. Raises ValueTextError for what can't be looked for, or is none of the set's."""
    if trait.kind is Kind.PHRASES:
        try:
            check_phrase(text)
        except ValueError as error:
            raise ValueTextError(text if len(text) <= _SHOWN else f"{text[:_SHOWN]}…", str(error)) from error
    return str(_choice(trait, text).value) if trait.choices else text


def quoted_value(trait: Trait, text: str, match: Match) -> Value:
    """Return what a quoted text means for a trait. Raises ValueTextError."""
    if trait.kind is Kind.NAME:
        if not text.strip():
            raise ValueTextError('""', "is empty; write at least one word")
        return Named(text, match)
    if match is not Match.WORDS:
        raise ValueTextError(text, f"can't be exact or a beginning: {trait.label} is not a name as recorded")
    if trait.kind is Kind.PLACE:
        return Exactly(text)
    if trait.kind in (Kind.PHRASES, Kind.SET):
        return Members(Quantity.ANY, (member(trait, text),))
    return plain_value(trait, text)


def quote(text: str) -> str:
    """Return a text in quotes, as the text form has it."""
    escaped = " ".join(text.splitlines()).replace("\\", "\\\\").replace('"', '\\"')
    return f'"{escaped}"'


def unquote(token: str) -> str:
    """Return what stands in quotes."""
    return re.sub(r"\\(.)", r"\1", token[1:-1])


def _plain_or_quoted(text: str) -> str:
    return text if _PLAIN.fullmatch(text) and not _KEYWORDS.match(text) else quote(text)


def value_text(value: Value) -> str:
    """Return a value's canonical spelling."""
    match value:
        case Presence(is_there):
            return "any" if is_there else "none"
        case Exactly(bool() as flag):
            return "yes" if flag else "no"
        case Exactly(Decimal() as number):
            return figure_text(number)
        case Exactly(str() as name):
            return _plain_or_quoted(name)
        case FigureRange(low, high):
            ends = (figure_text(low) if low is not None else "", figure_text(high) if high is not None else "")
            return "..".join(ends)
        case Named(text, how):
            return {Match.EXACT: "= ", Match.WORDS: "", Match.BEGINNING: ""}[how] + quote(text) + ("*" if how is Match.BEGINNING else "")
        case Numbers(pattern, county):
            return f"{county}/{pattern}" if county else pattern
        case Members(quantity, items):
            where = f" in {', '.join(value.within)}" if value.within else ""
            return f"{quantity} {', '.join(quote(item) for item in items)}{where}"
    return str(value)
