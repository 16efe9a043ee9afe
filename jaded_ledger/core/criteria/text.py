"""The text form of a search, one criterion a line: read and written. ``parse(format(search)) == search``."""

from __future__ import annotations

import re
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

from lark import Lark, Token, Tree
from lark.exceptions import UnexpectedInput

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.ring_notation import ring
from jaded_ledger.core.criteria.search import AnyOf, Criterion, Exactly, Line, Match, Members, Quantity, Search, Value
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.values import member, plain_value, quoted_value, unquote, value_text
from jaded_ledger.core.criteria.wrong_value import ValueTextError

_GRAMMAR = (Path(__file__).parent / "grammar.lark").read_text()
_GROUP = re.compile(r"(~\s*)?any of:", re.IGNORECASE)
LARGEST = 60
"""How many lines a search may have."""


class CriteriaError(ValueError):
    """A search that can't be read or asked: which line (from 1), which word, and what would be accepted."""

    def __init__(self, message: str, *, line: int | None = None, word: str = "") -> None:
        super().__init__(f"line {line}: {message}" if line else message)
        self.message = message
        self.line = line
        self.word = word


@cache
def _line_parser() -> Lark:
    return Lark(_GRAMMAR, start="line", parser="lalr")


def trait_called(key: str) -> Trait:
    """Return the trait that a key, a label or a synonym means. Raises ValueTextError for none, and for one of several."""
    named = CATALOGUE.named(key)
    if len(named) == 1:
        return named[0]
    if named:
        raise ValueTextError(key.strip(), f"can be {' or '.join(trait.key for trait in named)}; write one of them")
    nearest = CATALOGUE.nearest(key)
    raise ValueTextError(key.strip(), "is not a trait" + (f"; did you mean {nearest}?" if nearest else ""))


_QUOTED = re.compile(r'("(?:[^"\\]|\\.)*")')
_TIGHT = re.compile(r"(?<![\w.,])\$?\d+(?:\.\d+)?(?:,\d+(?:\.\d+)?)+")
_THOUSANDS = re.compile(r"\$?\d{1,3}(,\d{3})+(\.\d+)?")
_DAY_COMMA = re.compile(r"\b([a-z]{3,9}\.?\s+\d{1,2}(?:st|nd|rd|th)?),\s*(\d{4})\b", re.IGNORECASE)
_OR_UNKNOWN = re.compile(r"(?<=[^\s,;:])\s+(or\s+(?:unknown|not\s+known|blanks?|missing))\s*$", re.IGNORECASE)
_A_VALUE = re.compile(r"\s*not\s+(?:blank|unknown|missing)\s*$", re.IGNORECASE)


def _ask_about_comma(trait: Trait, text: str) -> None:
    """Raise ValueTextError for a comma between figures that is neither of thousands nor followed by a space: ``1,5``."""
    for found in _TIGHT.finditer(text):
        word = found[0]
        if _THOUSANDS.fullmatch(word):
            continue
        first, _, rest = word.partition(",")
        readings = [f"{first}.{rest}"] if trait.decimals and "," not in rest and len(rest) < 3 else []
        readings.append(", ".join(word.split(",")))
        raise ValueTextError(word, f"can be read in two ways; write {' or '.join(readings)}")


def _written_out(trait: Trait, text: str) -> str:
    """Return a line's values with what people leave out: the comma before what is not known, none within a date. Raises ValueTextError."""
    if _A_VALUE.fullmatch(text):
        return " any"
    parts = _QUOTED.split(_OR_UNKNOWN.sub(r", \1", text))
    for place in range(0, len(parts), 2):
        if trait.kind is Kind.DATE:
            parts[place] = _DAY_COMMA.sub(r"\1 \2", parts[place])
        elif trait.is_range:
            _ask_about_comma(trait, parts[place])
    return "".join(parts)


