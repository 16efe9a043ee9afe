"""What maps add to the program."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from django.urls import reverse

from jaded_ledger.accounts.deletion import Deletion
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.selections import selection_acts
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.maps.acts import ACTS, AREAS
from jaded_ledger.maps.areas import return_refused
from jaded_ledger.maps.around_sale import description_of, sales_of, sales_of_list
from jaded_ledger.maps.backgrounds import shown_background
from jaded_ledger.maps.in_view import extent_of
from jaded_ledger.maps.labels import LABELS
from jaded_ledger.maps.marks import MARK_KINDS
from jaded_ledger.maps.models import DrawnArea, SaleOfArea
from jaded_ledger.maps.most_matches import KINDS
from jaded_ledger.maps.tiles import CLOSEST, PARCELS_FROM
from jaded_ledger.maps.traits import TEAM_TRAITS
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Face, PagePart, PropertySection
from jaded_ledger.records.models import Parcel, ParcelFacts

_LAYERS = (
    ("road", "roads"), ("highway", "highways"), ("rail", "rail"), ("water", "water"), ("flood-zone", "flood zones"), ("park", "parks"),
    ("neighborhood", "neighborhoods"), ("subdivision", "subdivisions"), ("school_district", "school districts"),
)  # fmt: skip


def _context(answer: Answer) -> dict[str, Any]:
    return {
        "labels": LABELS,
        "layers": _LAYERS,
        "area_kinds": KINDS,
        "marks": MARK_KINDS,
        "closest": CLOSEST,
        "parcels_from": PARCELS_FROM,
        "background": shown_background(),
        "selection_acts": selection_acts(),
        # Asked by the map's own template alone: it opens where the matches are, before any answer has come.
        "extent": lambda: ",".join(map(str, extent_of(answer) or ())),
    }


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def deletions() -> list[Deletion]:
    def put_up_version(scope: Scope, area: DrawnArea) -> None:
        scope.team.put_up_version()

    return [Deletion(DrawnArea, AREAS, lambda area: reverse("maps:areas"), return_refused=return_refused, changed=put_up_version)]


@hookimpl
def faces() -> list[Face]:
    beside = Face("table-and-map", "Table and map", "", _context, 20, beside=("table", "map"))
    return [beside, Face("map", "Map", "maps/face.html", _context, 30)]


@hookimpl
def team_traits() -> Sequence[TeamTrait]:
    return TEAM_TRAITS


def _sales(sales: Sequence[SaleOfArea]) -> Iterator[PagePart]:
    if sales:
        yield PagePart("maps/_sales.html", {"sales": [(sale, description_of(sale)) for sale in sales]}, 5)


@hookimpl
def beneath_ledger(answer: Answer) -> Iterator[PagePart]:
    return _sales(sales_of(answer.asked.search, answer.scope))


@hookimpl
def about_list(which: ParcelList, scope: Scope) -> Iterator[PagePart]:
    return _sales(sales_of_list(which, scope))


def _around(parcel: Parcel, scope: Scope) -> Mapping[str, Any] | None:
    # Four searches and a map: they are asked for when somebody comes to them.
    return {"parcel": parcel} if ParcelFacts.objects.filter(pk=parcel.pk, place__isnull=False).exists() else None


@hookimpl
def property_sections() -> list[PropertySection]:
    return [PropertySection("around", "Around here", "maps/_around_here.html", _around, 10)]


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    SaleOfArea.objects.filter(parcel=before).update(parcel=after)
