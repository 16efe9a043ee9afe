"""What traits and their values are called, and which of those names typed words mean.

Words may stand in any order, be only begun, or be wrong by a letter.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from enum import IntEnum
from functools import lru_cache

from rapidfuzz import fuzz, process
from rapidfuzz.distance import OSA

from jaded_ledger.core.criteria.search import Exactly, Members, Quantity
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.values import value_text
from jaded_ledger.core.words import plain

_WORD = re.compile(r"[^\W_]+|[$%]")
_JOINED = re.compile(r"[A-Z][A-Za-z0-9]*[a-z0-9][A-Z][A-Za-z0-9]*")
"""A field's name as feeds write it: ``BedroomsTotal``."""
_REFUSING = ("no", "not", "non", "without")
_PASSED_OVER = ("with", "has", "have", "having", "is", "are", "a", "an", "the")
_SHORTEST_SLIP = 4
_NEAR = 75
"""How alike, of 100, a name must be to be offered where nothing fits."""


class Fit(IntEnum):
    """How typed words fit a name, the best first."""

    EXACT = 0
    ANY_ORDER = 1
    BEGINNING = 2
    BEGINNINGS = 3
    SLIP = 4
    NEAR = 5


class _Of(IntEnum):
    """What a name is a name of: of names that fit alike, the lower is meant."""

    TRAIT = 0
    SAYING = 1
    VALUE = 2
    VALUE_SYNONYM = 3
    TRAIT_SYNONYM = 4


@dataclass(frozen=True)
class Meaning:
    """What a name means: a trait with the value as the text form has it, or blank where the value is still to be said."""

    trait: Trait
    value: str
    name: str
    fit: Fit = Fit.EXACT
    key: str = ""
    """The choice or umbrella that it names, where it names one."""

    @property
    def is_of_value(self) -> bool:
        """Whether the name is that of a value or of a saying, not the trait's own."""
        return bool(self.key) or (bool(self.value) and self.value != self.trait.by_name)


@dataclass(frozen=True)
class _Name:
    words: tuple[str, ...]
    of: _Of
    meaning: Meaning


def name_words(text: str) -> tuple[str, ...]:
    """Return the words of a name, signs for dollars and percent among them.

    >>> name_words("mechanic's lien"), name_words("$/sq ft"), name_words("BedroomsTotal")
    (('mechanics', 'lien'), ('$', 'sq', 'ft'), ('bedrooms', 'total'))
    """
    text = plain(text)
    if _JOINED.fullmatch(text.strip()):
        text = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", " ", text)
    return tuple(_WORD.findall(text.casefold().replace("'", "").replace("’", "")))


def singular(word: str) -> str:
    """Return a word without the s of more than one.

    >>> singular("beds"), singular("class")
    ('bed', 'class')
    """
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word


def is_slip(typed: str, word: str) -> bool:
    """Return whether a word was meant with one letter wrong, missing, too many or changed with its neighbor.

    >>> is_slip("morgage", "mortgage"), is_slip("lot", "lots")
    (True, False)
    """
    return min(len(typed), len(word)) >= _SHORTEST_SLIP and OSA.distance(typed, word, score_cutoff=1) <= 1


def _names_of(trait: Trait) -> Iterator[_Name]:
    def named(name: str, of: _Of, value: str, key: str = "") -> _Name:
        return _Name(name_words(name), of, Meaning(trait, value, name, key=key))

    for name in dict.fromkeys((trait.label, trait.key)):
        yield named(name, _Of.TRAIT, trait.by_name)
    for name, value in trait.sayings:
        yield named(name, _Of.SAYING, value)
    for key, called in trait.value_names():
        if key != (trait.nothing.key if trait.nothing else ""):
            value = value_text(Members(Quantity.ANY, (key,)) if trait.kind is Kind.SET else Exactly(key))
            yield named(key, _Of.VALUE, value, key)
            for name in called[1:]:
                yield named(name, _Of.VALUE_SYNONYM, value, key)
    for name in trait.synonyms:
        yield named(name, _Of.TRAIT_SYNONYM, trait.by_name)


@lru_cache(maxsize=64)
def _names(traits: tuple[Trait, ...]) -> tuple[_Name, ...]:
    return tuple(name for trait in traits for name in _names_of(trait))


def named_meanings(traits: tuple[Trait, ...]) -> Iterator[Meaning]:
    """Yield what every name of some traits and of their values means, the traits' own names first."""
    for name in sorted(_names(traits), key=lambda name: name.of):
        yield name.meaning


