"""What the editor of a line shows: its criterion as fields, and what there is to choose from under the search's other lines."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta

from django.http import QueryDict

from jaded_ledger.core import dates
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.criteria.figure_notation import figure_text
from jaded_ledger.core.criteria.phrase_book import PhraseGroup
from jaded_ledger.core.criteria.search import (
    Center,
    Criterion,
    DistanceUnit,
    Exactly,
    FigureRange,
    Match,
    Members,
    Named,
    Presence,
    Quantity,
    Ring,
    Value,
)
from jaded_ledger.core.criteria.text import CriteriaError, line_text
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.values import value_text
from jaded_ledger.core.words import folded
from jaded_ledger.find.balance import count_matches
from jaded_ledger.find.compiler import Compiled, condition, places_of, unknown_of
from jaded_ledger.find.editor_fields import LONGEST_LINE, criterion_from, typed_lines
from jaded_ledger.find.fill import Fill
from jaded_ledger.find.histogram import Histogram, histogram
from jaded_ledger.find.phrase_books import groups_of
from jaded_ledger.find.reading_copy import answered
from jaded_ledger.find.suggestions import recorded_texts
from jaded_ledger.find.team_traits import team_traits
from jaded_ledger.find.value_counts import commonest_names, counts_of_matches, counts_of_names, tally_of_absence
from jaded_ledger.records.trait_columns import column_of

_DATE_PRESETS = (
    "more than 5 years ago", "more than 10 years ago", "more than 20 years ago", "in the last 12 months", "in the last 90 days",
)  # fmt: skip
_PRESETS_AHEAD = ("in the next 14 days", "in the next 30 days", "in the next 90 days")


def date_presets(trait: Trait) -> tuple[str, ...]:
    """Return the suggested date ranges: upcoming ones for a trait whose dates lie ahead."""
    return _PRESETS_AHEAD if trait.is_ahead else _DATE_PRESETS


_MOST_PLACES = 500
_NAMES_OFFERED = 12
FEW_OPTIONS = 10
"""With more than so many values, a field narrows them by typing."""


@dataclass(frozen=True)
class Option:
    """One value that can be ticked, with how many parcels have it under the search's other lines."""

    value: str
    label: str
    is_ticked: bool
    count: int | None = None
    holds: tuple[str, ...] = ()
    """The values that an umbrella stands for."""


_TEMPLATES = {
    Kind.NUMBER: "_range.html",
    Kind.MONEY: "_range.html",
    Kind.PERCENT: "_range.html",
    Kind.DATE: "_date.html",
    Kind.NAME: "_name.html",
    Kind.PARCEL_NUMBER: "_parcel_number.html",
    Kind.PHRASES: "_phrases.html",
    Kind.RING: "_ring.html",
}


