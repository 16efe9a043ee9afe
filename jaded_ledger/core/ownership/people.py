"""The people in a recorded name, last name first as rolls write them, or given name first where the words say so. Common practice."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from jaded_ledger.core.ownership.census_names import RARE, as_given, as_surname

GENERATIONS = frozenset({"jr", "sr", "ii", "iii", "iv"})
_CREDENTIALS = frozenset("md phd dds dvm esq cpa cfp lutc rn".split())
_TITLES = frozenset("mr mrs ms miss dr hon rev fr father reverend senator major gen lt ltgov prof capt".split())
_PARTICLES = frozenset("de la las le los van von vander der den del della di da dos du st o mc mac ten ter el y".split())
_VIETNAMESE = frozenset("nguyen tran le pham huynh hoang phan vu vo dang bui do ho ngo duong ly".split())
_VIETNAMESE_MIDDLE = frozenset({"van", "thi"})
_SPANISH = frozenset(
    """aguilar alvarado alvarez castillo castro chavez cruz delgado diaz espinoza fernandez flores fuentes garcia garza gomez gonzales
    gonzalez gutierrez guzman hernandez herrera jimenez juarez leon lopez luna maldonado martinez medina mejia mendez mendoza molina
    morales moreno munoz navarro nunez ortega ortiz pena perez ramirez ramos reyes rios rivera rodriguez rojas romero rosales ruiz
    salazar salinas sanchez sandoval santiago silva soto suarez torres trevino valdez vargas vasquez vega velasquez zamora""".split()
)
"""Common Spanish surnames, two of which make a double one; from memory."""
_CLEARLY = 10
"""How many times commoner as a surname a word must be to be a second one."""
_MUCH = 25
"""How many times likelier given-name-first must be before a roll's order is given up."""
_COUPLE_OF_TITLES = re.compile(r"^(?P<titles>(?:mr|dr)\.?\s*(?:&|and)\s*(?:mrs|ms|dr)\.?)\s+", re.IGNORECASE)
_WIFE = re.compile(r"\bet\s?(?:ux|vir)\b\.?|(?:&|\band)\s*(?:wife|husband|spouse)\b(?=\s*$|\s*[,;&])", re.IGNORECASE)
_OTHERS = re.compile(r"[\s,]*\bet\s?al\b\.?", re.IGNORECASE)
# How they hold it, and how much of it, is no part of a name.
_HELD = re.compile(
    r"(?i)[\s,(]*\b(?:h/w|h\s?&\s?w|hus(?:band)?\s?(?:&|and)\s?w(?:ife|f)|w/r/s|jt\s?ten|jtwros|jtrs|jt|ten\s?(?:com|ent)|t/c|"
    r"(?:undiv(?:ided)?\s)?\d{1,3}/\d{1,3}(?:\s?(?:int(?:erest)?|share))?|joint tenants)(?=$|[\s,;)&/])\)?"
)
_BETWEEN = re.compile(r"\s*(?:&|\+|;|\band\b|(?<=\s)/(?=\s))\s*", re.IGNORECASE)


class Person(NamedTuple):
    """Somebody in a recorded name, in upper case; ``suffix`` is JR, MD and the like, ``title`` DR and the like."""

    given: str
    surname: str
    suffix: str = ""
    title: str = ""

    @property
    def in_full(self) -> str:
        """The name in the order of an envelope, without a title."""
        return " ".join(filter(None, (self.given, self.surname, self.suffix)))

    @property
    def without_surname(self) -> str:
        return " ".join(filter(None, (self.title, self.given, self.suffix)))


class People(NamedTuple):
    """The people in a recorded name. ``are_more`` tells that others are not named, ``has_spouse`` that a spouse is not."""

    named: tuple[Person, ...]
    are_more: bool = False
    has_spouse: bool = False

    @property
    def is_person_like(self) -> bool:
        """Whether several are named, or one with a title, a degree or JR."""
        return len(self.named) > 1 or self.has_spouse or any(person.title or person.suffix for person in self.named)

    @property
    def envelope(self) -> str:
        """The name as an envelope has it: people of one surname share it."""
        surnames = {person.surname for person in self.named}
        if len(self.named) > 1 and len(surnames) == 1:
            return f"{' & '.join(person.without_surname for person in self.named)} {self.named[0].surname}".strip()
        return " & ".join(" ".join(filter(None, (person.title, person.in_full))) for person in self.named)


def is_given_first(words: Sequence[str], much: float = _MUCH) -> bool:
    """Return whether words are likelier given name first than last name first, by the shares of the census.

    >>> is_given_first(["DORA", "KELM"]), is_given_first(["KELM", "DORA"]), is_given_first(["JAMES", "HENRY"])
    (True, False, False)
    """
    if len(words) < 2:
        return False
    first, second, last = words[0], words[1], words[-1]
    if len(first) == 1:
        return len(last) > 1
    if len(last) == 1 or (len(words) > 2 and first.casefold() in _PARTICLES):
        return False
    given_first = (as_given(first) or RARE) * (as_surname(last) or RARE)
    last_first = (as_surname(first) or RARE) * (1 if len(second) == 1 else as_given(second) or RARE)
    return given_first > much * last_first


def are_given(words: Sequence[str]) -> bool:
    """Return whether all words are initials, or likelier given names than surnames."""
    return all(len(word) == 1 or (as_given(word) > 0 and as_given(word) >= as_surname(word)) for word in words)


def _bare(word: str) -> str:
    return word.casefold().replace(".", "").strip(",()")


