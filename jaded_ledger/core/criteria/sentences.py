"""A value said with the name of its trait: ``3 beds``, ``sold before 2014``, ``60 % equity or more``, ``$/sq ft under 140``."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

from jaded_ledger.core.criteria.figure_notation import NUMBER_WORDS
from jaded_ledger.core.criteria.ring_notation import ring
from jaded_ledger.core.criteria.search import Criterion, Exactly, FigureRange
from jaded_ledger.core.criteria.text import CriteriaError, parse_line
from jaded_ledger.core.criteria.trait_names import is_slip, singular
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.wrong_value import ValueTextError

_SAYS_A_VALUE = re.compile(rf"\d|\b(?:{'|'.join(sorted(NUMBER_WORDS))})\b|\b(?:last|past|next)\b", re.IGNORECASE)
_FILLERS = frozenset(("is", "are", "was", "with", "has", "have", "having", "of", "in", "on", "at", "for", "the", "a", "an", "and"))


@dataclass(frozen=True)
class _Name:
    tokens: tuple[str, ...]
    trait: Trait
    is_own: bool
    """Whether the trait is labeled so, not just called so."""


@lru_cache(maxsize=64)
def _names(traits: tuple[Trait, ...]) -> tuple[_Name, ...]:
    return tuple(
        _Name(tuple(name.casefold().replace("'", "").split()), trait, place < 2)
        for trait in traits
        if trait.is_range
        for place, name in enumerate((trait.label, trait.key.replace("-", " "), *trait.synonyms))
    )


def _run(name: Sequence[str], tokens: Sequence[str]) -> tuple[int, bool] | None:
    """Return where the tokens of a name stand among those typed, and whether to the letter."""
    for start in range(len(tokens) - len(name) + 1):
        there = tokens[start : start + len(name)]
        if all(a == b for a, b in zip(name, there, strict=True)):
            return start, True
    for start in range(len(tokens) - len(name) + 1):
        there = tokens[start : start + len(name)]
        if all(singular(a) == singular(b) or (len(b) > 4 and is_slip(b, a)) for a, b in zip(name, there, strict=True)):
            return start, False
    return None


def _values(rest: Sequence[str]) -> Iterator[str]:
    """Yield what is left of a sentence without its trait, then without the words at its ends that say nothing of the value."""
    yield " ".join(rest)
    stripped = list(rest)
    while stripped and stripped[0] in _FILLERS:
        stripped.pop(0)
        yield " ".join(stripped)
    while stripped and stripped[-1] in _FILLERS:
        stripped.pop()
        yield " ".join(stripped)


def _criterion(trait: Trait, rest: Sequence[str]) -> Criterion | None:
    for value in _values(rest):
        try:
            return parse_line(f"{trait.key}: {value}")
        except CriteriaError:
            continue
    return None


def _rings(text: str, traits: Sequence[Trait]) -> list[Criterion]:
    """Return what a text asks of how far something lies from a center: ``within 2 miles of 103 Capstan St``."""
    try:
        found = ring(text)
    except ValueTextError:
        return []
    return [Criterion(trait.key, (found,)) for trait in traits if trait.kind is Kind.RING]


def sentences(text: str, traits: Iterable[Trait]) -> list[Criterion]:
    """Return the criteria that a sentence may mean, the likeliest first; after a bare figure also *or more* and *or less*.

    >>> from jaded_ledger.core.criteria.catalogue import CATALOGUE
    >>> from jaded_ledger.core.criteria.text import line_text
    >>> [line_text(found) for found in sentences("2 baths or more", CATALOGUE)]
    ['baths: 2..']
    """
    known = tuple(traits)
    if rings := _rings(text, known):
        return rings
    tokens = [token.strip(",;") for token in text.casefold().replace("'", "").replace("’", "").split()]
    tokens = [token for token in tokens if token]
    if len(tokens) < 2 or not _SAYS_A_VALUE.search(text):
        return []
    ranked = []
    for place, name in enumerate(_names(known)):
        if len(name.tokens) >= len(tokens) or (run := _run(name.tokens, tokens)) is None:
            continue
        start, is_exact = run
        rest = [*tokens[:start], *tokens[start + len(name.tokens) :]]
        if _SAYS_A_VALUE.search(" ".join(rest)):
            ranked.append(((not is_exact, -len(name.tokens), not name.is_own, place), name.trait, rest))
    found: dict[str, Criterion] = {}
    for _, trait, rest in sorted(ranked, key=lambda one: one[0]):
        if trait.key not in found and (criterion := _criterion(trait, rest)):
            found[trait.key] = criterion
    return [either for criterion in found.values() for either in _with_open_ends(criterion)]


def _with_open_ends(criterion: Criterion) -> Iterator[Criterion]:
    yield criterion
    match criterion.accepts:
        case (Exactly(value),) if not criterion.refuses and not isinstance(value, str | bool):
            yield Criterion(criterion.trait, (FigureRange(value, None),))
            yield Criterion(criterion.trait, (FigureRange(None, value),))
