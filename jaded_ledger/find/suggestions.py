"""What the add box offers while somebody types: traits, values, places, recorded names, parcel numbers."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import islice

from django.db.models import Count, Q, QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown, value_phrase
from jaded_ledger.core.criteria.language.reading import Reading
from jaded_ledger.core.criteria.parcel_number_notation import numbers
from jaded_ledger.core.criteria.phrase_book import PhraseGroup
from jaded_ledger.core.criteria.ring_notation import ring
from jaded_ledger.core.criteria.search import Criterion, Exactly, Match, Members, Named, Quantity, Search
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse_line
from jaded_ledger.core.criteria.trait_names import Fit, Meaning, meanings, near_meanings
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.criteria.wrong_value import ValueTextError
from jaded_ledger.core.phrases import check_phrase
from jaded_ledger.core.words import folded, words_of
from jaded_ledger.find.compiler import Compiled, compiled_or_opening, condition, phrase_in_fields, places_of
from jaded_ledger.find.fill import Fill, fills
from jaded_ledger.find.name_counts import COUNTS_PARCELS, counts_on_record, so_many, so_many_said
from jaded_ledger.find.phrase_books import groups_of
from jaded_ledger.find.said import explained, is_sentence, open_ends, phrase_of, reading_of, searches_of, text_of
from jaded_ledger.records.models import ParcelFacts, Remarks
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
    """One thing the box offers. ``line`` is a whole criterion to add; without it the trait's editor opens.

    What is not ``is_sure`` is only the nearest there is: it is offered, and not taken by Enter alone.
    """

    trait: Trait
    label: str
    meaning: str
    line: str = ""
    aside: str = ""
    is_low: bool = False
    is_sure: bool = True


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


def _as_ring(typed: str, fills: dict[str, Fill]) -> Iterator[Suggestion]:
    """Offer what a text asks of how far something lies from a center: ``within 2 miles of 103 Capstan St``."""
    try:
        found = ring(typed)
    except ValueTextError:
        return
    for fill in fills.values():
        if fill.trait.kind is Kind.RING:
            yield _said(Criterion(fill.trait.key, (found,)), fill)


def _as_sentence(reading: Reading) -> Iterator[Suggestion]:
    """Offer the searches that a sentence may mean: one, or those between which somebody chooses; those that leave words out say so."""
    found = searches_of(reading)
    without = f"without {', '.join(f'“{words}”' for words in reading.unused)}" if reading.unused else ""
    shared = set.intersection(*(set(lines) for lines, _ in found)) if len(found) > 1 else set()
    for place, (lines, _) in enumerate(found):
        # Of several readings that in which they differ is read first.
        differ = [line for line in lines if line not in shared] or list(lines)
        meaning = "as a sentence" if len(found) == 1 else "choose what is meant"
        if reading.is_learned and not place:
            meaning = "as your team corrected it"
        meaning = without if without and len(found) == 1 else meaning + (f", {without}" if without else "")
        label = f"Add these {len(lines)} lines" if len(found) == 1 and len(lines) > 1 else ", ".join(map(phrase_of, differ))
        is_sure = len(found) == 1 and not without
        yield Suggestion(trait_of(differ[0]), label, meaning, text_of(lines), is_sure=is_sure)


def trait_of(line: str) -> Trait:
    """Return the trait of a reading's line."""
    return CATALOGUE[line.strip("{").partition(":")[0]]


def _with_open_ends(reading: Reading, fills: dict[str, Fill]) -> Iterator[Suggestion]:
    """Offer *or more* and *or less* of a sentence that asks for one exact figure."""
    if not reading.is_clear or len(reading.lines) != 1:
        return
    for criterion in open_ends(reading.lines):
        yield _said(criterion, fills[criterion.trait])


def _said(criterion: Criterion, fill: Fill) -> Suggestion:
    label = f"{fill.trait.label} {value_phrase(criterion)}"
    return Suggestion(fill.trait, label, fill.picture or fill.trait.meaning, line_text(criterion), fill.said, fill.is_low)


def _named(found: Iterable[Meaning], fills: dict[str, Fill]) -> Iterator[Suggestion]:
    """Offer what names mean: a value as a criterion, a trait as its editor, and before it what its name alone asks."""
    for meaning in found:
        trait, fill = meaning.trait, fills[meaning.trait.key]
        nearest = "" if meaning.fit < Fit.SLIP else f"nearest to what is typed: {meaning.name}; "
        is_sure = meaning.fit is not Fit.NEAR
        if not meaning.value:
            yield replace(_of_trait(trait, fills), is_sure=is_sure)
            continue
        criterion = parse_line(f"{trait.key}: {meaning.value}")
        line = line_text(criterion)
        if key := meaning.key:
            held = next((f": {', '.join(one.holds)}" for one in trait.umbrellas if one.key == key), "")
            count = fill.commonest.get(key)
            yield Suggestion(trait, key, f"{nearest}as the {trait.label}{held}", line, f"{count:,}" if count else "", is_sure=is_sure)
            continue
        asks = f"{trait.label}: {value_phrase(criterion)}; {trait.meaning}"
        label = meaning.name if meaning.is_of_value else f"{trait.label} {value_phrase(criterion)}"
        yield Suggestion(trait, label, nearest + asks, line, fill.said, fill.is_low, is_sure)
        if not meaning.is_of_value:
            yield replace(_of_trait(trait, fills), is_sure=is_sure)


