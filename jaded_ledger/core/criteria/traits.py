"""What a trait is. The traits themselves are declared in ``catalogue``."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum


class Kind(StrEnum):
    """How a trait's values are typed, compared and shown."""

    NUMBER = "number"
    PERCENT = "percent"
    MONEY = "money"
    DATE = "date"
    CHOICE = "choice"  # one of a list that is declared with the trait
    FLAG = "flag"  # yes or no
    PLACE = "place"  # one of the places on record, by its name
    NAME = "name"  # a name as recorded: exact, by its beginning, or by its words
    PARCEL_NUMBER = "parcel-number"
    PHRASES = "phrases"  # words in running text
    SET = "set"  # several at once, such as the lists a parcel is on
    RING = "ring"  # how far from a center that the search names


class Section(StrEnum):
    """Where a trait is found when browsing."""

    PLACE = "place"
    PROPERTY = "property"
    OWNER = "owner"
    VALUE = "value and equity"
    SALES = "sale history"
    DISTRESS = "distress"
    LISTING = "listing"
    AREA = "area"
    LISTS = "lists"
    COUNTY = "the county’s own columns"


@dataclass(frozen=True)
class Choice:
    """One value of a choice trait: ``key`` as typed, ``code`` as stored (never given to another)."""

    code: int
    key: str
    synonyms: tuple[str, ...] = ()


@dataclass(frozen=True)
class Umbrella:
    """One word for several values of a choice trait or a set: ``multi-family`` is a duplex, a triplex and so on."""

    key: str
    holds: tuple[str, ...]
    synonyms: tuple[str, ...] = ()


def _as_said(word: str) -> str:
    """Return a word as it is compared with the names of values: hyphens and spaces are alike.

    >>> _as_said("Two Family") == _as_said("two-family")
    True
    """
    return " ".join(word.casefold().replace("-", " ").replace("’", "'").split())


@dataclass(frozen=True)
class Trait:
    """Something known or computed about a parcel that can be filtered, shown and sorted.

    ``sayings`` are words that mean the trait with a value: absentee is owner-occupied: no.
    ``fact`` names the column of the searchable row, where it is not the key with underscores, or leads to one of a row that
    it points at. ``decimals`` is how many places are stored, compared and shown. ``grouped`` numbers are written with
    thousands commas (a year is not).
    """

    key: str
    label: str
    section: Section
    kind: Kind
    meaning: str
    source: str
    unit: str = ""
    synonyms: tuple[str, ...] = ()
    sayings: tuple[tuple[str, str], ...] = ()
    choices: tuple[Choice, ...] = ()
    umbrellas: tuple[Umbrella, ...] = ()
    by_name: str = ""
    """The value that is meant where only its name is said: *any* of what is an event, such as probate; a flag's is yes."""
    in_percent: str = ""
    """For an amount: the key of the trait that tells the same in percent."""
    decimals: int = 0
    grouped: bool = True
    fact: str = ""
    fields: tuple[str, ...] = ()
    """For a text of several fields: their names, in order; phrases may be looked for in some of them only."""
    rule: str = ""
    """How it is derived; blank for what is shown as recorded."""
    event: str = ""
    """For what an event tells of: the column that says whether there was one. Where there was none, the value is *none*, not unknown."""
    since: str = ""
    """For what grows with time: the column of the day from which it does. Years since then, or days since then and the column's own."""
    zero_is_none: bool = False
    """For a figure: whether 0 of it is none at all."""
    is_ahead: bool = False
    """For a day: whether it is one to come, as that of an auction."""
    adds_up: bool = False
    """For a figure: whether a sum over parcels means something: of acres or debts, and not of years or prices a square foot."""
    of_several: str = ""
    """For an amount that may be for several parcels: the column of how many."""
    of_team: bool = False
    """Whether each team has its own values, kept outside the records."""
    county: str = ""
    """Whose own column it is, kept among the row's further values; blank for a trait of all counties."""

    def __post_init__(self) -> None:
        if not self.fact:
            object.__setattr__(self, "fact", self.key.replace("-", "_"))
        if self.kind is Kind.FLAG and not self.by_name:
            object.__setattr__(self, "by_name", "yes")

    @property
    def is_own(self) -> bool:
        """Whether it is one county's own column."""
        return bool(self.county)

    @property
    def has_none(self) -> bool:
        """Whether it can be known that there is nothing: no such event, an empty set."""
        return bool(self.event) or self.kind is Kind.SET

    @property
    def nothing(self) -> Choice | None:
        """The choice that says that there is none, such as *nobody*."""
        return next((choice for choice in self.choices if choice.code == 0), None)

    @property
    def takes_any(self) -> bool:
        """Whether it can be asked for any value at all. A flag's is yes or no, and a parcel number everyone has."""
        return self.has_none or not (self.is_own or self.of_team or self.kind in (Kind.FLAG, Kind.PARCEL_NUMBER, Kind.RING))

    @property
    def is_range(self) -> bool:
        """Whether values have an order that a range can be asked of."""
        return self.kind in (Kind.NUMBER, Kind.PERCENT, Kind.MONEY, Kind.DATE)

    @property
    def is_figure(self) -> bool:
        """Whether values are figures, set right-aligned."""
        return self.is_range or self.kind is Kind.RING

    def value_names(self) -> Iterator[tuple[str, tuple[str, ...]]]:
        """Yield the key of each choice and umbrella, and all that it is called."""
        values: tuple[Choice | Umbrella, ...] = (*self.choices, *self.umbrellas)
        for value in values:
            yield value.key, (value.key, *value.synonyms)

    def meant(self, word: str) -> str | None:
        """Return the key of the choice or umbrella that a word means, by its own name before any that is like it."""
        wanted = _as_said(word)
        for key, _ in self.value_names():
            if wanted == _as_said(key):
                return key
        return next((key for key, called in self.value_names() if any(wanted == _as_said(name) for name in called)), None)

    def codes(self, word: str) -> tuple[int, ...]:
        """Return how the choices are stored that a word means: one, those that an umbrella holds, or none where it means nothing."""
        key = self.meant(word)
        holds = next((umbrella.holds for umbrella in self.umbrellas if umbrella.key == key), (key,))
        return tuple(choice.code for choice in self.choices if choice.key in holds)

    def choice_by_code(self, code: int) -> Choice:
        """Return the choice stored as a code. Raises KeyError for one that was never declared."""
        for choice in self.choices:
            if choice.code == code:
                return choice
        raise KeyError(code)


