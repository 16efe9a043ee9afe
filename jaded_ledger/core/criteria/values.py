"""What is typed for a value, by the kind of its trait, and its one canonical spelling."""

from __future__ import annotations

import difflib
import re
from decimal import Decimal

from jaded_ledger.core.criteria.date_notation import span
from jaded_ledger.core.criteria.figure_notation import figure_text, figures, step_of
from jaded_ledger.core.criteria.parcel_number_notation import numbers
from jaded_ledger.core.criteria.ring_notation import ring, ring_text
from jaded_ledger.core.criteria.search import Exactly, FigureRange, Match, Members, Named, Numbers, Presence, Quantity, Ring, Value
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.wrong_value import ValueTextError
from jaded_ledger.core.phrases import check_phrase

_PLAIN = re.compile(r"[^\W_][\w.'&/#()-]*(?: [\w.'&/#()-]+)*")
_PRESENCE = {"any": True, "known": True, "not blank": True, "not unknown": True, "none": False}
_YES_OR_NO = {"yes": True, "y": True, "true": True, "no": False, "n": False, "false": False}
_SHOWN = 60
_KEYWORDS = re.compile(r"(?i)(not|ask|(or )?(unknown|not known|blanks?|missing)|any of|all of|none of)\b")


def _choice(trait: Trait, text: str) -> Exactly:
    if found := trait.meant(text):
        return Exactly(found)
    names = {name: found for found, called in trait.value_names() for name in called}
    near = difflib.get_close_matches(text.casefold(), names, n=1)
    hint = f"did you mean {names[near[0]]}? It" if near else "it"
    raise ValueTextError(text, f"is not a known {trait.label}; {hint} can be {', '.join(found for found, _ in trait.value_names())}")


def _flag(text: str) -> Exactly:
    if (held := _YES_OR_NO.get(text.casefold())) is None:
        raise ValueTextError(text, "is neither yes nor no")
    return Exactly(held)


def plain_value(trait: Trait, text: str) -> Value:
    """Return what an unquoted text means for a trait. Raises ValueTextError."""
    text = " ".join(text.split())
    if (there := _is_there(trait, text)) is not None:
        return _presence(trait, text, is_there=there)
    match trait.kind:
        case Kind.NUMBER | Kind.MONEY | Kind.PERCENT:
            return figures(trait, text)
        case Kind.DATE:
            return span(text)
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
        case Kind.RING:
            return ring(text)
    return Members(Quantity.ANY, (member(trait, text),))


def _is_there(trait: Trait, text: str) -> bool | None:
    """Return whether a text asks for any value at all, or for none; None where it asks for a value."""
    word = text.casefold()
    if not trait.takes_any or (trait.kind is Kind.NAME and word not in ("any", "none")):
        return None
    if trait.kind in (Kind.DATE, Kind.SET) and trait.has_none and word in _YES_OR_NO:
        return _YES_OR_NO[word]
    return _PRESENCE.get(word)


def _presence(trait: Trait, text: str, *, is_there: bool) -> Value:
    """Return what any or none means for a trait. Raises ValueTextError."""
    if trait.zero_is_none and not trait.event:
        return FigureRange(step_of(trait), None) if is_there else Exactly(Decimal(0))
    if trait.has_none or is_there:
        return Presence(is_there)
    if trait.nothing:
        return Exactly(trait.nothing.key)
    raise ValueTextError(text, f"can't be told of {trait.label}; ask for unknown where it is not known")


def member(trait: Trait, text: str) -> str:
    """Return a phrase, or a member of a set by its key. Raises ValueTextError for what can't be looked for, or is none of the set's."""
    if not text.strip():
        raise ValueTextError(text, "is empty; write at least one word")
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


def _plain_or_quoted(text: str, *, is_place: bool) -> str:
    """Return a choice or a place as it is written: in quotes where it would be read as something else, as a place called None would."""
    is_plain = _PLAIN.fullmatch(text) and not _KEYWORDS.match(text) and not (is_place and text.casefold() in _PRESENCE)
    return text if is_plain else quote(text)


def value_text(value: Value, *, is_place: bool = False) -> str:
    """Return a value's canonical spelling; ``is_place`` says that a text is the name of a place, not the key of a choice."""
    match value:
        case Presence(is_there):
            return "any" if is_there else "none"
        case Exactly(bool() as flag):
            return "yes" if flag else "no"
        case Exactly(Decimal() as number):
            return figure_text(number)
        case Exactly(str() as name):
            return _plain_or_quoted(name, is_place=is_place)
        case FigureRange(low, high):
            ends = (figure_text(low) if low is not None else "", figure_text(high) if high is not None else "")
            return "..".join(ends)
        case Named(text, how):
            return {Match.EXACT: "= ", Match.WORDS: "", Match.BEGINNING: ""}[how] + quote(text) + ("*" if how is Match.BEGINNING else "")
        case Numbers(pattern, county):
            return f"{county}/{pattern}" if county else pattern
        case Ring():
            return ring_text(value, quote(value.at))
        case Members(quantity, items):
            where = f" in {', '.join(value.within)}" if value.within else ""
            return f"{quantity} {', '.join(quote(item) for item in items)}{where}"
    return str(value)
