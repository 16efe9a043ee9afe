"""The line editor: a criterion as form fields, and form fields as a criterion's line."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from django.http import QueryDict

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import (
    AnyOf,
    Between,
    Criterion,
    Line,
    Match,
    Members,
    Named,
    Presence,
    Quantity,
    Same,
    Search,
    Value,
)
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse, parse_line
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.values import figure_text, quote, value_text
from jaded_ledger.find.compiling import Compiled, places_of
from jaded_ledger.find.fill import Fill
from jaded_ledger.find.suggesting import recorded_texts

DATE_PRESETS = (
    "more than 5 years ago", "more than 10 years ago", "more than 20 years ago", "in the last 12 months", "in the last 90 days",
)  # fmt: skip
_MOST_OPTIONS = 60


@dataclass(frozen=True)
class Option:
    """One value that can be ticked."""

    value: str
    label: str
    is_ticked: bool
    count: int | None = None


@dataclass
class Editor:
    """What the editor of one line shows. ``place`` is the line it replaces, None for a new one."""

    trait: Trait
    fill: Fill
    place: int | None
    raw: str
    """The line's text after the trait, for editing as text."""
    is_plain: bool = True
    """Whether the fields can show all the criterion says; otherwise only its text is offered."""
    low: str = ""
    high: str = ""
    words: str = ""
    match: str = Match.WORDS.value
    there: str = ""
    """``any`` or ``none`` where only that is asked."""
    quantity: str = Quantity.ANY.value
    is_refused: bool = False
    unknown: bool = False
    options: list[Option] = field(default_factory=list)
    error: str = ""

    @property
    def hint(self) -> str:
        return {
            Kind.NUMBER: "a figure; leave an end open for “or more”, “or less”",
            Kind.MONEY: "such as 250k, 1.2m or 1,284,500; leave an end open",
            Kind.PERCENT: "in percent; leave an end open",
        }.get(self.trait.kind, "")


def _fields_of(criterion: Criterion) -> dict[str, object] | None:
    """Return the simple fields that say all of a criterion; None when it says more than they can."""
    values: tuple[Value, ...] = criterion.accepts or criterion.refuses
    if criterion.accepts and criterion.refuses:
        return None
    found: dict[str, object] = {"is_refused": bool(criterion.refuses), "unknown": criterion.unknown}
    trait = CATALOGUE[criterion.trait]
    if any(isinstance(value, Presence) for value in values):
        return found | {"there": value_text(values[0])} if len(values) == 1 else None
    if trait.kind in (Kind.SET, Kind.PHRASES):
        return _fields_of_members(found, values)
    if trait.kind in (Kind.NUMBER, Kind.MONEY, Kind.PERCENT):
        if len(values) > 1:
            return None
        for value in values:
            low, high = (value.low, value.high) if isinstance(value, Between) else (value.value, value.value)
            found |= {
                "low": "" if low is None else figure_text(low),
                "high": "" if high is None else figure_text(high),
            }
    elif trait.kind in (Kind.DATE, Kind.PARCEL_NUMBER):
        found["words"] = ", ".join(value_text(value) for value in values)
    elif trait.kind is Kind.NAME:
        typed = [value for value in values if isinstance(value, Named) and value.match is not Match.EXACT]
        if len(typed) > 1:
            return None
        if typed:
            found |= {"words": typed[0].text, "match": typed[0].match.value}
        if typed and len(values) > 1:
            return None
    return found


def _fields_of_members(found: dict[str, object], values: tuple[Value, ...]) -> dict[str, object] | None:
    members = [value for value in values if isinstance(value, Members)]
    if len(members) > 1 and any(one.quantity is Quantity.ALL for one in members):
        return None
    items = [item for one in members for item in one.items]
    if any("," in item for item in items):
        return None
    return found | {"words": ", ".join(items), "quantity": (members[0].quantity if members else Quantity.ANY).value}


def _ticked(criterion: Criterion | None) -> list[str]:
    values = (criterion.accepts or criterion.refuses) if criterion else ()
    ticked = []
    for value in values:
        if isinstance(value, Same):
            ticked.append(value_text(value) if isinstance(value.value, bool) else str(value.value))
        elif isinstance(value, Named) and value.match is Match.EXACT:
            ticked.append(value.text)
        elif isinstance(value, Members):
            ticked += value.items
    return ticked


