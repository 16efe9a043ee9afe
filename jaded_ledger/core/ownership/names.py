"""Owner names as counties record them: kind, handler, the people in them, and the name for an envelope.

All of it is common practice: no standard says how a county writes a name.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

from jaded_ledger.core.ownership.census_names import as_given
from jaded_ledger.core.ownership.kinds import BY_SURNAMES, BY_TAGGER, PEOPLE, OwnerKind, kind_of
from jaded_ledger.core.ownership.people import People, Person, read_people
from jaded_ledger.core.words import words_of


class Role(StrEnum):
    """In which part somebody acts for an owner."""

    CARE_OF = "care of"
    EXECUTOR = "executor"
    GUARDIAN = "guardian"
    ATTORNEY_IN_FACT = "attorney-in-fact"
    RECEIVER = "receiver"


_HANDLER = re.compile(
    r"(?i)[\s,;(]*(?:(?<=\s)%|\b(?P<role>c/o|care of|attn:?|"
    r"personal rep(?:resentative)?|pers rep|executor|executrix|exor|adm(?:r|inistrator)|"
    r"guardian|gdn|conservator|attorney[- ]in[- ]fact|aif|poa|receiver(?=[\s:,]+\w+\s+\w+))\b)[\s:,.]*(?P<name>.*?)\)?$"
)
_ROLES = {
    "c/o": Role.CARE_OF, "care of": Role.CARE_OF, "attn": Role.CARE_OF, "attn:": Role.CARE_OF,
    "personal rep": Role.EXECUTOR, "personal representative": Role.EXECUTOR, "pers rep": Role.EXECUTOR,
    "executor": Role.EXECUTOR, "executrix": Role.EXECUTOR, "exor": Role.EXECUTOR, "admr": Role.EXECUTOR,
    "administrator": Role.EXECUTOR, "guardian": Role.GUARDIAN, "gdn": Role.GUARDIAN, "conservator": Role.GUARDIAN,
    "attorney in fact": Role.ATTORNEY_IN_FACT, "attorney-in-fact": Role.ATTORNEY_IN_FACT, "aif": Role.ATTORNEY_IN_FACT,
    "poa": Role.ATTORNEY_IN_FACT, "receiver": Role.RECEIVER,
}  # fmt: skip
_DOTTED = re.compile(r"\b(?:\w\.){2,}")
_LIFE_ESTATE = re.compile(r"(?i)[\s,(]*(?:\blife\s+est(?:ate)?\b|\bL/E\b)\)?")
_OF_ESTATES = re.compile(r"(?i)\b(?:the|estate|est|of|heirs|decd|deceased)\b\.?")
_OF_TRUSTS = frozenset(
    """the and of trust trusts trs tr ttee ttees trste trustee trustees co revocable irrevocable rev irrev living liv family land u a d t w
    uad utd dtd dated no number children childrens bank national n f fbo as under agreement will""".split()
)


@dataclass(frozen=True)
class OwnerName:
    """A recorded owner name, read.

    ``kind`` is None when nothing was recorded, or that the owner is unknown. ``handler`` is whoever acts for the owner (executor,
    guardian, care-of), with ``handler_role`` saying in which part. ``surnames`` are the words, in lower case, by which relations
    are told: those of a double surname one by one as well. ``mailing_name`` is the name in the order an envelope has it, upper
    case (Publication 28 section 211). ``persons`` are those named; ``decided_by`` is what told the kind.
    """

    kind: OwnerKind | None
    mailing_name: str
    surnames: tuple[str, ...] = ()
    handler: str = ""
    handler_role: str = ""
    persons: tuple[Person, ...] = ()
    decided_by: str = ""

    @property
    def people(self) -> tuple[str, ...]:
        """Those named, in full."""
        return tuple(person.in_full for person in self.persons)


def _surnames_of(people: People) -> tuple[str, ...]:
    """Return the words by which the relations of people are told, the parts of double surnames among them."""
    found: dict[str, None] = {}
    for person in people.named:
        surname = person.surname.casefold()
        parts = re.split(r"[\s-]", surname)
        found[surname] = None
        if len(parts) > 1:
            found |= dict.fromkeys(part for part in parts if len(part) > _SHORTEST)
    return tuple(found)


_SHORTEST = 3
"""Shorter parts of a surname are particles."""


def _surnames_of_trust(words: Iterable[str]) -> tuple[str, ...]:
    """Return the words of a trust's name that may be its family's: BRANDT FAMILY TRUST, OSTROM HELEN M LIVING TRUST."""
    named = [word for place, word in enumerate(words) if (place == 0 or word not in _OF_TRUSTS) and len(word) > 1 and not word.isdigit()]
    if named[:1] in (["the"], ["trust"], ["family"], ["living"]):
        named = named[1:]
    surnames = [word for word in named if not as_given(word)] or named[:1]
    return tuple(dict.fromkeys((surnames[0], surnames[-1]))) if surnames else ()


def _people_kind(people: People) -> OwnerKind:
    if len(people.named) > _COUPLE or people.are_more:
        return OwnerKind.SEVERAL_PEOPLE
    return OwnerKind.COUPLE if len(people.named) == _COUPLE or people.has_spouse else OwnerKind.INDIVIDUAL


_COUPLE = 2


@lru_cache(maxsize=65_536)
def read_name(recorded: str) -> OwnerName:
    """Read a name as recorded, last name first as counties write it.

    >>> read_name("OSTROM HELEN M & PETER").mailing_name
    'HELEN M & PETER OSTROM'
    >>> read_name("KELM ARVID EST C/O DORA KELM").handler
    'DORA KELM'
    """
    text = " ".join(recorded.split())
    handler = role = ""
    if (match := _HANDLER.search(text)) and match.start() > 0:
        role = _ROLES[match["role"].casefold()] if match["role"] else Role.CARE_OF
        handler = match["name"].strip(" ,;()")
        text = text[: match.start()].strip(" ,;(")
    # Who has a life estate is alive, and owns it.
    text = _LIFE_ESTATE.sub("", text) or text
    words = words_of(_DOTTED.sub(lambda m: f"{m[0].replace('.', '')} ", text))
    if not words:
        return OwnerName(kind=None, mailing_name="", handler=handler, handler_role=role)
    people = read_people(text)
    kind, by = kind_of(words, text, is_person_like=people.is_person_like)
    if kind in PEOPLE:
        return OwnerName(_people_kind(people), people.envelope, _surnames_of(people), handler, role, people.named, by)
    by = f"“{by}”" if by not in (BY_TAGGER, BY_SURNAMES) else by
    if kind is OwnerKind.ESTATE:
        return _estate(text, handler, role, by)
    surnames = _surnames_of_trust(words) if kind is OwnerKind.TRUST else ()
    return OwnerName(kind, text.upper() if kind else "", surnames, handler, role, (), by)


def _estate(text: str, handler: str, role: str, by: str) -> OwnerName:
    """Return an estate's name: ESTATE OF and HEIRS OF are followed by given names, EST and DECD stand behind a last name first."""
    in_order = re.match(r"(?i)(?:the )?(?:estate|est|heirs)\b", text)
    deceased = " ".join(_OF_ESTATES.sub(" ", text).split())
    people = read_people(f"MR {deceased}" if in_order and "," not in deceased else deceased)
    untitled = People(tuple(person._replace(title="") for person in people.named))
    mailing = text.upper() if in_order or not deceased else f"ESTATE OF {untitled.envelope}"
    return OwnerName(OwnerKind.ESTATE, mailing, _surnames_of(people), handler, role, people.named, by)


def are_related(one: Iterable[str], other: Iterable[str]) -> bool:
    """Whether two owners share a surname, as within a family or into its trust."""
    return not set(one).isdisjoint(other)
