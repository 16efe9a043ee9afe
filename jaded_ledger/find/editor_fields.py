"""What an editor's fields mean: a criterion's line. Typed, ticked, pasted or brushed, the same criterion has the same text."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

from django.http import QueryDict

from jaded_ledger.core.criteria.figure_notation import is_figure
from jaded_ledger.core.criteria.search import AnyOf, Center, Criterion, DistanceUnit, Exactly, Line, Match, Quantity
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse, parse_line
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.values import quote, value_text

LONGEST_LINE = 300
"""How many characters a typed or pasted line may have: twice the longest address or phrase on record."""
MOST_LINES = 1_000


def typed_lines(text: str, most: int = MOST_LINES) -> list[str]:
    """Return what stands in a field of several lines, each once. Raises CriteriaError for a line, or a number of lines, too long."""
    lines: dict[str, None] = {}
    for number, raw in enumerate(text.splitlines(), start=1):
        if line := raw.strip():
            if len(line) > LONGEST_LINE:
                raise CriteriaError(
                    f"“{line[:30]}…” has {len(line):,} characters; a line has at most {LONGEST_LINE}", line=number, word=line[:30]
                )
            lines[line] = None
    if len(lines) > most:
        raise CriteriaError(f"{len(lines):,} lines are too many at once; at most {most:,} are taken")
    return list(lines)


def _range(query: QueryDict) -> str:
    low, high = query.get("low", "").strip(), query.get("high", "").strip()
    if not low and not high:
        return ""
    if low == high:
        return low
    # What is written in one field may say both ends: 2-4, under 300k, not known.
    alone = "" if low and high else low or high
    return alone if alone and not is_figure(alone) else f"{low}..{high}"


def _days(query: QueryDict) -> str:
    """Return the words of a date, or what its calendar fields mean where there are none."""
    if words := query.get("words", "").strip():
        return words
    first, last = query.get("first", ""), query.get("last", "")
    if first and last:
        return f"between {first} and {last}"
    if first or not last:
        return f"since {first}" if first else ""
    try:
        return f"before {date.fromisoformat(last) + timedelta(days=1)}"
    except (ValueError, OverflowError):
        return last


def _names(query: QueryDict) -> str:
    ticks, lines = query.getlist("tick"), typed_lines(query.get("words", ""))
    exact = [f"= {quote(name)}" for name in ticks]
    # One line that was typed only led to the names that were then ticked; several are values of their own.
    if ticks and len(lines) < 2:
        return ", ".join(exact)
    match query.get("match"):
        case Match.EXACT.value:
            typed = [f"= {quote(line)}" for line in lines if line.casefold() not in {tick.casefold() for tick in ticks}]
        case Match.BEGINNING.value:
            typed = [f"{quote(line)}*" for line in lines]
        case _:
            typed = [quote(line) for line in lines]
    return ", ".join([*exact, *typed])


def _ring(query: QueryDict) -> str:
    """Return a ring as it is written, of its ends, their unit, and its center."""
    low, high, at = (query.get(name, "").strip() for name in ("low", "high", "at"))
    if not at or not (low or high):
        return ""
    span = f"{low}..{high}" if low else high
    unit, center = query.get("unit", DistanceUnit.MILES.value), query.get("center", Center.PARCEL.value)
    return f"{span} {unit} of {center} {at if center == Center.PARCEL else quote(at)}"


def _value_list(trait: Trait, query: QueryDict) -> str:
    ticks = query.getlist("tick")
    match trait.kind:
        case Kind.NUMBER | Kind.MONEY | Kind.PERCENT:
            return _range(query)
        case Kind.DATE:
            return _days(query)
        case Kind.CHOICE | Kind.FLAG:
            return ", ".join(value_text(Exactly(tick)) for tick in ticks)
        case Kind.PLACE:
            return ", ".join(quote(name) for name in ticks)
        case Kind.NAME:
            return _names(query)
        case Kind.RING:
            return _ring(query)
    return ", ".join(typed_lines(query.get("words", "").replace(",", "\n")))


def _members(trait: Trait, query: QueryDict) -> list[str]:
    """Return the segments of a line about phrases or a set."""
    quantity = Quantity.ALL.value if query.get("quantity") == Quantity.ALL.value else Quantity.ANY.value
    if trait.kind is Kind.SET:
        ticked = query.getlist("tick")
        asked, refused = ([], ticked) if query.get("sense") == "not" else (ticked, [])
    else:
        asked, refused = typed_lines(query.get("words", "")), typed_lines(query.get("refused", ""))
    within = [name for name in trait.fields if name in query.getlist("within")]
    where = f" in {', '.join(within)}" if within and len(within) < len(trait.fields) else ""
    parts = [f"{quantity} {', '.join(map(quote, asked))}{where}"] if asked else []
    return [*parts, f"none of {', '.join(map(quote, refused))}{where}"] if refused else parts


def criterion_from(trait: Trait, query: QueryDict) -> Criterion:
    """Return the criterion that an editor's fields mean. Raises CriteriaError."""
    if "as_text" in query:
        return parse_line(f"{trait.key}: {query.get('raw', '')}")
    ask, unknown = "ask " if "ask" in query else "", "unknown" in query
    # A preset is a button of its own and stands for the whole value.
    there = query.get("there", "") if trait.takes_any else ""
    if trait.kind in (Kind.SET, Kind.PHRASES) and not there:
        parts = _members(trait, query)
        if unknown:
            parts.append("or unknown" if parts else "unknown")
    else:
        values = query.get("preset") or there or _value_list(trait, query)
        sense = "not " if query.get("sense") == "not" and values else ""
        parts = [f"{sense}{values}{', or unknown' if unknown else ''}"] if values else ["unknown"] if unknown else []
    if not parts and not ask:
        raise CriteriaError(f"{trait.label} has no value yet; fill one in, or remove the line")
    return parse_line(f"{trait.key}: {ask}{'; '.join(parts)}")


def group_text(group: AnyOf) -> str:
    """Return a group's members, one a line."""
    return "\n".join(line_text(member) for member in group.criteria)


def group_from(text: str) -> AnyOf:
    """Return the group whose members stand one a line in a text. Raises CriteriaError, with the line in the text."""
    members = tuple(line.strip() for line in text.splitlines() if line.strip())
    try:
        (group,) = parse("\n".join(["any of:", *(f"  {member}" for member in members)])).lines
    except CriteriaError as error:
        raise CriteriaError(error.message, line=(error.line or 1) - 1 or None, word=error.word) from None
    assert isinstance(group, AnyOf)
    return group


def in_place_of(before: Line | None, line: Line) -> Line:
    """Return a line struck as the one was whose place it takes."""
    return line if before is None else replace(line, struck=before.struck)
