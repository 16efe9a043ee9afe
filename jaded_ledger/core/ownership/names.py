"""Owner names as counties record them: kind, handler, the people in them, and the name for an envelope.

Rules on whole words come first; ``probablepeople`` decides only where a rule's word may also be a person's
surname (CHURCH JOHN A). All of it is common practice: no standard says how a county writes a name.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

import probablepeople
from nameparser import HumanName

from jaded_ledger.core.words import words_of


class OwnerKind(StrEnum):
    """What kind of owner a recorded name is."""

    INDIVIDUAL = "individual"
    COUPLE = "couple"
    COMPANY = "company"
    TRUST = "trust"
    ESTATE = "estate"
    LENDER = "lender"
    GOVERNMENT = "government"
    NON_PROFIT = "non-profit"


class Role(StrEnum):
    """In which part somebody acts for an owner."""

    CARE_OF = "care of"
    EXECUTOR = "executor"
    GUARDIAN = "guardian"
    ATTORNEY_IN_FACT = "attorney-in-fact"
    RECEIVER = "receiver"


# In the order in which they decide: FIRST BANK TRUSTEE OF THE OSTROM TRUST is held in trust, the
# HEIRS OF an owner of a company are still an estate.
_TOKENS: tuple[tuple[OwnerKind, frozenset[str]], ...] = (
    (OwnerKind.ESTATE, frozenset({"est", "estate", "decd", "deceased", "heirs"})),
    (
        OwnerKind.TRUST,
        frozenset({"trust", "trs", "ttee", "trste", "trustee", "trustees", "revocable", "irrevocable", "living"}),
    ),
    (
        OwnerKind.GOVERNMENT,
        frozenset({"city", "county", "state", "village", "town", "township", "hud", "municipality", "authority"}),
    ),
    (
        OwnerKind.LENDER,
        frozenset({"bank", "mortgage", "mtg", "finance", "financial", "savings", "receiver", "lending", "bancorp"}),
    ),
    (
        OwnerKind.NON_PROFIT,
        frozenset({"church", "ministries", "ministry", "foundation", "parish", "diocese", "temple", "congregation", "charity"}),
    ),
    (
        OwnerKind.COMPANY,
        frozenset(
            (
                "llc inc corp corporation co company lp llp lllp ltd holdings properties property realty rentals investments "
                "investors partners partnership enterprises group homes builders development developers ventures capital "
                "associates management assn association"
            ).split()
        ),
    ),
)
_PHRASES: tuple[tuple[OwnerKind, tuple[str, ...]], ...] = (
    (OwnerKind.ESTATE, ("heirs", "of")),
    (OwnerKind.GOVERNMENT, ("united", "states")),
    (OwnerKind.GOVERNMENT, ("school", "district")),
    (OwnerKind.LENDER, ("n", "a")),
    (OwnerKind.LENDER, ("credit", "union")),
)
# Words that are also borne as a surname, and those that say nothing without a company around them.
_SURNAMES_TOO = frozenset({"church", "temple", "parish", "bank", "city", "town", "state", "savings", "est", "co", "group"})
_HANDLER = re.compile(
    r"(?i)[\s,;(]*\b(?P<role>c/o|care of|attn:?|personal rep(?:resentative)?|pers rep|executor|executrix|exor|adm(?:r|inistrator)|"
    r"guardian|gdn|conservator|attorney[- ]in[- ]fact|aif|poa|receiver(?=[\s:,]+\w+\s+\w+))\b[\s:,.]*(?P<name>.*?)\)?$"
)
_ROLES = {
    "c/o": Role.CARE_OF, "care of": Role.CARE_OF, "attn": Role.CARE_OF, "attn:": Role.CARE_OF,
    "personal rep": Role.EXECUTOR, "personal representative": Role.EXECUTOR, "pers rep": Role.EXECUTOR,
    "executor": Role.EXECUTOR, "executrix": Role.EXECUTOR, "exor": Role.EXECUTOR, "admr": Role.EXECUTOR,
    "administrator": Role.EXECUTOR, "guardian": Role.GUARDIAN, "gdn": Role.GUARDIAN, "conservator": Role.GUARDIAN,
    "attorney in fact": Role.ATTORNEY_IN_FACT, "attorney-in-fact": Role.ATTORNEY_IN_FACT, "aif": Role.ATTORNEY_IN_FACT,
    "poa": Role.ATTORNEY_IN_FACT, "receiver": Role.RECEIVER,
}  # fmt: skip
GENERATIONS = frozenset({"jr", "sr", "ii", "iii", "iv"})
_SUFFIXES = GENERATIONS | frozenset({"etal", "et", "al", "etux", "ux", "h/w", "jt"})
_PEOPLE = re.compile(r"\s*(?:&|\band\b|\+)\s*", re.IGNORECASE)
_DOTTED = re.compile(r"\b(?:\w\.){2,}")
_PARTICLES = frozenset({"de", "la", "le", "van", "von", "der", "den", "del", "di", "da", "st", "o", "mc", "mac"})


@dataclass(frozen=True)
class OwnerName:
    """A recorded owner name, read.

    ``kind`` is None when nothing was recorded. ``handler`` is whoever acts for the owner (executor, guardian,
    care-of), with ``handler_role`` saying in which part. ``surnames`` are in lower case, for telling relatives;
    ``mailing_name`` is the name in the order an envelope has it, upper case (Publication 28 section 211).
    """

    kind: OwnerKind | None
    mailing_name: str
    surnames: tuple[str, ...] = ()
    handler: str = ""
    handler_role: str = ""


def _kind_of(words: tuple[str, ...], text: str) -> OwnerKind:
    pairs = set(pairwise(words))
    for kind, phrase in _PHRASES:
        # N A is a bank's ending; a person may well have N and A as initials.
        if phrase in pairs and (phrase != ("n", "a") or words[-2:] == phrase):
            return kind
    for kind, tokens in _TOKENS:
        found = tokens.intersection(words)
        if not found:
            continue
        # A surname stands first, before given names: CHURCH JOHN A, but ST OLAF CHURCH.
        if found <= _SURNAMES_TOO and words[0] in found and 1 < len(words) <= 4 and "of" not in words:
            without_surname = " ".join(text.split()[1:])
            if probablepeople.parse(without_surname)[0][1] in ("GivenName", "FirstInitial"):
                continue
        return kind
    return OwnerKind.COUPLE if len(_PEOPLE.split(text)) == 2 else OwnerKind.INDIVIDUAL


class _Person(NamedTuple):
    """One of the people in a recorded name; ``generation`` is JR, III and the like."""

    given: str
    surname: str
    generation: str

    @property
    def in_full(self) -> str:
        return " ".join(filter(None, self))

    @property
    def without_surname(self) -> str:
        return " ".join(filter(None, (self.given, self.generation)))


def _bare(word: str) -> str:
    return word.casefold().strip(".")


def _person(words: Sequence[str], first: _Person | None) -> _Person | None:
    """Return who is meant by some words, last name first; None where there is nobody. ``first`` is the first one named before."""
    generation = " ".join(word for word in words if _bare(word) in GENERATIONS)
    names = [word for word in words if _bare(word) not in _SUFFIXES]
    if not names:
        return None
    # OSTROM HELEN M & PETER: the second person shares the first one's surname.
    if first and (len(names) == 1 or (len(names) == 2 and len(names[1].strip(".")) == 1)):
        return _Person(" ".join(names), first.surname, generation)
    split = 1
    while split < len(names) - 1 and names[split - 1].casefold() in _PARTICLES:
        split += 1
    return _Person(" ".join(names[split:]), " ".join(names[:split]), generation)


def _people(text: str) -> tuple[str, tuple[str, ...]]:
    """Undo last-name-first for the people in a name; return the envelope's name and the surnames."""
    text = text.replace(",", " ")
    people: list[_Person] = []
    for part in _PEOPLE.split(text):
        if person := _person(part.split(), people[0] if people else None):
            people.append(person)
    if not people:
        return text.upper(), ()
    surnames = tuple(dict.fromkeys(person.surname.casefold() for person in people))
    if len(people) > 1 and len(surnames) == 1:
        given = " & ".join(person.without_surname for person in people)
        return f"{given} {people[0].surname}".upper().strip(), surnames
    return " & ".join(person.in_full for person in people).upper(), surnames