def _value(trait: Trait, item: Tree[Any]) -> Value:
    if item.data == "about":
        words, name = map(str, item.children)
        if trait.kind is not Kind.RING:
            raise ValueTextError(name, f"can't follow {words.strip()}; separate values with a comma and a space")
        return ring(words, unquote(name))
    token = str(item.children[-1] if item.data != "beginning" else item.children[0])
    if item.data == "plain":
        return plain_value(trait, token)
    match = {"exact": Match.EXACT, "beginning": Match.BEGINNING}.get(item.data, Match.WORDS)
    return quoted_value(trait, unquote(token), match)


def _field(trait: Trait, word: str) -> str:
    """Return a field of a trait's text by its name."""
    if word.casefold() not in trait.fields:
        known = f"it can be {', '.join(trait.fields)}" if trait.fields else f"{trait.label} has no fields of its own"
        raise ValueTextError(word, f"is not a field of {trait.label}; {known}")
    return word.casefold()


def _add_segment(criterion: Criterion, trait: Trait, segment: Tree[Any]) -> Criterion:
    """Return the criterion with one more part of its line."""
    if segment.data == "members":
        quantity = " ".join(str(segment.children[0]).casefold().split())
        if trait.kind not in (Kind.PHRASES, Kind.SET):
            raise ValueTextError(quantity, f"is for phrases and lists; write the values of {trait.label} with commas between")
        items = tuple(member(trait, unquote(str(child))) for child in segment.children[1:] if isinstance(child, Token))
        fields = tuple(_field(trait, str(child)) for within in segment.find_data("within") for child in within.children)
        if quantity == "none of":
            return replace(criterion, refuses=(*criterion.refuses, Members(Quantity.ANY, items, fields)))
        return replace(criterion, accepts=(*criterion.accepts, Members(Quantity(quantity), items, fields)))
    items_ = [child for child in segment.children if isinstance(child, Tree)]
    for item in items_:
        if item.data == "unknown" and trait.kind is Kind.NAME and (word := str(item.children[0])).casefold() in ("blank", "missing"):
            raise ValueTextError(word, f'can be a name or what is not known; write "{word}" in quotes, or unknown')
    values = tuple(_value(trait, item) for item in items_ if item.data != "unknown")
    unknown = criterion.unknown or any(item.data == "unknown" for item in items_)
    if segment.data == "refused":
        if not values:
            raise ValueTextError("not", "excludes nothing; write what it must not be")
        return replace(criterion, refuses=(*criterion.refuses, *values), unknown=unknown)
    return replace(criterion, accepts=(*criterion.accepts, *values), unknown=unknown)


def _explain(text: str, error: UnexpectedInput) -> ValueTextError:
    """Say what stands where it can't, and what a line looks like."""
    at = (getattr(error, "column", 1) or 1) - 1
    rest = text[at:].strip() if 0 <= at < len(text) else ""
    word = re.split(r"(?<=.)[\s,;]", rest, maxsplit=1)[0] if rest else ""
    if ":" not in text:
        return ValueTextError(text.strip(), "is not a criterion; write one as trait: value, such as beds: 3..")
    if text.count('"') % 2:
        return ValueTextError(word or '"', "begins a quotation that does not end")
    if not word:
        return ValueTextError(text.strip(), "ends too early; a value is missing")
    return ValueTextError(word, "can't stand here; values are separated by a comma and a space, refusals follow ; not")


def parse_line(text: str) -> Criterion:
    """Return one criterion from its line. Raises CriteriaError."""
    try:
        key, colon, values = text.partition(":")
        if colon and '"' not in key:
            trait = trait_called(key.strip().removeprefix("~").strip())
            text = f"{key}:{_written_out(trait, values)}"
        try:
            tree = _line_parser().parse(text)
        except UnexpectedInput as error:
            raise _explain(text, error) from None
        tokens = {child.type: child for child in tree.children if isinstance(child, Token)}
        criterion = Criterion(trait.key, struck="STRUCK" in tokens, ask="ASK" in tokens)
        for segment in tree.children:
            if isinstance(segment, Tree):
                criterion = _add_segment(criterion, trait, segment)
        if not (criterion.accepts or criterion.refuses or criterion.unknown or criterion.ask):
            raise ValueTextError(trait.key, "has no value")
    except ValueTextError as error:
        raise CriteriaError(str(error), word=error.word) from None
    return criterion


