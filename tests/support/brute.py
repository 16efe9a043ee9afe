"""Searches judged parcel by parcel in plain Python, by the rules as written, to hold the database's answers against."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from pyproj import Geod

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError, mask
from jaded_ledger.core.criteria.ring_notation import point_of
from jaded_ledger.core.criteria.search import (
    AnyOf,
    Center,
    Criterion,
    Exactly,
    FigureRange,
    Line,
    Match,
    Members,
    Named,
    Numbers,
    Presence,
    Quantity,
    Ring,
    Search,
)
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.words import folded, words_of
from jaded_ledger.find.parcels import parcels as parcel_rows
from jaded_ledger.find.results import value_of, with_values
from jaded_ledger.records.models import ParcelFacts

Parcel = Mapping[str, Any]
Answer = bool | None
_WGS84 = Geod(ellps="WGS84")
"""Geodesics of PROJ (Karney, 2013): PostGIS's are held against them."""


def parcels(traits: Sequence[Trait], scope: Scope) -> list[Parcel]:
    """Return every parcel's values by trait, with its id and owner."""
    found = []
    for facts in with_values(parcel_rows(scope).select_related("county"), traits):
        values = {trait.key: value_of(facts, trait) for trait in traits}
        places = {trait.key: _place(facts) for trait in traits if trait.kind is Kind.RING}
        found.append(values | places | {"id": facts.parcel_id, "owner-id": facts.owner_id, "mask": facts.county.parcel_number_mask})
    return found


def _place(facts: ParcelFacts) -> tuple[float, float] | None:
    """Return where a parcel lies: what a ring is asked of."""
    return None if facts.longitude is None or facts.latitude is None else (facts.longitude, facts.latitude)


def _says(text: str, phrase: str) -> bool:
    """Whether words stand in a text in order, the last letters of one left open by ``*``; field by field."""
    wanted = phrase.casefold().split()
    for field in text.split("\n\n"):
        words = words_of(field)
        for start in range(len(words) - len(wanted) + 1):
            there = words[start : start + len(wanted)]
            if all(w == t or (w.endswith("*") and t.startswith(w[:-1])) for w, t in zip(wanted, there, strict=True)):
                return bool(wanted)
    return False


def _held(trait: Trait, word: str) -> tuple[str, ...]:
    """Return the values that a word stands for: those of an umbrella, or itself."""
    return next((one.holds for one in trait.umbrellas if one.key == word), (word,))


def _is(value: Any, wanted: Any, parcel: Parcel, today: date, trait: Trait) -> bool:
    if isinstance(wanted, Presence):
        is_nothing = value in (NONE, "nobody", ()) if trait.has_none or trait.choices else False
        return wanted.is_there is not (is_nothing or (trait.zero_is_none and value == 0))
    if trait.event and value == NONE:
        return False
    match wanted:
        case Members(quantity, items) if isinstance(value, tuple):
            enough = all if quantity is Quantity.ALL else any
            return enough(any(one in value for one in _held(trait, item)) for item in items)
        case Members(quantity, items):
            enough = all if quantity is Quantity.ALL else any
            return enough(_says(value, item) for item in items)
        case Exactly(bool() as flag):
            return value is flag
        case Exactly(str() as name):
            return any(folded(value) == folded(one) for one in _held(trait, name))
        case Exactly(number):
            return float(value) == float(number)
        case FigureRange(low, high):
            return (low is None or value >= float(low)) and (high is None or value <= float(high))
        case Named(text, Match.EXACT):
            return folded(value) == folded(text)
        case Named(text, Match.BEGINNING):
            return " ".join(words_of(value)).startswith(" ".join(words_of(text)))
        case Named(text):
            pieces = [" ".join(words_of(piece)) for piece in text.split() if words_of(piece)]
            return bool(pieces) and all(_says(value, piece) for piece in pieces)
        case Ring(center=Center.POINT):
            low, high = wanted.meters
            meters = _WGS84.inv(*value, *point_of(wanted))[2]
            return (low is None or meters >= low) and (high is None or meters <= high)
        case Numbers(pattern):
            rules = mask(parcel["mask"])
            try:
                return any(keys.holds(rules.key(value)) for keys in rules.ranges(pattern))
            except ParcelNumberError:
                return False
    return wanted.resolve(today).holds(value)


def _criterion(criterion: Criterion, parcel: Parcel, today: date) -> Answer:
    value, trait = parcel[criterion.trait], CATALOGUE[criterion.trait]
    if value is None:
        return True if criterion.unknown else None
    if not criterion.accepts and not criterion.refuses:
        return False
    accepted = not criterion.accepts or any(_is(value, wanted, parcel, today, trait) for wanted in criterion.accepts)
    return accepted and not any(_is(value, wanted, parcel, today, trait) for wanted in criterion.refuses)


def judge(line: Line, parcel: Parcel, today: date) -> Answer:
    """Return whether a line holds for a parcel; None when that is unknown."""
    if isinstance(line, Criterion):
        return _criterion(line, parcel, today)
    assert isinstance(line, AnyOf)
    answers = [_criterion(member, parcel, today) for member in line.criteria]
    if True in answers:
        return True
    return None if None in answers else False


class Judged:
    """A search judged for every parcel: each applied line's answers, and what follows from them."""

    def __init__(self, search: Search, among: Sequence[Parcel], today: date) -> None:
        self.among = among
        self.answers = [[judge(line, parcel, today) for parcel in among] if line.is_applied else None for line in search.lines]
        self.matches = [parcel for place, parcel in enumerate(among) if self._holds(place)]

    def _holds(self, place: int, but: int | None = None) -> bool:
        return all(answers is None or number == but or answers[place] is True for number, answers in enumerate(self.answers))

    def balance(self) -> list[tuple[int, int, int, int | None]]:
        """Return removed, unknown, balance and what striking gives back, line by line."""
        found, left = [], list(range(len(self.among)))
        for number, answers in enumerate(self.answers):
            if answers is None:
                found.append((0, 0, len(left), None))
                continue
            kept = [place for place in left if answers[place] is True]
            unknown = sum(answers[place] is None for place in left)
            without = sum(answers[place] is not True and self._holds(place, but=number) for place in range(len(self.among)))
            found.append((len(left) - len(kept), unknown, len(kept), without))
            left = kept
        return found
