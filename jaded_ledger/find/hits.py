"""Which phrases of a search a listing's remarks have, and where: counted to sort by, shown in their sentences."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from django.db.models import Case, F, IntegerField, QuerySet, Value, When

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.phrases import Hit, found_in, sentence_around, wider
from jaded_ledger.core.criteria.search import Members, Search
from jaded_ledger.find.compiling import phrase_in_fields
from jaded_ledger.records.models import ParcelFacts, Remarks

SORT = "phrases-hit"
"""What the order by the number of phrases hit is called in an address; it is no trait, since it is of one search."""
_REMARKS = CATALOGUE["remarks"]


@dataclass(frozen=True)
class Asked:
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
    asked: Asked
    wider: tuple[str, ...]


def asked_phrases(search: Search) -> tuple[Asked, ...]:
    """Return the phrases that a search's applied lines look for in remarks, each once."""
    found: dict[tuple[str, tuple[str, ...]], Asked] = {}
    for number, line in enumerate(search.lines):
        for criterion in line.members() if line.is_applied else ():
            for value in criterion.accepts if criterion.trait == _REMARKS.key else ():
                for phrase in value.items if isinstance(value, Members) else ():
                    found.setdefault((phrase, value.within), Asked(phrase, value.within, number))
    return tuple(found.values())


def with_hits(parcels: QuerySet[ParcelFacts], phrases: Sequence[Asked]) -> QuerySet[ParcelFacts]:
    """Return the parcels with how many of some phrases their remarks have, as ``hits``."""
    count = Value(0, output_field=IntegerField())
    for one in phrases:
        count = count + Case(
            When(phrase_in_fields("remarks__words", one.phrase, one.within), then=1), default=0, output_field=IntegerField()
        )
    return parcels.annotate(hits=count)


def by_hits(parcels: QuerySet[ParcelFacts], phrases: Sequence[Asked]) -> QuerySet[ParcelFacts]:
    """Return the parcels, those that have most of the phrases first."""
    return with_hits(parcels, phrases).order_by(F("hits").desc(), "county", "parcel_number")


def excerpts(remarks: Remarks | None, phrases: Sequence[Asked]) -> list[Excerpt]:
    """Return each phrase's hits in their sentences, in the order of the text."""
    if remarks is None:
        return []
    found = []
    for place, (field, text) in enumerate(zip(_REMARKS.fields, remarks.fields, strict=True)):
        wanted = {one.phrase: one for one in phrases if place in one.fields}
        found += [_excerpt(field, text, hit, wanted[hit.phrase]) for hit in found_in(text, wanted)]
    return found


def _excerpt(field: str, text: str, hit: Hit, asked: Asked) -> Excerpt:
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