Source = Callable[[], Mapping[str, Trait]]


class Catalogue:
    """Traits by key, in the order in which they are browsed.

    Those declared here are the same everywhere. A county's own are looked up in a source that the records give; they
    are found by key, but are no part of the order: who browses says of which counties.
    """

    def __init__(self, traits: Iterable[Trait]) -> None:
        self._traits = {trait.key: trait for trait in traits}
        self._source: Source = dict

    def look_up_in(self, source: Source) -> Source:
        """Take the counties' own traits, by key, from a source; return the one before."""
        before, self._source = self._source, source
        return before

    def add(self, traits: Iterable[Trait]) -> None:
        """Add traits that an app declares, at the end."""
        self._traits |= {trait.key: trait for trait in traits}

    def __iter__(self) -> Iterator[Trait]:
        return iter(self._traits.values())

    def __getitem__(self, key: str) -> Trait:
        return self._traits[key] if key in self._traits else self._source()[key]

    def __contains__(self, key: str) -> bool:
        return self.get(key) is not None

    def get(self, key: str) -> Trait | None:
        """Return a trait, or None when there is none of that key."""
        return self._traits.get(key) or self._source().get(key)

    def named(self, name: str) -> tuple[Trait, ...]:
        """Return the traits that a name means: the one of that key, else those so labeled, else those so called."""
        key = "-".join(name.casefold().split())
        if found := self._traits.get(key):
            return (found,)
        wanted = _as_said(name)
        called = tuple(trait for trait in self if _as_said(trait.label) == wanted)
        called = called or tuple(trait for trait in self if any(_as_said(name) == wanted for name in trait.synonyms))
        if called:
            return called
        own = self._source().get(key)
        return (own,) if own else ()

    def nearest(self, word: str) -> str | None:
        """Return the key closest to a misspelt word, or None when nothing is close."""
        names = {key.casefold(): key for key in self._source()}
        names |= {name.casefold(): trait.key for trait in self for name in (trait.label, *trait.synonyms, trait.key)}
        found = difflib.get_close_matches(word.casefold(), names, n=1, cutoff=0.7)
        return names[found[0]] if found else None
