"""What goes on around a property: what sold, what is for sale and what is in distress within a distance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.results import Row, rows
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.maps.outlines import circle
from jaded_ledger.maps.small_map import SmallMap, small_map
from jaded_ledger.records.models import Parcel, ParcelFacts, ParcelShape
from jaded_ledger.records.own_columns import slug

DISTANCES = {"300 ft": 91.44, "0.25 mi": 402.336, "0.5 mi": 804.672, "1 mi": 1609.344}
"""As a ring writes them, and in meters."""
USUAL = "0.25 mi"
SHOWN = 12


@dataclass(frozen=True)
class NearbyKind:
    """One kind of what goes on: its mark on the map, what it is called, which lines ask for it, and what is told of each."""

    mark: str
    title: str
    lines: str
    columns: tuple[str, ...]
    headings: tuple[str, ...]
    sort: str


KINDS = (
    NearbyKind(
        "sold", "Sold in the last 12 months", "last-sale: in the last 12 months\nlast-sale-price: any",
        ("within", "last-sale", "last-sale-price", "sale-sqft", "class"), ("Distance", "Sold", "Price", "$/sq ft", "Class"), "within",
    ),
    NearbyKind(
        "offered", "For sale", 'on-offer: any of "for-sale"',
        ("within", "list-price", "list-sqft", "days-on-market", "class"), ("Distance", "Asked", "$/sq ft", "Days", "Class"), "within",
    ),
    NearbyKind(
        "distress", "With signs of distress", "open-signals: 1..",
        ("within", "signals", "newest-signal", "owner-name"), ("Distance", "Signs", "Newest", "Owner"), "within",
    ),
)  # fmt: skip


@dataclass(frozen=True)
class Found:
    """The properties of one kind: how many, the nearest of them, and the address of the search that finds them all."""

    kind: NearbyKind
    count: int
    nearest: Sequence[Row]
    address: str

    @property
    def headings(self) -> list[tuple[str, str]]:
        """Each column's heading, and how it is set: over figures to the right."""
        return [(name, "n" if CATALOGUE[key].is_figure else "") for name, key in zip(self.kind.headings, self.kind.columns, strict=True)]


@dataclass(frozen=True)
class Nearby:
    """What goes on within a distance of a property."""

    distance: str
    found: Sequence[Found]
    drawing: SmallMap

    @property
    def count(self) -> int:
        return sum(one.count for one in self.found)


def nearby(parcel: Parcel, distance: str, scope: Scope) -> Nearby | None:
    """Return what goes on within a distance of a property; None where it has no place on the map."""
    facts = ParcelFacts.objects.filter(pk=parcel.pk).only("place").first()
    if facts is None or facts.place is None:
        return None
    ring = f"within: {distance} of parcel {slug(parcel.county)}/{parcel.number}\nparcel-number: not {slug(parcel.county)}/{parcel.number}"
    found: list[Found] = []
    marks: dict[int, str] = {}
    for kind in KINDS:
        page = SearchPage(parse(f"{ring}\n{kind.lines}"), kind.columns, kind.sort)
        matches = Answer(page, scope).matches
        ids = list(matches.values_list("pk", flat=True))
        # A mark that says more is not hidden by one that says less.
        marks = dict.fromkeys(ids, kind.mark) | marks
        nearest = rows(matches, kind.columns, kind.sort, 1, size=SHOWN) if ids else []
        found.append(Found(kind, len(ids), nearest, page.address(scope.team)))
    reach = circle(facts.place, DISTANCES[distance])
    legend = {"subject": "this property"} | {one.kind.mark: f"{one.kind.title.lower()}, {one.count:,}" for one in found}
    label = f"Map of what lies within {distance}: {'; '.join(f'{one.count} {one.kind.title.lower()}' for one in found)}."
    shapes = ParcelShape.objects.filter(parcel=parcel, superseded_at=None)
    drawing = small_map(
        [reach, *shapes.values_list("outline", flat=True)], marks | {parcel.pk: "subject"}, [(reach, "ring")], label=label, legend=legend
    )
    return Nearby(distance, found, drawing)