@dataclass
class Editor:
    """What the editor of one line shows.

    ``line`` is the number of the line that it replaces as it was seen on the page, blank for a new one; ``member`` which
    member of a group.
    """

    trait: Trait
    fill: Fill
    line: str = ""
    member: str = ""
    raw: str = ""
    """The line's text after the trait, for editing as text."""
    is_plain: bool = True
    """Whether the fields can show all the criterion says; otherwise only its text is offered."""
    low: str = ""
    high: str = ""
    words: str = ""
    refused: str = ""
    first: str = ""
    last: str = ""
    unit: str = DistanceUnit.MILES.value
    center: str = Center.PARCEL.value
    at: str = ""
    match: str = Match.WORDS.value
    there: str = ""
    """``any`` or ``none`` where only that is asked."""
    quantity: str = Quantity.ANY.value
    within: tuple[str, ...] = ()
    is_refused: bool = False
    unknown: bool = False
    ask: bool = False
    options: list[Option] = field(default_factory=list)
    umbrellas: list[Option] = field(default_factory=list)
    """Words for several of the options at once."""
    picture: Histogram | None = None
    absent: dict[str, int] = field(default_factory=dict)
    """Under the other lines: how many parcels there are, of how many the value is not known, of how many there is none."""
    masks: list[tuple[str, str]] = field(default_factory=list)
    groups: list[PhraseGroup] = field(default_factory=list)
    """The phrase book, for a trait of phrases."""
    error: str = ""

    @property
    def template(self) -> str:
        """The fields of its kind of trait; ``_editor.html`` is the frame about them."""
        return f"find/editors/{_TEMPLATES.get(self.trait.kind, '_choices.html')}"

    @property
    def hint(self) -> str:
        return {
            Kind.NUMBER: "a figure; leave an end open for “or more”, “or less”",
            Kind.MONEY: "such as 250k, 1.2m or 1,284,500; leave an end open",
            Kind.PERCENT: "in percent; leave an end open",
            Kind.PHRASES: "one phrase a line; word* is a beginning, r.e.o. an acronym however it is written",
            Kind.NAME: "one name a line; several can be pasted",
            Kind.PARCEL_NUMBER: "one number or pattern a line; several can be pasted",
            Kind.RING: "the second figure alone is “up to”; the first alone “or more”",
        }.get(self.trait.kind, "")

    @property
    def units(self) -> list[str]:
        return [unit.value for unit in DistanceUnit]

    @property
    def centers(self) -> list[str]:
        return [center.value for center in Center]

    @property
    def rows(self) -> int:
        """How tall its field of several lines is."""
        return max(3 if self.trait.kind is Kind.PHRASES else 1, min(8, self.words.count("\n") + 1))

    @property
    def can_narrow(self) -> bool:
        return self.trait.kind is not Kind.NAME and len(self.options) > FEW_OPTIONS


Fields = dict[str, object]


def _fields_of(criterion: Criterion) -> Fields | None:
    """Return the simple fields that say all of a criterion; None when it says more than they can."""
    fields: Fields = {"is_refused": bool(criterion.refuses), "unknown": criterion.unknown, "ask": criterion.ask}
    trait = CATALOGUE[criterion.trait]
    if trait.kind is Kind.PHRASES:
        return _fields_of_phrases(fields, criterion)
    if criterion.accepts and criterion.refuses:
        return None
    values = criterion.accepts or criterion.refuses
    if any(isinstance(value, Presence) for value in values):
        return fields | {"there": value_text(values[0])} if len(values) == 1 else None
    match trait.kind:
        case Kind.SET:
            return fields | {"quantity": values[0].quantity.value} if values and isinstance(values[0], Members) and len(values) == 1 else (
                None if values else fields
            )  # fmt: skip
        case Kind.NUMBER | Kind.MONEY | Kind.PERCENT:
            return _fields_of_range(fields, values)
        case Kind.DATE:
            return fields | _days(values)
        case Kind.PARCEL_NUMBER:
            return fields | {"words": "\n".join(value_text(value) for value in values)}
        case Kind.NAME:
            return _fields_of_names(fields, values)
        case Kind.RING:
            return _fields_of_ring(fields, values)
    return fields


def _days(values: Sequence[Value]) -> Fields:
    match values:
        case [dates.BetweenDays(date() as first, date() as last)]:
            return {"first": first.isoformat(), "last": last.isoformat(), "words": value_text(values[0])}
        case [dates.Since(date() as first)]:
            return {"first": first.isoformat(), "words": value_text(values[0])}
        case [dates.Before(date() as after)] if after > date.min:
            return {"last": (after - timedelta(days=1)).isoformat(), "words": value_text(values[0])}
    return {"words": ", ".join(value_text(value) for value in values)}


def _fields_of_range(found: Fields, values: Sequence[Value]) -> Fields | None:
    match values:
        case []:
            return found
        case [FigureRange(low, high)]:
            return found | {"low": "" if low is None else figure_text(low), "high": "" if high is None else figure_text(high)}
        case [Exactly()]:
            return found | {"low": value_text(values[0]), "high": value_text(values[0])}
    return None


def _fields_of_ring(found: Fields, values: Sequence[Value]) -> Fields | None:
    match values:
        case []:
            return found
        case [Ring(low, high, unit, center, at)]:
            ends = {"low": "" if low is None else figure_text(low), "high": "" if high is None else figure_text(high)}
            return found | ends | {"unit": unit.value, "center": center.value, "at": at}
    return None


