"""When two recorded names at one address are one owner: common practice.

Names are compared as envelopes have them, so that last-name-first is undone. A person's given name must be the same: two
sisters at one address are two owners.
"""

from __future__ import annotations

from collections import Counter

from rapidfuzz.distance import OSA

from jaded_ledger.core.ownership.kinds import PEOPLE, OwnerKind
from jaded_ledger.core.ownership.people import GENERATIONS
from jaded_ledger.core.words import words_of

_LEGAL_FORMS = frozenset("llc l c inc incorporated corp corporation co company lp llp lllp ltd limited the and".split())
_SHORTEST = 5
"""In a shorter word another letter makes another word."""


def is_one_slip(one: str, other: str) -> bool:
    """Return whether a word is another with one letter changed, left out, put in, or two neighbors swapped.

    >>> is_one_slip("ostrom", "ostrum"), is_one_slip("ostrom", "osrtom"), is_one_slip("ostrom", "ostroms"), is_one_slip("peter", "petra")
    (True, True, True, False)
    """
    return OSA.distance(one, other, score_cutoff=1) == 1


def _whole_words_and_initials(words: tuple[str, ...]) -> tuple[Counter[str], Counter[str]]:
    """Return what tells a name, and its initials apart."""
    whole = Counter(word for word in words if len(word) > 1 and word not in _LEGAL_FORMS)
    return whole, Counter(word for word in words if len(word) == 1 and word not in _LEGAL_FORMS)


def are_close(one: str, other: str, kind: OwnerKind | None) -> bool:
    """Return whether two names at one address are spellings of one owner's, ``kind`` being what kind of owner they are.

    Order, legal form, "and" and an initial that only one of them has are left out of the question; numbers and
    generations must be the same; one word of five letters or more may have one slip, with people only the surname.

    >>> are_close("TWO LAMPS HOLDINGS LLC", "TWO LAMPS HOLDING, L.L.C.", OwnerKind.COMPANY)
    True
    >>> are_close("MARIA OSTROM", "MARIE OSTROM", OwnerKind.INDIVIDUAL)
    False
    """
    mine, theirs = words_of(one), words_of(other)
    (whole, initials), (their_whole, their_initials) = _whole_words_and_initials(mine), _whole_words_and_initials(theirs)
    if initials and their_initials and initials != their_initials:
        return False
    only_mine, only_theirs = list((whole - their_whole).elements()), list((their_whole - whole).elements())
    if not only_mine and not only_theirs:
        return bool(whole)
    if len(only_mine) != 1 or len(only_theirs) != 1 or not whole & their_whole:
        return False
    a, b = only_mine[0], only_theirs[0]
    if {a, b} & GENERATIONS or any(character.isdigit() for character in a + b) or min(len(a), len(b)) < _SHORTEST:
        return False
    if kind in PEOPLE and (mine[-1] != a or theirs[-1] != b):
        return False
    return is_one_slip(a, b)
