"""Where the center of a ring lies: a parcel, an address, a listing, the middle of a ZIP Code or of an area, or a point."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from django.contrib.gis.db.models import Collect
from django.contrib.gis.db.models.functions import Centroid
from django.contrib.gis.geos import Point
from django.db.models import Avg

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.ring_notation import point_of
from jaded_ledger.core.criteria.search import Center, Ring
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.lengths import METERS_PER_MILE
from jaded_ledger.core.mail.addresses import standardize
from jaded_ledger.core.words import folded
from jaded_ledger.find.parcel_lookup import NoSuchParcelError, parcel_named
from jaded_ledger.maps.named_areas import area_named
from jaded_ledger.records.models import AreaEntry, County, Listing, Parcel, ParcelFacts, RollEntry

_ONE_PLACE = 0.1 * METERS_PER_MILE
"""Doors of one address that lie no farther from one another are at one place, in meters."""


def _place_of(parcels: Iterable[int], named: str) -> Point:
    """Return where a parcel lies, or several that are one building's. Raises CriteriaError."""
    found = list(ParcelFacts.objects.filter(pk__in=parcels).order_by("pk").values_list("place", "county__name", "city__text"))
    places = [place for place, _, _ in found if place is not None]
    if not places:
        raise CriteriaError(f"{named} has no place on the map: neither an outline nor a point of it is on record", word=named)
    if any(_meters(places[0], other) > _ONE_PLACE for other in places[1:]):
        where = sorted({", ".join(filter(None, (city, f"{county} County"))) for _, county, city in found})
        raise CriteriaError(f"{named} is in several places ({'; '.join(where)}); write its city, or its parcel number", word=named)
    return places[0]


def _meters(one: Point, other: Point) -> float:
    """Return about how far two points lie apart: in web mercator, where it is too far rather than too near."""
    return one.transform(3857, clone=True).distance(other.transform(3857, clone=True))


def _parcel(ring: Ring, scope: Scope) -> Point:
    try:
        return _place_of([parcel_named(ring.at).pk], f"parcel {ring.at}")
    except NoSuchParcelError as error:
        raise CriteriaError(str(error), word=ring.at) from None


def _listing(ring: Ring, scope: Scope) -> Point:
    numbers = {ring.at, ring.at.upper()}
    every = Listing.objects.filter(county__in=County.objects.values("pk"), listing_id__in=numbers, superseded_at=None, parcel__isnull=False)
    parcels = set(every.values_list("parcel", flat=True))
    if not parcels:
        raise CriteriaError(f"no listing on record has the number “{ring.at}”", word=ring.at)
    return _place_of(parcels, f"listing {ring.at}")


def _zip(ring: Ring, scope: Scope) -> Point:
    outlines = AreaEntry.objects.filter(superseded_at=None, kind="zip", area__folded=ring.at, geometry__isnull=False)
    middle = outlines.aggregate(middle=Centroid(Collect("geometry")))["middle"]
    if middle is None:
        # Where no outline of it is on record, the middle of its parcels stands for it.
        mean = ParcelFacts.objects.filter(zip__folded=ring.at).aggregate(x=Avg("longitude"), y=Avg("latitude"))
        middle = Point(mean["x"], mean["y"], srid=4326) if mean["x"] is not None else None
    if middle is None:
        raise CriteriaError(f"ZIP {ring.at} is on record neither with an outline nor with parcels", word=ring.at)
    return middle


def _area(ring: Ring, scope: Scope) -> Point:
    """Return the middle of an area of the team's, or, where it has none of that name, of one on record."""
    try:
        area = area_named(ring.at, scope.team)
    except CriteriaError:
        outlines = AreaEntry.objects.filter(superseded_at=None, area__folded=folded(ring.at), geometry__isnull=False)
        middle = outlines.aggregate(middle=Centroid(Collect("geometry")))["middle"]
        if middle is None:
            raise
        return middle
    return area.center or area.geometry.centroid


def _point(ring: Ring, scope: Scope) -> Point:
    return Point(*point_of(ring), srid=4326)


def _address(ring: Ring, scope: Scope) -> Point:
    line, _, rest = ring.at.partition(",")
    city = rest.split(",")[0].strip()
    street = standardize(line).street
    if not street:
        raise CriteriaError(f"“{ring.at}” is not an address that can be read; write one such as 103 Capstan St, Alder Bay", word=ring.at)
    on_roll = RollEntry.objects.filter(situs__street=street, superseded_at=None).values("parcel")
    begun = Parcel.objects.filter(begun_at__street=street).values("pk")
    parcels = ParcelFacts.objects.filter(pk__in=on_roll.union(begun)).values_list("pk", "city__folded", "municipality__folded", "zip__text")
    there = [pk for pk, *places in parcels if not city or city.casefold() in [place and place.casefold() for place in places]]
    if not there:
        where = f" in {city}" if city else ""
        raise CriteriaError(f"no property on record has the address “{line.strip()}”{where}", word=ring.at)
    return _place_of(there, f"“{ring.at}”")


_BY_KIND: dict[Center, Callable[[Ring, Scope], Point]] = {
    Center.PARCEL: _parcel,
    Center.LISTING: _listing,
    Center.ZIP: _zip,
    Center.AREA: _area,
    Center.POINT: _point,
    Center.ADDRESS: _address,
}


def center_of(ring: Ring, scope: Scope) -> Point:
    """Return the center of a ring, in degrees (WGS 84). Raises CriteriaError where it is not on record, or can be several."""
    return _BY_KIND[ring.center](ring, scope)