def _fields_of_names(found: Fields, values: Sequence[Value]) -> Fields | None:
    """Names that are exact are ticked, those by words or by a beginning typed; more than one of them needs a second line."""
    typed = [value for value in values if isinstance(value, Named) and value.match is not Match.EXACT]
    ways = {value.match for value in typed}
    if len(ways) > 1 or (len(typed) == 1 and len(values) > 1):
        return None
    return found | {"words": "\n".join(value.text for value in typed), "match": ways.pop().value} if typed else found


def _fields_of_phrases(found: Fields, criterion: Criterion) -> Fields | None:
    asked, refused = criterion.accepts, criterion.refuses
    if asked and isinstance(asked[0], Presence):
        return found | {"there": value_text(asked[0])} if len(asked) == 1 and not refused else None
    members = [value for value in (*asked, *refused) if isinstance(value, Members)]
    if len(asked) > 1 or len(refused) > 1 or len({value.within for value in members}) > 1:
        return None
    for name, values in (("words", asked), ("refused", refused)):
        found[name] = "\n".join(item for value in values if isinstance(value, Members) for item in value.items)
    if asked and isinstance(asked[0], Members):
        found["quantity"] = asked[0].quantity.value
    return found | {"within": members[0].within if members else (), "is_refused": False}


def _ticked(criterion: Criterion | None) -> list[str]:
    values = (criterion.accepts or criterion.refuses) if criterion else ()
    ticked = []
    for value in values:
        if isinstance(value, Exactly):
            ticked.append(value_text(value) if isinstance(value.value, bool) else str(value.value))
        elif isinstance(value, Named) and value.match is Match.EXACT:
            ticked.append(value.text)
        elif isinstance(value, Members):
            ticked += value.items
    return ticked


def options_for(trait: Trait, ticked: list[str], words: str, others: Compiled) -> list[Option]:
    """Return what can be ticked: declared choices, places on record, or recorded names that fit what is typed."""
    chosen = {value.casefold() for value in ticked}

    def options(values: Sequence[str], counts: Counter[str]) -> list[Option]:
        return [Option(value, value, value.casefold() in chosen, counts[value]) for value in values]

    match trait.kind:
        case Kind.CHOICE | Kind.SET if trait.choices:
            return options([choice.key for choice in trait.choices], counts_of_matches(others, trait))
        case Kind.FLAG:
            return options(("yes", "no"), counts_of_matches(others, trait))
        case Kind.SET:
            declared = team_traits().get(trait.key)
            counts = declared.counts(others.matches, others.scope) if declared and declared.counts else counts_of_matches(others, trait)
            return options([value for value, _ in counts.most_common(_MOST_PLACES)], counts)
        case Kind.PLACE:
            names = places_of(trait, others.counties).order_by("folded").values_list("text", flat=True)
            return options(list(dict.fromkeys(names[:_MOST_PLACES])), counts_of_matches(others, trait))
        case Kind.NAME:
            return _names(trait, ticked, words, others)
    return []


def umbrellas_for(trait: Trait, ticked: list[str], others: Compiled) -> list[Option]:
    """Return the words that stand for several of a trait's values, with how many parcels have any of them."""
    chosen, found = {value.casefold() for value in ticked}, []
    for one in trait.umbrellas:
        value = Members(Quantity.ANY, (one.key,)) if trait.kind is Kind.SET else Exactly(one.key)
        asked = condition(Criterion(trait.key, (value,)), others.counties, others.scope)
        found.append(Option(one.key, one.key, one.key in chosen, count_matches(others.also(asked)), one.holds))
    return found


def _names(trait: Trait, ticked: list[str], words: str, others: Compiled) -> list[Option]:
    """Return the ticked names, and beneath them those that fit what is typed, or the commonest while nothing is."""
    counts = _counts_of_names(others, trait, ticked) if ticked else Counter()
    kept = [Option(text, shown(trait, text), True, counts[folded(text)]) for text in ticked]
    # What is wrong with a line is said when the line is set; the box goes on offering.
    last = next((line.strip() for line in reversed(words.splitlines()) if line.strip()), "")
    if last:
        # Those on record in the counties, even if none of them is left under the other lines.
        texts = [one.text for one in recorded_texts(trait, last[:LONGEST_LINE], others, _NAMES_OFFERED)]
        left = _counts_of_names(others, trait, texts)
        found = [(text, left[folded(text)]) for text in texts]
    else:
        found = answered(others, lambda asked: commonest_names(asked.matches, trait, _NAMES_OFFERED), [column_of(trait)])
    chosen = {value.casefold() for value in ticked}
    return kept + [Option(text, shown(trait, text), False, count) for text, count in found if text.casefold() not in chosen]