@lru_cache(maxsize=65_536)
def read_name(recorded: str) -> OwnerName:
    """Read a name as recorded, last name first as counties write it.

    >>> read_name("OSTROM HELEN M & PETER").mailing_name
    'HELEN M & PETER OSTROM'
    >>> read_name("KELM ARVID EST C/O DORA KELM").handler
    'DORA KELM'
    """
    text = " ".join(recorded.split())
    if not text:
        return OwnerName(kind=None, mailing_name="")
    handler = role = ""
    if (match := _HANDLER.search(text)) and match.start() > 0:
        role = _ROLES[match["role"].casefold()]
        handler = match["name"].strip(" ,;()")
        text = text[: match.start()].strip(" ,;(")
    words = words_of(_DOTTED.sub(lambda m: f"{m[0].replace('.', '')} ", text))
    if not words:
        return OwnerName(kind=None, mailing_name="", handler=handler, handler_role=role)
    kind = _kind_of(words, text)
    mailing = text.upper()
    surnames: tuple[str, ...] = ()
    if kind in (OwnerKind.INDIVIDUAL, OwnerKind.COUPLE):
        mailing, surnames = _people(text)
    elif kind is OwnerKind.ESTATE:
        deceased = re.sub(r"(?i)\b(the|estate|est|of|heirs|decd|deceased)\b\.?", " ", text).split()
        in_order = text.casefold().startswith(("estate", "heirs", "the "))
        name, surnames = (" ".join(deceased), (HumanName(" ".join(deceased)).last.casefold(),)) if in_order else _people(" ".join(deceased))
        mailing = text.upper() if in_order or not deceased else f"ESTATE OF {name}".upper()
    elif kind is OwnerKind.TRUST:
        # The family a trust is named for: BRANDT FAMILY TRUST, OSTROM HELEN M LIVING TRUST.
        surnames = (words[0],) if words[0] != "the" else words[1:2]
    return OwnerName(kind, mailing, surnames, handler, role)


def are_related(one: Iterable[str], other: Iterable[str]) -> bool:
    """Whether two owners share a surname, as within a family or into its trust."""
    return not set(one).isdisjoint(other)