def _places(typed: str, compiled: Compiled, fills: dict[str, Fill]) -> Iterator[Suggestion]:
    for trait in _PLACES:
        found = dict(
            places_of(trait, compiled.counties)
            .filter(Q(folded__startswith=typed) | Q(folded__contains=f" {typed}"))
            .order_by("folded")
            .values_list("id", "text")[:_OF_EACH]
        )
        # The commonest are counted already; others are few enough to be.
        common = fills[trait.key].commonest
        rare = {pk: text for pk, text in found.items() if text not in common}
        counts = counts_on_record(trait, rare, compiled.counties, compiled.opening) if rare else {}
        for pk, text in found.items():
            if count := common.get(text) or counts.get(pk):
                yield Suggestion(
                    trait, text, f"as the {trait.label}", line_text(Criterion(trait.key, (Exactly(text),))), so_many_said(count)
                )


@dataclass(frozen=True)
class RecordedText:
    """A name as recorded and how many parcels of the chosen counties have it."""

    text: str
    shown: str
    parcels: int


def recorded_texts(trait: Trait, typed: str, compiled: Compiled, most: int) -> list[RecordedText]:
    """Return recorded names of the chosen counties in which a word begins with each typed word, the commonest first."""
    words = words_of(typed)
    if not words or len(max(words, key=len)) < 2:
        return []
    if trait.is_own:
        return _own_texts(trait, words, compiled.opening, most)
    table = table_of(trait)
    each_word = Q()
    for word in words:
        each_word &= Q(words__contains=f" {word}")
    # Enough to rank by how common they are, few enough to answer while typing.
    texts = dict(table._default_manager.filter(each_word).values_list("id", "text")[:400])
    counts = counts_on_record(trait, texts, compiled.counties, compiled.opening) if texts else {}
    ranked = sorted(counts, key=lambda pk: (-counts[pk], texts[pk]))[:most]
    return [RecordedText(texts[pk], shown(trait, texts[pk]), counts[pk]) for pk in ranked]


def _own_texts(trait: Trait, words: Sequence[str], parcels: QuerySet[ParcelFacts], most: int) -> list[RecordedText]:
    begun = Q()
    for word in words:
        begun &= Q(**{f"{trait.fact}_words__icontains": f" {word}"})
    rows = parcels.filter(begun).values_list(trait.fact).annotate(parcels=Count("*")).order_by("-parcels", trait.fact)[:most]
    return [RecordedText(text, shown(trait, text), parcels) for text, parcels in rows]


def _names(typed: str, compiled: Compiled) -> Iterator[Suggestion]:
    # An address is typed with its number; without one, its street is what is meant.
    for trait in _ADDRESSES + _NAMES if any(character.isdigit() for character in typed) else _NAMES:
        found = recorded_texts(trait, typed, compiled, _OF_EACH)
        if len(found) > 1:
            yield Suggestion(trait, f"with “{typed}”", f"anywhere in the {trait.label}", line_text(Criterion(trait.key, (Named(typed),))))
        for one in found:
            line = line_text(Criterion(trait.key, (Named(one.text, Match.EXACT),)))
            yield Suggestion(
                trait, one.shown, f"as the {trait.label}", line, so_many_said(one.parcels) if trait.key in COUNTS_PARCELS else ""
            )


def _numbers(typed: str, compiled: Compiled, scope: Scope) -> Iterator[Suggestion]:
    if not any(character.isdigit() for character in typed):
        return
    trait = CATALOGUE["parcel-number"]
    for county in compiled.counties:
        prefix = slug(county) if len(compiled.counties) > 1 else ""
        try:
            criterion = Criterion(trait.key, (replace(numbers(typed), county=prefix),))
            count = so_many(compiled.opening.filter(condition(criterion, (county,), scope), county=county))
        except (CriteriaError, ValueTextError):
            continue
        if count:
            where = f" in {county.name}" if prefix else ""
            meaning = f"as the parcel number{where}, and all below it"
            yield Suggestion(trait, typed.upper(), meaning, line_text(criterion), count)


def _listing_numbers(typed: str, compiled: Compiled) -> Iterator[Suggestion]:
    if any(character.isdigit() for character in typed):
        for text in recorded_texts(_LISTING_NUMBER, typed, compiled, _OF_EACH):
            line = line_text(Criterion(_LISTING_NUMBER.key, (Named(text.text, Match.EXACT),)))
            yield Suggestion(_LISTING_NUMBER, text.shown, "as the listing number", line, so_many_said(text.parcels))


