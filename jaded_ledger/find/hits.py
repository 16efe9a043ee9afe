"""Which phrases of a search a listing's remarks have, and where: counted to sort by, shown in their sentences."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from django.db.models import Case, Count, IntegerField, QuerySet, Value, When
from django.db.models.expressions import CombinedExpression

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.acts import Lines
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Members, Search
from jaded_ledger.core.phrases import Hit, found_in, sentence_around, wider
from jaded_ledger.find.compiler import compile, phrase_in_fields
from jaded_ledger.records.models import ParcelFacts, Remarks

SORT = "phrases-hit"
"""What the order by the number of phrases hit is called in an address; it is no trait, since it is of one search."""
MOST_EXCERPTS = 12
"""How many hits of one property are shown in their sentences; all are marked in its remarks beneath."""
_REMARKS = CATALOGUE["remarks"]


@dataclass(frozen=True)
class AskedPhrase:
    """A phrase that a search looks for in remarks, and the line that does; ``within`` as in ``Members``."""

    phrase: str
    within: tuple[str, ...]
    line: int

    @property
    def fields(self) -> list[int]:
        return [_REMARKS.fields.index(name) for name in self.within or _REMARKS.fields]


@dataclass(frozen=True)
class Excerpt:
    """A hit in its sentence."""

    field: str
    before: str
    hit: str
    after: str
    asked: AskedPhrase
    wider: tuple[str, ...]


@dataclass(frozen=True)
class Hits:
    """How many hits there are in a listing's remarks, and the first of them in their sentences."""

    count: int = 0
    excerpts: tuple[Excerpt, ...] = ()

    @property
    def more(self) -> int:
        return self.count - len(self.excerpts)


def asked_phrases(search: Search) -> tuple[AskedPhrase, ...]:
    """Return the phrases that a search's applied lines look for in remarks, each once."""
    found: dict[tuple[str, tuple[str, ...]], AskedPhrase] = {}
    for number, line in enumerate(search.lines):
        for criterion in line.members() if line.is_applied else ():
            accepted = criterion.accepts if criterion.trait == _REMARKS.key else ()
            for value in (value for value in accepted if isinstance(value, Members)):
                for phrase in value.items:
                    found.setdefault((phrase, value.within), AskedPhrase(phrase, value.within, number))
    return tuple(found.values())


def with_hits(parcels: QuerySet[ParcelFacts], phrases: Sequence[AskedPhrase]) -> QuerySet[ParcelFacts]:
    """Return the parcels with how many of some phrases their remarks have, as ``hits``."""
    count: Value | CombinedExpression = Value(0, output_field=IntegerField())
    for phrase in phrases:
        count = count + Case(
            When(phrase_in_fields("remarks__words", phrase.phrase, phrase.within), then=1), default=0, output_field=IntegerField()
        )
    return parcels.annotate(hits=count)


def hits_in(remarks: Remarks | None, phrases: Sequence[AskedPhrase]) -> Hits:
    """Return the hits of phrases in a listing's remarks, in the order of the text."""
    found: list[tuple[str, str, Hit, AskedPhrase]] = []
    for place, (field, text) in enumerate(zip(_REMARKS.fields, remarks.fields, strict=True)) if remarks else ():
        wanted = {phrase.phrase: phrase for phrase in phrases if place in phrase.fields}
        found += [(field, text, hit, wanted[hit.phrase]) for hit in found_in(text, wanted)]
    return Hits(len(found), tuple(_excerpt(*one) for one in found[:MOST_EXCERPTS]))


def left_without(search: Search, refusals: Iterable[tuple[int, str]], scope: Scope) -> dict[tuple[int, str], int]:
    """Return how many matches are left when a line, by its number, refuses one more phrase: for each of some, in one statement.

    Raises CriteriaError.
    """
    counts: dict[str, Count] = {}
    asked = dict.fromkeys(refusals)
    compiled = compile(search, scope)
    for place, (number, phrase) in enumerate(asked):
        lines = Lines(search)
        lines.do("refuse", str(number), phrase)
        refusing = compile(Search(search.counties, (lines.line(str(number)),)), scope)
        # A refusal only takes away, so that the matches are all that need be looked at.
        counts[f"left{place}"] = Count("pk", filter=refusing.conditions[0])
    left = compiled.matches.aggregate(**counts) if counts else {}
    return {one: left[f"left{place}"] for place, one in enumerate(asked)}


def _excerpt(field: str, text: str, hit: Hit, asked: AskedPhrase) -> Excerpt:
    start, end = sentence_around(text, hit)
    before = ("… " if start else "") + text[start : hit.start]
    after = text[hit.end : end] + (" …" if end < len(text) else "")
    return Excerpt(field, before, text[hit.start : hit.end], after, asked, tuple(wider(text, hit)))


def marked(text: str, phrases: Sequence[str]) -> Iterator[tuple[str, bool]]:
    """Yield a text in pieces, and of each whether it belongs to a hit."""
    at = 0
    for hit in found_in(text, phrases):
        if hit.end <= at:
            continue
        yield text[at : max(at, hit.start)], False
        yield text[max(at, hit.start) : hit.end], True
        at = hit.end
    yield text[at:], False
