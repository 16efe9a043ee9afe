"""The neighborhood around a sale: proposals for it, and the search of its owners that one of them starts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from django.contrib.gis.geos import GEOSGeometry, MultiPolygon, Polygon
from django.db import connection, transaction

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Criterion, Members, Quantity, Search
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.core.lengths import METERS_PER_MILE
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.find.named_things import search_from
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists.models import Activity, ParcelList
from jaded_ledger.maps.areas import free_name, keep_area, outline_of
from jaded_ledger.maps.closed_sales import ClosedSale, describe_sale
from jaded_ledger.maps.models import SaleOfArea
from jaded_ledger.maps.on_record import between_barriers
from jaded_ledger.maps.outlines import circle
from jaded_ledger.records.models import AreaEntry, Parcel, ParcelFacts
from jaded_ledger.records.own_columns import slug

REACHES = {"0.25": 0.25 * METERS_PER_MILE, "0.5": 0.5 * METERS_PER_MILE, "1": METERS_PER_MILE}
"""How far the ground between barriers is followed, in miles as they are chosen."""
USUAL_REACH = "0.5"
MONTHS = 24
"""Who bought within so many months is left out; common practice."""
LIVES_THERE = {"": "all owners", "yes": "owners who live there", "no": "owners who live elsewhere"}
_STREET = 20
"""Parcels this far from one another, in meters, are across a street."""
# Grown and shrunk again, so that the streets between its parcels are part of it.
_AROUND_PARCELS = """
SELECT ST_AsEWKB(ST_Multi(ST_Transform(ST_Buffer(ST_Buffer(ST_Union(shape.drawn), %(street)s), -%(street)s), 4326)))
  FROM records_parcelfacts facts JOIN records_parcelshape shape ON shape.parcel_id = facts.parcel_id AND shape.superseded_at IS NULL
 WHERE facts.subdivision_id = %(subdivision)s
"""


@dataclass(frozen=True)
class Proposal:
    """A neighborhood that a search could be of: what it is, its outline, and how many parcels lie in it."""

    key: str
    label: str
    geometry: MultiPolygon
    parcels: int


def _several(geometry: GEOSGeometry) -> MultiPolygon:
    if isinstance(geometry, Polygon):
        return MultiPolygon(geometry, srid=4326)
    assert isinstance(geometry, MultiPolygon)
    return geometry


def _subdivision(subdivision: int) -> MultiPolygon | None:
    entry = AreaEntry.objects.filter(superseded_at=None, area=subdivision, geometry__isnull=False).first()
    if entry:
        return entry.geometry
    with connection.cursor() as cursor:
        cursor.execute(_AROUND_PARCELS, {"street": _STREET, "subdivision": subdivision})
        (found,) = cursor.fetchone()
    return _several(GEOSGeometry(memoryview(found))) if found else None


def proposals(parcel: Parcel, reach: str) -> list[Proposal]:
    """Return the neighborhoods around a sale, the closest-knit first; none where the parcel has no place on the map."""
    facts = ParcelFacts.objects.select_related("subdivision", "neighborhood").filter(pk=parcel.pk).first()
    if facts is None or facts.place is None:
        return []
    outlines: list[tuple[str, str, MultiPolygon | None]] = []
    if facts.subdivision:
        outlines.append(("subdivision", f"the subdivision {in_reading_case(facts.subdivision.text)}", _subdivision(facts.subdivision.pk)))
    meters = REACHES[reach]
    outlines.append(
        ("barriers", f"what can be reached without crossing a barrier, up to {reach} mi", between_barriers(facts.place, meters))
    )
    outlines.append(("circle", f"everything up to {reach} mi away", circle(facts.place, meters)))
    if facts.neighborhood:
        entry = AreaEntry.objects.filter(superseded_at=None, area=facts.neighborhood_id, geometry__isnull=False).first()
        outlines.append(("neighborhood", f"the assessor’s neighborhood {facts.neighborhood.text}", entry.geometry if entry else None))
    return [
        Proposal(key, label, outline, ParcelFacts.objects.filter(place__coveredby=outline).count())
        for key, label, outline in outlines
        if outline
    ]


def search_of(area: str, parcel: Parcel, months: int, lives_there: str) -> Search:
    """Return the search of an area's owners, but for those who bought within so many months, and the property that was sold."""
    inside = Criterion("in-area", (Members(Quantity.ANY, (area,)),))
    lines = [f"parcel-number: not {slug(parcel.county)}/{parcel.number}"]
    if months:
        lines.append(f"last-sale: not in the last {months} months, or unknown")
    if lives_there:
        lines.append(f"owner-occupied: {lives_there}")
    return Search((parcel.county.name,), (inside, *parse("\n".join(lines)).lines))


@transaction.atomic
def start_search(sale: ClosedSale, proposal: Proposal, months: int, lives_there: str, scope: Scope) -> SearchPage:
    """Keep a neighborhood as an area that knows its sale, and return the search of its owners. Raises AreaError and PermissionDenied."""
    area = keep_area(scope, free_name(scope.team, f"Around {sale.address}"[:70]), outline_of(proposal.geometry))
    SaleOfArea.objects.create(
        area=area, parcel_id=sale.parcel_id, listing_id=sale.listing_id, address=sale.address, closed_on=sale.closed_on,
        list_price=sale.list_price, close_price=sale.close_price, days=sale.days, signs=list(sale.signs),
    )  # fmt: skip
    parcel = Parcel.objects.select_related("county").get(pk=sale.parcel_id)
    return SearchPage(search_of(area.name, parcel, months, lives_there))


def description_of(sale: SaleOfArea) -> str:
    """Return the sale of an area in a sentence."""
    return describe_sale(sale.address, sale.closed_on, sale.list_price, sale.close_price, sale.days, sale.signs)


def _areas_in(search: Search) -> Iterator[str]:
    for criterion in search:
        if criterion.trait == "in-area" and criterion.is_applied:
            yield from (name for value in criterion.accepts if isinstance(value, Members) for name in value.items)


def sales_of(search: Search, scope: Scope) -> list[SaleOfArea]:
    """Return the sales that a search is around, by the areas that it includes."""
    names = [name.casefold() for name in _areas_in(search)]
    if not names:
        return []
    areas = SaleOfArea.objects.filter(area__team=scope.team, area__folded__in=names, area__deleted_at=None)
    return list(areas.select_related("area").order_by("-closed_on", "pk"))


def sales_of_list(which: ParcelList, scope: Scope) -> list[SaleOfArea]:
    """Return the sales around which a list's parcels were found, by the searches that they came from."""
    texts = Activity.objects.filter(added__list=which, added__removed=None).exclude(search="").values_list("search", flat=True).distinct()
    found: dict[int, SaleOfArea] = {}
    for text in texts:
        try:
            found |= {sale.pk: sale for sale in sales_of(search_from(text, scope.team), scope)}
        except CriteriaError:
            continue
    return list(found.values())
