"""Letters: texts with fields, which letter goes to whom, and what a piece's letter says.

A field stands in braces: ``{years-owned}``. After a bar stands what is said where it is unknown: ``{years-owned|many years}``. A letter
whose field is unknown and has no such wording is not sent: it would say nothing where it says something to everybody else.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from difflib import get_close_matches
from enum import StrEnum
from functools import cached_property
from typing import NamedTuple

LONGEST_TEXT = 6_000
_CALL = re.compile(r"\b(?:call|calls|calling|phone|telephone)\b", re.IGNORECASE)
_NUMBER = re.compile(r"[0-9]{3}\D{0,3}[0-9]{3}\D{0,2}[0-9]{4}")
_FIELD = re.compile(r"\{([^{}|\n]*)(?:\|([^{}\n]*))?\}")


class LetterError(ValueError):
    """A text that is no letter; the message says what is wrong, and in which line."""


class Recipient(StrEnum):
    """Whom a letter is written to, where each may get another."""

    PERSON = "person"
    PERSON_SEVERAL = "person-several"
    COMPANY = "company"
    TRUST = "trust"
    ESTATE = "estate"
    OTHER = "other"
    RESIDENT = "resident"

    @property
    def words(self) -> str:
        return {
            Recipient.PERSON: "people with one property",
            Recipient.PERSON_SEVERAL: "people with several",
            Recipient.COMPANY: "companies",
            Recipient.TRUST: "trusts",
            Recipient.ESTATE: "estates, to the executor",
            Recipient.OTHER: "others",
            Recipient.RESIDENT: "current residents",
        }[self]


class Place(NamedTuple):
    """A place in a text where a field's value goes; ``otherwise`` is None where nothing stands for an unknown one."""

    field: str
    otherwise: str | None


class Span(NamedTuple):
    """Words that follow one another; ``is_field`` are those that a field put there."""

    text: str
    is_field: bool = False


Line = tuple[str | Place, ...]
Values = Mapping[str, str | None]


@dataclass(frozen=True)
class Letter:
    """A text, line by line, with its fields. ``key`` tells it from others; equal texts with other keys are other letters."""

    key: int
    name: str
    lines: tuple[Line, ...]

    @cached_property
    def places(self) -> tuple[Place, ...]:
        """Each place once, in the order of the text."""
        return tuple(dict.fromkeys(part for line in self.lines for part in line if isinstance(part, Place)))

    @cached_property
    def asks_to_call(self) -> bool:
        """Whether its words ask to be called, without a number among them."""
        words = " ".join(part for line in self.lines for part in line if isinstance(part, str))
        return bool(_CALL.search(words)) and not _NUMBER.search(words)

    def has(self, field: str) -> bool:
        """Return whether it has a field."""
        return any(one.field == field for one in self.places)

    def lacks(self, values: Values) -> str:
        """Return the first field that is unknown and has no other wording; blank where none is."""
        return next((one.field for one in self.places if one.otherwise is None and not values.get(one.field)), "")

    def merged(self, values: Values) -> Iterator[tuple[Span, ...]]:
        """Yield the letter's lines with the fields' values in their places; a value of several lines begins as many.

        A line of fields alone that are all blank is left out.
        """
        for line in self.lines:
            if line and all(isinstance(part, Place) and not (values.get(part.field) or part.otherwise) for part in line):
                continue
            spans: list[Span] = []
            for part in line:
                if isinstance(part, str):
                    spans.append(Span(part))
                    continue
                first, *more = (values.get(part.field) or part.otherwise or "").split("\n")
                spans.append(Span(first, is_field=True))
                for further in more:
                    yield tuple(spans)
                    spans = [Span(further, is_field=True)]
            yield tuple(spans)


def letter_from(text: str, known: Collection[str], key: int = 0, name: str = "") -> Letter:
    """Return the letter that a text is; ``known`` are the fields there are. Raises LetterError."""
    if len(text) > LONGEST_TEXT:
        raise LetterError(f"a letter has at most {LONGEST_TEXT:,} characters; this one has {len(text):,}")
    if not text.strip():
        raise LetterError("the letter is empty")
    lines = text.replace("\r\n", "\n").replace("\r", "\n").rstrip().split("\n")
    return Letter(key, name, tuple(tuple(_parts(line.rstrip(), number, known)) for number, line in enumerate(lines, start=1)))


def _parts(line: str, number: int, known: Collection[str]) -> Iterator[str | Place]:
    at = 0
    for match in _FIELD.finditer(line):
        yield from _plain(line[at : match.start()], number)
        field = match[1].strip()
        if field not in known:
            near = get_close_matches(field, known, 1)
            hint = f"did you mean {{{near[0]}}}?" if near else "the fields stand beside the text"
            raise LetterError(f"line {number}: there is no field {{{field[:30]}}}; {hint}")
        yield Place(field, None if match[2] is None else match[2].strip())
        at = match.end()
    yield from _plain(line[at:], number)


def _plain(text: str, number: int) -> Iterator[str]:
    if brace := next((one for one in text if one in "{}"), ""):
        raise LetterError(f"line {number}: a “{brace}” stands alone; a field is written {{address}}, or {{address|your house}}")
    if text:
        yield text


def is_of_first_half(one: int, other: int, who: str) -> bool:
    """Whether somebody gets the first of two letters that are tried against each other; the halves are random, and stay.

    ``who`` is the owner, or the household. It is the same in whatever mailing the two are tried again, whoever else gets one, and
    whichever is named first: ``one`` is of the first half where it is the lower.
    """
    low, high = sorted((one, other))
    coin = hashlib.sha256(f"{low} {high} {who}".encode()).digest()[0] & 1
    return (coin == 0) is (one == low)


@dataclass(frozen=True)
class Letters:
    """Which letter goes to whom. ``letter`` goes to everybody for whom no other is named in ``by_recipient``; None there is for none.

    With ``against``, a random half of those who would get ``letter`` get that one.
    """

    letter: Letter
    by_recipient: Mapping[Recipient, Letter | None]
    against: Letter | None = None

    def of(self, recipient: Recipient, who: str) -> Letter | None:
        """Return somebody's letter; None for those who get none."""
        if recipient in self.by_recipient:
            return self.by_recipient[recipient]
        if self.against is None or is_of_first_half(self.letter.key, self.against.key, who):
            return self.letter
        return self.against

    @property
    def every(self) -> tuple[Letter, ...]:
        """Return each letter that somebody may get, once."""
        found = (self.letter, self.against, *self.by_recipient.values())
        return tuple({letter.key: letter for letter in found if letter is not None}.values())
