"""What the add box offers while somebody types: traits, values, places, recorded names, parcel numbers."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import islice

from django.db.models import Count, Q, QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown, value_phrase
from jaded_ledger.core.criteria.phrase_book import PhraseGroup
from jaded_ledger.core.criteria.search import Criterion, Exactly, Match, Members, Named, Quantity
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse_line
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.criteria.values import ValueTextError, numbers
from jaded_ledger.core.words import folded, words_of
from jaded_ledger.find.compiler import Compiled, condition, places_of
from jaded_ledger.find.fill import Fill
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.own_columns import slug
from jaded_ledger.records.trait_columns import table_of

MOST = 14
_OF_EACH = 4
_NAMES = tuple(CATALOGUE[key] for key in ("subdivision", "street", "owner-name", "project", "lender"))
_LISTING_NUMBER = CATALOGUE["listing-number"]
_REMARKS = CATALOGUE["remarks"]
_ADDRESSES = (CATALOGUE["address"],)
_PLACES = tuple(trait for trait in CATALOGUE if trait.kind is Kind.PLACE and trait.key != "county")


@dataclass(frozen=True)
class Suggestion:
    """One thing the box offers. ``line`` is a whole criterion to add; without it the trait's editor opens."""

    trait: Trait
    label: str
    meaning: str
    line: str = ""
    aside: str = ""
    is_low: bool = False


def browse(fills: dict[str, Fill]) -> list[tuple[Section, list[Suggestion]]]:
    """Return every trait by section, for a box that is opened empty."""
    return [
        (section, [_of_trait(fill.trait, fills) for fill in fills.values() if fill.trait.section is section and fill.trait.key != "county"])
        for section in dict.fromkeys(fill.trait.section for fill in fills.values())
    ]


def _of_trait(trait: Trait, fills: dict[str, Fill]) -> Suggestion:
    fill = fills[trait.key]
    return Suggestion(trait, trait.label, fill.picture or trait.meaning, aside=fill.said, is_low=fill.is_low)


def _starts_a_word(typed: str, name: str) -> bool:
    name = folded(name)
    return name.startswith(typed) or f" {typed}" in name.replace("-", " ")


def _as_typed(typed: str) -> Iterator[Suggestion]:
    if ":" not in typed:
        return
    try:
        criterion = parse_line(typed)
    except CriteriaError:
        return
    trait = CATALOGUE[criterion.trait]
    if trait.key != "county":
        yield Suggestion(trait, f"{trait.label} {value_phrase(criterion)}", "as typed", line_text(criterion))


def _traits(typed: str, fills: dict[str, Fill]) -> Iterator[Suggestion]:
    exact, close = [], []
    for trait in (fill.trait for fill in fills.values()):
        if trait.key == "county":
            continue
        if any(folded(name).startswith(typed) for name in (trait.label, trait.key)):
            exact.append(trait)
        elif any(_starts_a_word(typed, name) for name in (trait.label, *trait.synonyms)):
            close.append(trait)
    for trait in (*exact, *close):
        yield _of_trait(trait, fills)


def _sayings(typed: str, fills: dict[str, Fill]) -> Iterator[Suggestion]:
    for trait in (fill.trait for fill in fills.values()):
        for words, value in trait.sayings:
            if _starts_a_word(typed, words):
                criterion = parse_line(f"{trait.key}: {value}")
                fill = fills[trait.key]
                meaning = f"{trait.label}: {value_phrase(criterion)}; {trait.meaning}"
                yield Suggestion(trait, words, meaning, line_text(criterion), aside=fill.said, is_low=fill.is_low)
                break


def _choices(typed: str, fills: dict[str, Fill]) -> Iterator[Suggestion]:
    for trait in (fill.trait for fill in fills.values()):
        for choice in trait.choices:
            if any(_starts_a_word(typed, name) for name in (choice.key, *choice.synonyms)):
                count = fills[trait.key].commonest.get(choice.key)
                aside = f"{count:,}" if count else ""
                yield Suggestion(trait, choice.key, f"as the {trait.label}", f"{trait.key}: {choice.key}", aside)


def _counted(parcels: QuerySet[ParcelFacts], trait: Trait, ids: Sequence[int]) -> dict[int, int]:
    rows = (
        parcels.filter(**{f"{trait.fact}__in": ids})
        .values(trait.fact)
        .annotate(parcels=Count("*"))
        .order_by()
        .values_list(trait.fact, "parcels")
    )
    return dict(rows)


def _places(typed: str, compiled: Compiled) -> Iterator[Suggestion]:
    for trait in _PLACES:
        found = dict(
            places_of(trait, compiled.counties)
            .filter(Q(folded__startswith=typed) | Q(folded__contains=f" {typed}"))
            .order_by("folded")
            .values_list("id", "text")[:_OF_EACH]
        )
        counts = _counted(compiled.opening, trait, list(found))
        for pk, text in found.items():
            if pk in counts:
                line = line_text(Criterion(trait.key, (Exactly(text),)))
                yield Suggestion(trait, text, f"as the {trait.label}", line, f"{counts[pk]:,}")


@dataclass(frozen=True)
class RecordedText:
    """A name as recorded and how many parcels of the chosen counties have it."""

    text: str
    shown: str
    parcels: int


def recorded_texts(trait: Trait, typed: str, parcels: QuerySet[ParcelFacts], most: int) -> list[RecordedText]:
    """Return some parcels' recorded names in which a word begins with each typed word, the commonest first."""
    words = words_of(typed)
    if not words or len(max(words, key=len)) < 2:
        return []
    if trait.is_own:
        return _own_texts(trait, words, parcels, most)
    table = table_of(trait)
    each_word = Q()
    for word in words:
        each_word &= Q(words__contains=f" {word}")
    # Enough to rank by how common they are, few enough to answer while typing.
    texts = dict(table._default_manager.filter(each_word).values_list("id", "text")[:400])
    counts = _counted(parcels, trait, list(texts))
    ranked = sorted(counts, key=lambda pk: (-counts[pk], texts[pk]))[:most]
    return [RecordedText(texts[pk], shown(trait, texts[pk]), counts[pk]) for pk in ranked]