def _surname_length(names: Sequence[str]) -> int:
    """Return how many of the first words are the surname: particles lead it, and two Spanish surnames stand together."""
    if len(names) > 2 and names[0].casefold() in _VIETNAMESE and names[1].casefold() in _VIETNAMESE_MIDDLE:
        return 1
    length = 1
    while length < len(names) - 1 and (names[length - 1].casefold() in _PARTICLES or names[length].casefold() in ("y", "de", "del")):
        length += 1
    following = names[length : length + 2]
    if _is_spanish_pair(names[length - 1 : length + 1]) and len(names) > length + 1:
        return length + 1
    if len(following) < 2 or 1 in (len(following[0]), len(names[0])):
        return length
    # A second surname has a given name behind it.
    is_surname = as_surname(following[0]) > RARE + _CLEARLY * as_given(following[0])
    return length + 1 if is_surname and as_given(following[1]) else length


def _is_spanish_pair(names: Sequence[str]) -> bool:
    return len(names) == 2 and all(name.casefold() in _SPANISH for name in names)


def _from_end(names: Sequence[str]) -> int:
    """Return at which word the surname begins where given names stand first."""
    start = len(names) - 1
    while start > 1 and names[start - 1].casefold() in _PARTICLES:
        start -= 1
    return start - 1 if start > 2 and names[start].casefold() == "y" else start


def _ordered(names: Sequence[str], *, given_first: bool) -> tuple[str, str]:
    """Return given names and surname."""
    if given_first:
        start = _from_end(names)
        return " ".join(names[:start]), " ".join(names[start:])
    length = _surname_length(names)
    given = list(names[length:])
    if given and names[0].casefold() in _VIETNAMESE and given[0].casefold() in _VIETNAMESE_MIDDLE:
        given = [*given[1:], given[0]]
    return " ".join(given), " ".join(names[:length])


def _sorted_out(words: Sequence[str]) -> tuple[list[str], str, str]:
    """Return the words of a name proper, its title and its suffix."""
    title: list[str] = []
    suffix: list[str] = []
    names: list[str] = []
    for word in words:
        bare = _bare(word)
        if bare in _TITLES and (not names or word.endswith(".")):
            title.append(word)
        elif names and (bare in GENERATIONS or bare in _CREDENTIALS):
            suffix.append(word)
        else:
            names.append(word)
    return names, _plain(title), _plain(suffix)


def _plain(words: Sequence[str]) -> str:
    return " ".join(word.replace(".", "") for word in words).upper()


def _with_comma(part: str) -> Person | None:
    """Return the person in a name with the surname set off by a comma; None where the comma sets off something else."""
    pieces = [piece.split() for piece in part.split(",")]
    surname, _, suffix = _sorted_out(pieces[0])
    given, title, more = _sorted_out([word for piece in pieces[1:] for word in piece if word])
    if not surname or not given or all(_bare(word) in (*GENERATIONS, *_CREDENTIALS) for word in given):
        return None
    while len(given) > 1 and _bare(given[-1]) in (*GENERATIONS, *_CREDENTIALS, "v"):
        more = f"{_plain(given[-1:])} {more}".strip()
        given = given[:-1]
    return Person(_plain(given), _plain(surname), " ".join(filter(None, (suffix, more))), title)


def _shares_surname(names: Sequence[str], first: Person) -> bool:
    """Return whether only given names are written of somebody, so that the surname is that of who was named first.

    Two words that the census has neither as given names nor as surnames follow the roll's order: a surname, then a given name.
    """
    if len(names) == 1:
        return True
    return are_given(names) and names[0].upper() != first.surname.split()[0]


def _person(part: str, first: Person | None, *, is_first_in_order: bool = False) -> Person | None:
    """Return who is meant by a part of a name; None where there is nobody. ``first`` is who was named first: a surname may be shared.

    ``is_first_in_order`` tells that who was named first is written given name first; then others are more likely to be.
    """
    if "," in part and (found := _with_comma(part)):
        return found
    names, title, suffix = _sorted_out(part.replace(",", " ").split())
    names = [word.replace(".", "") for word in names]
    names = [word for word in names if word]
    if not names:
        return None
    if first and _shares_surname(names, first):
        return Person(_plain(names), first.surname, suffix, title)
    given_first = bool(title) or is_given_first(names, 1 if is_first_in_order else _MUCH)
    given, surname = _ordered(names, given_first=given_first and len(names) > 1)
    return Person(given.upper(), surname.upper(), suffix, title)


def _parts(text: str) -> Iterator[str]:
    """Yield the parts of a name that stand for one person each. A comma parts people where both sides are whole names."""
    for part in _BETWEEN.split(text):
        pieces = [piece.strip() for piece in part.split(",")]
        whole = [len(_sorted_out(piece.split())[0]) > 1 for piece in pieces]
        if len(pieces) > 1 and all(whole) and any(as_given(word) for word in pieces[0].split()[1:]):
            yield from pieces
        else:
            yield part


def read_people(text: str) -> People:
    """Read the people in a name.

    >>> read_people("OSTROM HELEN M & PETER").envelope, read_people("DAHL JOHN ET UX MARY").envelope
    ('HELEN M & PETER OSTROM', 'JOHN & MARY DAHL')
    """
    bare = _HELD.sub(" ", _OTHERS.sub(" ", text))
    are_more = bool(_OTHERS.search(text))
    if titles := _COUPLE_OF_TITLES.match(bare):
        one = _person(f"MR {bare[titles.end() :]}", None)
        named = (one._replace(title=_plain(titles["titles"].split())),) if one else ()
        return People(named, are_more, has_spouse=True)
    has_spouse = bool(_WIFE.search(bare))
    people: list[Person] = []
    for part in _parts(_WIFE.sub(" & ", bare)):
        is_first_in_order = bool(people) and not text.upper().startswith(people[0].surname)
        if person := _person(part, people[0] if people else None, is_first_in_order=is_first_in_order):
            people.append(person)
    return People(tuple(people), are_more, has_spouse and len(people) == 1)
