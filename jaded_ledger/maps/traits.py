"""The traits that the map gives to searches: which of a team's areas a parcel lies in, and how far it lies from a center."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from functools import reduce
from operator import and_, or_

from django.contrib.gis.geos import GEOSGeometry, Point, Polygon
from django.contrib.postgres.expressions import ArraySubquery
from django.contrib.postgres.fields import ArrayField
from django.db.models import Case, F, FloatField, Func, OuterRef, Q, QuerySet, TextField, Value, When
from django.db.models.expressions import BaseExpression
from django.db.models.functions import Cast, Round

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Members, Presence, Quantity, Ring, Search
from jaded_ledger.core.criteria.search import Value as Asked
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.facts.explanations.entries import Entry
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.ground import box_around
from jaded_ledger.core.lengths import METERS_PER_MILE
from jaded_ledger.find.compiler import not_
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.maps.centers import center_of
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.maps.named_areas import area_named, every_area
from jaded_ledger.records.models import Parcel, ParcelFacts

_SPHEROID = "spheroid"
_NOWHERE = Q(place__bboverlaps=Polygon.from_bbox((400, 400, 401, 401)))
"""False wherever a parcel lies, and unknown where that is not known."""


def _in_areas(values: tuple[Asked, ...], scope: Scope) -> Q:
    found = []
    for value in values:
        if isinstance(value, Presence):
            areas = DrawnArea.objects.filter(team=scope.team, deleted_at=None)
            any_ = reduce(or_, (_inside(area.geometry) for area in areas), _NOWHERE)
            found.append(any_ if value.is_there else not_(any_))
        elif isinstance(value, Members):
            each = [_inside(area_named(name, scope.team).geometry) for name in value.items]
            found.append(reduce(and_ if value.quantity is Quantity.ALL else or_, each))
    return reduce(or_, found)


def _inside(geometry: GEOSGeometry) -> Q:
    return Q(place__coveredby=geometry)


def _names(scope: Scope) -> BaseExpression:
    around = DrawnArea.objects.filter(team=scope.team, deleted_at=None, geometry__covers=OuterRef("place")).order_by("folded")
    names = ArraySubquery(around.values("name"))
    return Case(When(place__isnull=False, then=names), output_field=ArrayField(TextField()))


def _explain_areas(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
    facts = ParcelFacts.objects.filter(pk=parcel.pk).first()
    if facts is None or facts.place is None:
        yield Entry("Its place on the map", "·", "neither an outline nor a point of it is on record")
        return
    yield Entry("The point that stands for it", f"{facts.latitude:.6f}, {facts.longitude:.6f}", "within its outline")
    for area in DrawnArea.objects.filter(team=scope.team, deleted_at=None, geometry__covers=facts.place).order_by("folded"):
        yield Entry(area.name, "holds it", f"drawn by {area.made_by or 'somebody who is gone, or from the command line'}")


def _in_rings(values: tuple[Asked, ...], scope: Scope) -> Q:
    return reduce(or_, (_in_ring(value, center_of(value, scope)) for value in values if isinstance(value, Ring)))


def _in_ring(ring: Ring, center: Point) -> Q:
    """Return the condition that a parcel lies in a ring, on the ellipsoid; a box about it comes first, which the index answers."""
    low, high = ring.meters
    asked = []
    if high is not None:
        box = Polygon.from_bbox(box_around(center.x, center.y, high))
        box.srid = 4326
        asked = [Q(place__bboverlaps=box), Q(place__distance_lte=(center, high, _SPHEROID))]
    if low is not None:
        asked.append(Q(place__distance_gte=(center, low, _SPHEROID)))
    return reduce(and_, asked)


class _MetersFrom(Func):
    """How far a place lies from a point, on the ellipsoid."""

    template = "ST_Distance(%(expressions)s::geography)"
    arg_joiner = "::geography, "
    output_field = FloatField()


def _miles(of: Point) -> BaseExpression:
    return Round(_MetersFrom(F("place"), Value(of, output_field=ParcelFacts._meta.get_field("place").output_field)) / METERS_PER_MILE, 2)


def first_ring(search: Search) -> Ring | None:
    """Return the ring that distances are told from: the first that applies."""
    applied = (criterion for line in search.lines if line.is_applied for criterion in line.members() if criterion.is_applied)
    return next((value for one in applied for value in (*one.accepts, *one.refuses) if isinstance(value, Ring)), None)


def _miles_in(search: Search, scope: Scope) -> BaseExpression | None:
    ring = first_ring(search)
    return _miles(center_of(ring, scope)) if ring else None


def _explain_distance(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
    yield Entry("Distance", "·", "it is told in the table of a search that asks for it, from the center of its first ring")


def _explain_distance_in(parcel: Parcel, search: Search, scope: Scope) -> Iterator[Entry]:
    ring, facts = first_ring(search), ParcelFacts.objects.filter(pk=parcel.pk).first()
    if ring is None or facts is None or facts.place is None:
        yield Entry("Distance", "·", "the search asks for none, or the parcel has no place on the map")
        return
    center = center_of(ring, scope)
    yield Entry("From", f"{center.y:.6f}, {center.x:.6f}", f"{ring.center} {ring.at}, the center of the search's first ring")
    yield Entry("To", f"{facts.latitude:.6f}, {facts.longitude:.6f}", "the point that stands for the parcel")


def _counts(parcels: QuerySet[ParcelFacts], scope: Scope) -> Counter[str]:
    areas = DrawnArea.objects.filter(team=scope.team, deleted_at=None)
    return Counter({area.name: parcels.filter(_inside(area.geometry)).count() for area in areas})


def _no_distance(scope: Scope) -> BaseExpression:
    return Cast(Value(None), FloatField())


TEAM_TRAITS = (
    TeamTrait(
        Trait(
            "in-area", "in area", Section.PLACE, Kind.SET, "which of the areas that your team drew it lies in", "your team’s areas",
            of_team=True, synonyms=("drawn area", "inside area", "polygon", "drawn on the map"),
            rule="a parcel lies in an area when the point that represents it does",
        ),
        _in_areas,
        _names,
        _explain_areas,
        things=every_area,
        unknown=Q(place__isnull=True),
        counts=_counts,
    ),
    TeamTrait(
        Trait(
            "within", "distance", Section.PLACE, Kind.RING,
            "how far it lies from a parcel, an address, a listing, a ZIP Code, an area or a point",
            "the parcels’ outlines and points", of_team=True, unit="mi", decimals=2,
            synonyms=("radius", "ring", "distance from", "miles from", "miles of", "near", "nearby", "within a distance"),
            rule="the shortest way on the ellipsoid from the center of the search's first ring to the point that represents the parcel",
        ),
        _in_rings,
        _no_distance,
        _explain_distance,
        things=every_area,
        of_search=_miles_in,
        explain_in=_explain_distance_in,
        unknown=Q(place__isnull=True),
    ),
)  # fmt: skip