def _counties(criterion: Criterion, search: Search) -> Search:
    if search.counties:
        raise CriteriaError("the counties are chosen twice; name them all on one county line", word="county")
    if criterion.refuses or criterion.unknown or criterion.struck or criterion.ask:
        raise CriteriaError("counties are chosen by name, such as county: Tamarack", word="county")
    names = tuple(value.value for value in criterion.accepts if isinstance(value, Exactly) and isinstance(value.value, str))
    return replace(search, counties=names)


def parse(text: str) -> Search:
    """Return the search that a text means. Blank lines and lines that begin with ``#`` are passed over.

    Raises CriteriaError, which names the line and the word.
    """
    search, group, group_line = Search(), None, 0
    for number, raw in enumerate(text.replace("\x00", "").removeprefix("\ufeff").splitlines(), start=1):
        stripped = raw.strip()
        if not stripped or stripped.startswith("#"):
            continue
        is_member = group is not None and raw[:1].isspace()
        try:
            if group is not None and not is_member:
                search, group = _close(search, group, group_line), None
            if len(search.lines) >= LARGEST:
                raise CriteriaError(f"a search has at most {LARGEST} lines")
            if match := _GROUP.fullmatch(stripped):
                if is_member:
                    raise CriteriaError("an any-of group can't stand within another", word="any of")
                group, group_line = AnyOf((), struck=bool(match[1])), number
                continue
            criterion = parse_line(stripped)
            if criterion.trait == "county":
                if is_member:
                    raise CriteriaError("the counties open a search and can't stand in a group", word="county")
                search = _counties(criterion, search)
            elif is_member and group is not None:
                if criterion.struck:
                    raise CriteriaError("a member of a group can't be turned off; turn off the group", word="~")
                group = replace(group, criteria=(*group.criteria, criterion))
            else:
                search = search.with_line(criterion)
        except CriteriaError as error:
            raise CriteriaError(error.message, line=error.line or number, word=error.word) from None
    return search if group is None else _close(search, group, group_line)


def _close(search: Search, group: AnyOf, line: int) -> Search:
    if not group.criteria:
        raise CriteriaError("the group is empty; indent its criteria under it", line=line, word="any of")
    return search.with_line(group)


def _refused_text(value: Value) -> str:
    text = value_text(value)
    return text.replace("any of", "none of", 1) if isinstance(value, Members) else f"not {text}"


def line_text(criterion: Criterion) -> str:
    """Return a criterion's canonical line."""
    is_place = CATALOGUE[criterion.trait].kind is Kind.PLACE
    accepted = [value_text(value, is_place=is_place) for value in criterion.accepts]
    refused = [value_text(value, is_place=is_place) for value in criterion.refuses]
    if any(isinstance(value, Members) for value in (*criterion.accepts, *criterion.refuses)):
        parts = [*accepted, *(_refused_text(value) for value in criterion.refuses)]
        if criterion.unknown:
            parts.append("or unknown")
    else:
        parts = [", ".join(accepted)] if accepted else []
        if refused:
            parts.append(f"not {', '.join(refused)}")
        if criterion.unknown and parts:
            parts[0] += ", or unknown"
        elif criterion.unknown:
            parts.append("unknown")
    ask = "ask " if criterion.ask else ""
    struck = "~ " if criterion.struck else ""
    return f"{struck}{criterion.trait}: {ask}{'; '.join(parts)}".rstrip()


def _line_texts(line: Line) -> list[str]:
    if isinstance(line, Criterion):
        return [line_text(line)]
    return [f"{'~ ' if line.struck else ''}any of:", *(f"  {line_text(member)}" for member in line.criteria)]


def format(search: Search) -> str:
    """Return the one canonical text of a search."""
    lines = []
    if search.counties:
        lines.append(line_text(Criterion("county", tuple(Exactly(name) for name in search.counties))))
    for line in search.lines:
        lines.extend(_line_texts(line))
    return "\n".join(lines)
