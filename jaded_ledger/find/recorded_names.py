"""Names on record, for sentences that are typed: places, streets, owners, lenders of the chosen counties, and what the team named."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.words import folded, words_of
from jaded_ledger.find.compiler import places_of
from jaded_ledger.find.team_traits import TeamTrait, team_traits
from jaded_ledger.records.models import County, Street
from jaded_ledger.records.trait_columns import table_of

_LONGEST = 4
"""Words; a name that is longer is begun by them."""
_SHORTEST = 3
"""Letters of a word by which a name is looked for."""
_MOST_STREETS = 200
_SUFFIXES = {
    "street": "st", "lane": "ln", "avenue": "ave", "road": "rd", "drive": "dr", "court": "ct", "place": "pl", "boulevard": "blvd",
    "circle": "cir", "terrace": "ter", "parkway": "pkwy", "highway": "hwy", "trail": "trl", "square": "sq",
}  # fmt: skip
"""USPS Publication 28, appendix C1: those that people write out."""


def _plain(name: str) -> str:
    """Return what names are compared by: their words, without the *and* that may be written &."""
    return " ".join(word for word in words_of(name) if word != "and")


class RecordedNames:
    """What a sentence's words may be names of. Each name is asked of the database once."""

    def __init__(self, counties: Sequence[County], team: Team) -> None:
        self._counties = tuple(counties)
        self._team = team
        self._places: dict[str, dict[str, str]] = {}
        self._found: dict[tuple[str, tuple[str, ...]], tuple[str, int] | None] = {}

    def find(self, trait: str, words: Sequence[str]) -> tuple[str, int] | None:
        """Return the recorded name that some words begin with, and how many of them it takes; None where there is none."""
        declared = team_traits().get(trait)
        if declared and declared.things:
            return self._begun(self._things_of(declared), words)
        key = (trait, tuple(words[:_LONGEST]))
        if key not in self._found:
            self._found[key] = self._find(CATALOGUE.get(trait), list(key[1]))
        return self._found[key]

    def _find(self, trait: Trait | None, words: list[str]) -> tuple[str, int] | None:
        if trait is None or not words:
            return None
        if trait.key == "county":
            return self._begun(self._county_names, words)
        if trait.kind is Kind.PLACE:
            return self._longest(self._names_of(trait), words)
        if trait.key == "street":
            return self._street(trait, words)
        return self._name(trait, words) if trait.kind is Kind.NAME and not trait.is_own else None

    @cached_property
    def _county_names(self) -> dict[str, str]:
        return {_plain(name): name for name in County.objects.values_list("name", flat=True)}

    def _things_of(self, declared: TeamTrait) -> dict[str, str]:
        key = declared.trait.key
        if key not in self._places:
            assert declared.things is not None
            self._places[key] = {_plain(thing.name): thing.name for thing in declared.things(self._team) if thing.is_current}
        return self._places[key]

    def _names_of(self, trait: Trait) -> dict[str, str]:
        if trait.key not in self._places:
            self._places[trait.key] = {_plain(text): text for text in places_of(trait, self._counties).values_list("text", flat=True)}
        return self._places[trait.key]

    @staticmethod
    def _longest(names: dict[str, str], words: Sequence[str]) -> tuple[str, int] | None:
        for count in range(len(words), 0, -1):
            if name := names.get(_plain(" ".join(words[:count]))):
                return name, count
        return None

    def _begun(self, names: dict[str, str], words: Sequence[str]) -> tuple[str, int] | None:
        """Return the name that the words are, or the only one that begins with them."""
        if found := self._longest(names, words):
            return found
        for count in range(len(words), 0, -1):
            begun = [name for key, name in names.items() if key.startswith(f"{_plain(' '.join(words[:count]))} ")]
            if len(begun) == 1:
                return begun[0], count
        return None

    def _street(self, trait: Trait, words: Sequence[str]) -> tuple[str, int] | None:
        typed = [_SUFFIXES.get(word, word) for word in map(folded, words)]
        if len(typed[0]) < _SHORTEST:
            return None
        begun = Street.objects.filter(county__in=self._counties, words__startswith=f" {typed[0]}").values_list("text", flat=True)
        best: tuple[int, int, str] | None = None
        for text in begun[:_MOST_STREETS]:
            recorded = [_SUFFIXES.get(word, word) for word in words_of(text)]
            same = next((count for count, pair in enumerate(zip(typed, recorded, strict=False)) if pair[0] != pair[1]), None)
            count = min(len(typed), len(recorded)) if same is None else same
            if count and (best is None or (count, -len(recorded)) > best[:2]):
                best = (count, -len(recorded), text)
        return (shown(trait, best[2]), best[0]) if best else None

    def _name(self, trait: Trait, words: Sequence[str]) -> tuple[str, int] | None:
        """Return as many words as some recorded name has."""
        table = table_of(trait)
        for count in range(len(words), 0, -1):
            looked_for = words_of(" ".join(words[:count]))
            if not looked_for or max(map(len, looked_for)) < _SHORTEST:
                continue
            rows = table._default_manager.all()
            for word in looked_for:
                rows = rows.filter(words__contains=f" {word} ")
            if rows.exists():
                return f'"{" ".join(words[:count])}"', count
        return None