def _counts_of_names(others: Compiled, trait: Trait, names: Sequence[str]) -> Counter[str]:
    folded_text = column_of(trait) if trait.is_own else f"{trait.fact}__folded"
    return answered(others, lambda asked: counts_of_names(asked.matches, trait, names), [folded_text])


def not_there(trait: Trait, words: str, match: str, others: Compiled) -> list[str]:
    """Return which of several lines that were pasted fit no parcel under the other lines, or why they can't be taken."""
    try:
        lines = typed_lines(words)
    except CriteriaError as error:
        return [str(error)]
    if len(lines) < 2:
        return []
    missing = []
    for line in lines:
        query = QueryDict(mutable=True)
        query["words"], query["match"] = line, match
        try:
            asked = condition(criterion_from(trait, query), others.counties, others.scope)
        except CriteriaError as error:
            missing.append(f"{line}: {error.message}")
            continue
        if not count_matches(others.also(asked)):
            missing.append(line)
    return missing


def _absence(trait: Trait, others: Compiled) -> dict[str, int]:
    """Return of how many parcels under the other lines the value is not known, or none."""
    declared = team_traits().get(trait.key)
    if declared is None or declared.counts is None or declared.condition is None:
        values = [column_of(trait), *([trait.event] if trait.event else [])]
        return answered(others, lambda asked: tally_of_absence(asked.matches, trait, unknown_of(trait)), values)
    none = declared.condition((Presence(is_there=False),), others.scope)
    return {
        "all": others.matches.count(),
        "unknown": others.matches.filter(unknown_of(trait)).count(),
        "none": others.matches.filter(none).count(),
    }


def _offer(editor: Editor, ticked: list[str], criterion: Criterion | None, others: Compiled) -> Editor:
    """Fill in what there is to choose from under the other lines."""
    editor.options = options_for(editor.trait, ticked, editor.words, others)
    editor.umbrellas = umbrellas_for(editor.trait, ticked, others)
    if editor.trait.is_range:
        editor.picture = histogram(others, editor.trait, criterion)
    editor.absent = _absence(editor.trait, others)
    if editor.trait.kind is Kind.PHRASES:
        editor.groups = groups_of(others.scope.team)
    if editor.trait.kind is Kind.PARCEL_NUMBER:
        editor.masks = [(county.name, county.mask.text) for county in others.counties]
    return editor


def editor_of(trait: Trait, criterion: Criterion | None, line: str, member: str, others: Compiled, fill: Fill) -> Editor:
    """Return the editor of a line, or of a new one about a trait. ``others`` is the search without that line."""
    raw = line_text(criterion).lstrip("~ ").partition(":")[2].strip() if criterion else ""
    editor = Editor(trait, fill, line, member, raw)
    simple = _fields_of(criterion) if criterion else {}
    editor.is_plain = simple is not None
    for name, value in (simple or {}).items():
        setattr(editor, name, value)
    return _offer(editor, _ticked(criterion), criterion, others)


def editor_with(query: QueryDict, editor: Editor, others: Compiled, error: str) -> Editor:
    """Return the editor as it was filled in, with what was wrong, so that nothing typed is lost."""
    for name in ("low", "high", "words", "refused", "first", "last", "match", "there", "quantity", "raw", "unit", "center", "at"):
        setattr(editor, name, query.get(name, ""))
    editor.within = tuple(query.getlist("within"))
    editor.is_refused, editor.unknown, editor.ask = query.get("sense") == "not", "unknown" in query, "ask" in query
    editor.is_plain = "raw_only" not in query
    editor.error = error
    return _offer(editor, query.getlist("tick"), None, others)