def _phrase_groups(typed: str, groups: Sequence[PhraseGroup]) -> Iterator[Suggestion]:
    """Offer groups of the phrase book, by their names and their phrases."""
    for group in groups:
        if any(_starts_a_word(typed, words) for words in (group.name, group.purpose, *group.phrases)):
            phrases = f"{group.purpose}: {', '.join(group.phrases[:6])}{'…' if len(group.phrases) > 6 else ''}"
            yield Suggestion(_REMARKS, f"{group.name}, in the remarks", phrases, line_text(group_criterion(group)), "phrase book")


def group_criterion(group: PhraseGroup) -> Criterion:
    """Return the criterion that asks for any of a group's phrases, and refuses those that mean something else."""
    refused = (Members(Quantity.ANY, group.refused),) if group.refused else ()
    return Criterion(_REMARKS.key, (Members(Quantity.ANY, group.phrases),), refused)


def _in_remarks(typed: str) -> Iterator[Suggestion]:
    """Offer what is typed as a phrase, also where no listing's remarks have it so far."""
    try:
        check_phrase(typed)
    except ValueError:
        return
    criterion = Criterion(_REMARKS.key, (Members(Quantity.ANY, (typed,)),))
    count = so_many(Remarks.objects.filter(phrase_in_fields("words", typed, ())))
    meaning = "as a phrase" if count else "as a phrase, which no listing's remarks have so far"
    yield Suggestion(_REMARKS, f"“{typed}” in the remarks", meaning, line_text(criterion), count or "0", is_sure=bool(count))


@dataclass(frozen=True)
class Offer:
    """What the box offers: things to choose, the likeliest first, and how the text is read as a sentence where that leads them."""

    found: list[Suggestion]
    reading: Reading | None = None


def suggest(typed: str, compiled: Compiled, fills: dict[str, Fill], groups: Sequence[PhraseGroup], scope: Scope) -> Offer:
    """Return what a typed text may mean, at most fourteen things, the likeliest first."""
    plain = folded(typed)
    if not plain:
        return Offer([])
    traits = tuple(fill.trait for fill in fills.values() if fill.trait.key != "county")
    named = meanings(typed, traits)
    reading = Reading(()) if ":" in typed else reading_of(typed, compiled.counties, scope)
    if not is_sentence(typed) and not reading.is_learned:
        reading = Reading(())
    meant = list(_as_sentence(reading))
    rings = list(_as_ring(typed, fills))
    sources: list[Iterator[Suggestion]] = [
        _as_typed(typed),
        # What is called so by itself is meant before what its words say together.
        _named((one for one in named if one.fit <= Fit.ANY_ORDER), fills),
        iter(rings),
        iter(meant if not reading.unused else ()),
        _with_open_ends(reading, fills),
        _numbers(typed.strip(), compiled, scope),
        _named((one for one in named if one.fit is Fit.BEGINNING), fills),
        _listing_numbers(typed.strip(), compiled),
        _places(plain, compiled, fills),
        _named((one for one in named if one.fit is Fit.BEGINNINGS), fills),
        _phrase_groups(plain, groups),
        _names(plain, compiled),
    ]
    # A letter may be wrong where nothing else fits.
    if not named and not rings and not reading.is_clear:
        sources.append(_named(near_meanings(typed, traits, _OF_EACH), fills))
    sources.append(_in_remarks(plain))
    seen: set[tuple[str, str]] = set()
    found: list[list[Suggestion]] = []
    for source in sources:
        fresh = [one for one in islice(source, _OF_EACH * 2) if (one.trait.key, one.line) not in seen]
        seen |= {(one.trait.key, one.line) for one in fresh}
        found.append(fresh)
    # Of too many, those sources give way that have the most to offer.
    while sum(map(len, found)) > MOST:
        max(found, key=len).pop()
    every = [one for source in found for one in source]
    if not reading.parts and not reading.cannot:
        return Offer(every)
    if every and every[0].is_sure and not reading.is_learned:
        return Offer(every, reading if meant and every[0] is meant[0] else None)
    # Nothing is meant for sure: what is understood leads, with what of it is to be chosen.
    lines = {(one.trait.key, one.line) for one in meant}
    return Offer([*meant, *(one for one in every if (one.trait.key, one.line) not in lines)], reading)


def offered(typed: str, search: Search, scope: Scope) -> Offer:
    """Return what the box offers for a text, to be added to a search."""
    compiled = compiled_or_opening(search, scope)
    return suggest(typed, compiled, fills(compiled.counties), groups_of(scope.team), scope)


def first_of(offer: Offer, typed: str) -> Suggestion:
    """Return what Enter takes of an offer. Raises CriteriaError where nothing on record is meant for sure."""
    found = offer.found
    if found and found[0].is_sure:
        return found[0]
    if offer.reading:
        raise CriteriaError(f"{'; '.join(explained(offer.reading, phrase_of))}. Choose with ↓, or write it otherwise", word=typed)
    nearest = next((one for one in found if one.trait is not _REMARKS), None)
    hint = f"did you mean {nearest.label}? Else choose" if nearest else "choose"
    raise CriteriaError(
        f"nothing on record is called “{typed}”; {hint} a trait, a value, a street, an owner or a parcel number, or, with ↓, "
        "the phrase in the listings' remarks",
        word=typed,
    )