def _own_texts(trait: Trait, words: Sequence[str], parcels: QuerySet[ParcelFacts], most: int) -> list[RecordedText]:
    begun = Q()
    for word in words:
        begun &= Q(**{f"{trait.fact}_words__icontains": f" {word}"})
    rows = parcels.filter(begun).values_list(trait.fact).annotate(parcels=Count("*")).order_by("-parcels", trait.fact)[:most]
    return [RecordedText(text, shown(trait, text), parcels) for text, parcels in rows]


def _names(typed: str, compiled: Compiled, scope: Scope) -> Iterator[Suggestion]:
    # An address is typed with its number; without one, its street is what is meant.
    for trait in _ADDRESSES + _NAMES if any(character.isdigit() for character in typed) else _NAMES:
        found = recorded_texts(trait, typed, compiled.opening, _OF_EACH)
        if len(found) > 1:
            criterion = Criterion(trait.key, (Named(typed),))
            if count := compiled.opening.filter(condition(criterion, compiled.counties, scope)).count():
                meaning = f"anywhere in the {trait.label}"
                yield Suggestion(trait, f"with “{typed}”", meaning, line_text(criterion), f"{count:,}")
        for one in found:
            line = line_text(Criterion(trait.key, (Named(one.text, Match.EXACT),)))
            yield Suggestion(trait, one.shown, f"as the {trait.label}", line, f"{one.parcels:,}")


def _numbers(typed: str, compiled: Compiled, scope: Scope) -> Iterator[Suggestion]:
    if not any(character.isdigit() for character in typed):
        return
    trait = CATALOGUE["parcel-number"]
    for county in compiled.counties:
        prefix = slug(county) if len(compiled.counties) > 1 else ""
        try:
            criterion = Criterion(trait.key, (replace(numbers(typed), county=prefix),))
            count = compiled.opening.filter(condition(criterion, (county,), scope), county=county).count()
        except (CriteriaError, ValueTextError):
            continue
        if count:
            where = f" in {county.name}" if prefix else ""
            meaning = f"as the parcel number{where}, and all below it"
            yield Suggestion(trait, typed.upper(), meaning, line_text(criterion), f"{count:,}")


def _listing_numbers(typed: str, compiled: Compiled) -> Iterator[Suggestion]:
    if any(character.isdigit() for character in typed):
        for text in recorded_texts(_LISTING_NUMBER, typed, compiled.opening, _OF_EACH):
            line = line_text(Criterion(_LISTING_NUMBER.key, (Named(text.text, Match.EXACT),)))
            yield Suggestion(_LISTING_NUMBER, text.shown, "as the listing number", line, f"{text.parcels:,}")


def _phrase_groups(typed: str, groups: Sequence[PhraseGroup]) -> Iterator[Suggestion]:
    """Offer groups of the phrase book, by their names and their phrases."""
    for group in groups:
        if any(_starts_a_word(typed, words) for words in (group.name, group.purpose, *group.phrases)):
            told = f"{group.purpose}: {', '.join(group.phrases[:6])}{'…' if len(group.phrases) > 6 else ''}"
            yield Suggestion(_REMARKS, f"{group.name}, in the remarks", told, line_text(group_criterion(group)), "phrase book")


def group_criterion(group: PhraseGroup) -> Criterion:
    """Return the criterion that asks for any of a group's phrases, and refuses those that mean something else."""
    refused = (Members(Quantity.ANY, group.refused),) if group.refused else ()
    return Criterion(_REMARKS.key, (Members(Quantity.ANY, group.phrases),), refused)


def _in_remarks(typed: str, compiled: Compiled, scope: Scope) -> Iterator[Suggestion]:
    """Offer what is typed as a phrase, where some listing's remarks have it."""
    if not words_of(typed):
        return
    criterion = Criterion(_REMARKS.key, (Members(Quantity.ANY, (typed,)),))
    count = compiled.opening.filter(condition(criterion, compiled.counties, scope)).count()
    if count:
        yield Suggestion(_REMARKS, f"“{typed}” in the remarks", "as a phrase", line_text(criterion), f"{count:,}")


def suggest(typed: str, compiled: Compiled, fills: dict[str, Fill], groups: Sequence[PhraseGroup], scope: Scope) -> list[Suggestion]:
    """Return what a typed text may mean, at most fourteen things, traits before values before names before phrases."""
    plain = folded(typed)
    if not plain:
        return []
    sources = (
        _as_typed(typed),
        _sayings(plain, fills),
        _traits(plain, fills),
        _choices(plain, fills),
        _numbers(typed.strip(), compiled, scope),
        _listing_numbers(typed.strip(), compiled),
        _places(plain, compiled),
        _phrase_groups(plain, groups),
        _names(plain, compiled, scope),
        _in_remarks(plain, compiled, scope),
    )
    seen: set[tuple[str, str]] = set()
    found: list[list[Suggestion]] = []
    for source in sources:
        fresh = [one for one in islice(source, _OF_EACH * 2) if (one.trait.key, one.line) not in seen]
        seen |= {(one.trait.key, one.line) for one in fresh}
        found.append(fresh)
    # Of too many, those sources give way that have the most to offer.
    while sum(map(len, found)) > MOST:
        max(found, key=len).pop()
    return [one for source in found for one in source]