def options_for(trait: Trait, ticked: list[str], words: str, compiled: Compiled, fill: Fill) -> list[Option]:
    """Return what can be ticked: declared choices, places on record, or recorded names that fit what is typed."""
    chosen = {value.casefold() for value in ticked}

    def option(value: str, label: str = "", count: int | None = None) -> Option:
        return Option(value, label or value, value.casefold() in chosen, count)

    if trait.kind is Kind.CHOICE or (trait.kind is Kind.SET and trait.choices):
        return [option(choice.key, count=fill.commonest[choice.key]) for choice in trait.choices]
    if trait.kind is Kind.FLAG:
        return [option(value, count=fill.commonest[value]) for value in ("yes", "no")]
    if trait.kind is Kind.SET:
        return [option(value, count=count) for value, count in fill.commonest.most_common(_MOST_OPTIONS)]
    if trait.kind is Kind.PLACE:
        names = places_of(trait, compiled.counties).order_by("folded").values_list("text", flat=True)
        return [option(name, count=fill.commonest.get(name)) for name in dict.fromkeys(names[:_MOST_OPTIONS])]
    if trait.kind is Kind.NAME:
        kept = [option(text) for text in ticked]
        found = [
            option(one.text, one.shown, one.parcels)
            for one in recorded_texts(trait, words, compiled, 12)
            if one.text.casefold() not in chosen
        ]
        return kept + found
    return []


def editor_of(trait: Trait, criterion: Criterion | None, place: int | None, compiled: Compiled, fills: Mapping[str, Fill]) -> Editor:
    """Return the editor of a line, or of a new one about a trait."""
    raw = line_text(criterion).lstrip("~ ").partition(":")[2].strip() if criterion else ""
    editor = Editor(trait, fills[trait.key], place, raw)
    simple = _fields_of(criterion) if criterion else {}
    editor.is_plain = simple is not None
    for name, value in (simple or {}).items():
        setattr(editor, name, value)
    editor.options = options_for(trait, _ticked(criterion), editor.words, compiled, editor.fill)
    return editor


def editor_with(query: QueryDict, editor: Editor, compiled: Compiled, error: str) -> Editor:
    """Return the editor as it was filled in, with what was wrong, so that nothing typed is lost."""
    for name in ("low", "high", "words", "match", "there", "quantity", "raw"):
        setattr(editor, name, query.get(name, ""))
    editor.is_refused, editor.unknown = query.get("sense") == "not", "unknown" in query
    editor.is_plain = "raw_only" not in query
    editor.options = options_for(editor.trait, query.getlist("tick"), editor.words, compiled, editor.fill)
    editor.error = error
    return editor


def _value_list(trait: Trait, query: QueryDict) -> str:
    ticks = query.getlist("tick")
    words = query.get("words", "").strip()
    match trait.kind:
        case Kind.NUMBER | Kind.MONEY | Kind.PERCENT:
            low, high = query.get("low", "").strip(), query.get("high", "").strip()
            if not low and not high:
                return ""
            return low if low == high else f"{low}..{high}"
        case Kind.CHOICE | Kind.FLAG:
            return ", ".join(ticks)
        case Kind.PLACE:
            return ", ".join(quote(name) for name in ticks)
        case Kind.NAME:
            typed = {Match.WORDS.value: quote(words), Match.BEGINNING.value: f"{quote(words)}*"}
            # What was typed only led to the names that were then ticked.
            if ticks:
                return ", ".join(f"= {quote(name)}" for name in ticks)
            return typed.get(query.get("match", ""), f"= {quote(words)}") if words else ""
        case Kind.SET:
            return ", ".join(quote(name) for name in ticks)
        case Kind.PHRASES:
            return ", ".join(quote(phrase.strip()) for phrase in words.split(",") if phrase.strip())
    return words


def criterion_from(trait: Trait, query: QueryDict) -> Criterion:
    """Return the criterion that an editor's fields mean. Raises CriteriaError."""
    if "as_text" in query:
        return parse_line(f"{trait.key}: {query.get('raw', '')}")
    # A preset is a button of its own and stands for the whole value.
    values = query.get("preset") or (query.get("there") if trait.has_none else "") or _value_list(trait, query)
    unknown = "unknown" in query
    if not values and not unknown:
        raise CriteriaError(f"{trait.label} has no value yet; fill one in, or take the line away")
    if trait.kind in (Kind.SET, Kind.PHRASES) and values and not query.get("there"):
        quantity = "none of" if query.get("sense") == "not" else Quantity(query.get("quantity", Quantity.ANY.value)).value
        return parse_line(f"{trait.key}: {quantity} {values}{'; or unknown' if unknown else ''}")
    sense = "not " if query.get("sense") == "not" and values else ""
    ending = (", or unknown" if values else "unknown") if unknown else ""
    return parse_line(f"{trait.key}: {sense}{values}{ending}")


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


def replaced(search: Search, place: int | None, line: Line) -> Search:
    """Return the search with a line in its place, struck or asking as the one before it was, or at its end."""
    if place is None:
        return search.with_line(line)
    before = search.lines[place]
    if isinstance(line, Criterion) and isinstance(before, Criterion):
        line = replace(line, ask=line.ask or before.ask)
    return search.with_line_at(place, replace(line, struck=before.struck))