def _take(typed: Sequence[str], words: Sequence[str], *, slips: bool) -> bool:
    """Return whether each typed word begins another of a name's words, or with slips is meant for it."""
    left = list(words)
    for one in typed:
        found = next((word for word in left if word == one), None) or next((word for word in left if word.startswith(one)), None)
        if found is None and slips:
            found = next((word for word in left if is_slip(one, word) or (len(typed) > 1 and len(one) > 2 and _is_turned(one, word))), None)
        if found is None:
            return False
        left.remove(found)
    return True


def _is_turned(typed: str, word: str) -> bool:
    """Return whether two neighboring letters of a short word changed places."""
    return sorted(typed) == sorted(word) and OSA.distance(typed, word, score_cutoff=1) <= 1


def _fit(typed: tuple[str, ...], words: tuple[str, ...]) -> Fit | None:
    if typed == words:
        return Fit.EXACT
    if len(typed) == len(words) and sorted(map(singular, typed)) == sorted(map(singular, words)):
        return Fit.ANY_ORDER
    if " ".join(words).startswith(" ".join(typed)) or "".join(words) == "".join(typed):
        return Fit.BEGINNING
    return Fit.BEGINNINGS if len(typed) <= len(words) and _take(typed, words, slips=False) else None


def _once(found: Iterable[tuple[tuple[int, ...], Meaning]]) -> list[Meaning]:
    """Return meanings in the order of their ranks, each once, by the name that fits best."""
    best: dict[tuple[str, str], Meaning] = {}
    for _, meaning in sorted(found, key=lambda ranked: ranked[0]):
        best.setdefault((meaning.trait.key, meaning.value), meaning)
    return list(best.values())


def meanings(text: str, traits: Iterable[Trait]) -> list[Meaning]:
    """Return which names of traits and of their values some typed words fit, the best first; a name refused by *no* or *not* too.

    >>> from jaded_ledger.core.criteria.catalogue import CATALOGUE
    >>> [(found.trait.key, found.value) for found in meanings("owner out of state", CATALOGUE)][:1]
    [('out-of-state', 'yes')]
    """
    typed, names = name_words(text), _names(tuple(traits))
    if not typed:
        return []
    found = [
        ((fit, name.of, place), replace(name.meaning, fit=fit))
        for place, name in enumerate(names)
        if (fit := _fit(typed, name.words)) is not None
    ]
    return _once([*found, *_turned_about(typed, names)])


def _turned_about(typed: tuple[str, ...], names: Sequence[_Name]) -> Iterator[tuple[tuple[int, ...], Meaning]]:
    """Yield what words mean after the *no* or *not* before them, or the *with* that says nothing."""
    first, rest = typed[0], typed[1:]
    if not rest or first not in (*_REFUSING, *_PASSED_OVER):
        return
    for place, name in enumerate(names):
        fit = _fit(rest, name.words)
        if fit is None or fit > Fit.ANY_ORDER:
            continue
        value = _refused(name.meaning) if first in _REFUSING else name.meaning.value
        if value:
            yield (fit, name.of, place), Meaning(name.meaning.trait, value, " ".join(typed), fit)


def _refused(meaning: Meaning) -> str:
    trait, value = meaning.trait, meaning.value
    if trait.kind is Kind.FLAG:
        return {"yes": "no", "no": "yes"}[value]
    if value == "any":
        return "none" if trait.has_none or trait.zero_is_none else ""
    return f"not {value}" if value and trait.kind is Kind.CHOICE else ""


def near_meanings(text: str, traits: Iterable[Trait], most: int) -> list[Meaning]:
    """Return the names that words with a slip of a letter fit; where none does, those most like them."""
    typed, names = name_words(text), _names(tuple(traits))
    slipped = [
        ((abs(len(name.words) - len(typed)), name.of, place), replace(name.meaning, fit=Fit.SLIP))
        for place, name in enumerate(names)
        if len(typed) <= len(name.words) and _take(typed, name.words, slips=True)
    ]
    if slipped:
        return _once(slipped)[:most]
    spelled = [" ".join(name.words) for name in names]
    near = process.extract(" ".join(typed), spelled, scorer=fuzz.ratio, score_cutoff=_NEAR, limit=most * 4)
    return _once(((-int(score), names[place].of, place), replace(names[place].meaning, fit=Fit.NEAR)) for _, score, place in near)[:most]
