"""A team's areas: kept, renamed, given another outline, deleted and put back."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.gis.db.models import GeometryField
from django.contrib.gis.geos import GEOSGeometry, MultiPolygon, Point
from django.db import transaction
from django.db.models import FloatField, Func, QuerySet
from django.db.models.functions import Cast

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.words import folded
from jaded_ledger.find.named_things import MARK
from jaded_ledger.maps.acts import AREAS
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.maps.outlines import circle, mended
from jaded_ledger.records.clock import now
from jaded_ledger.web.sentences import sentence_of

_LONGEST = 80


@dataclass(frozen=True)
class Outline:
    """An area's outline as it is kept. ``center`` and ``radius``, in meters, are of a circle; ``told`` says what was mended."""

    geometry: MultiPolygon
    center: Point | None = None
    radius: float | None = None
    note: str = ""


def outline_of(geometry: GEOSGeometry) -> Outline:
    """Return what is kept of an outline. Raises AreaError for one that can't be."""
    kept, note = mended(geometry)
    return Outline(kept, note=note)


def outline_of_circle(longitude: float, latitude: float, meters: float) -> Outline:
    """Return what is kept of a circle, in degrees and meters. Raises AreaError."""
    if not (-180 <= longitude <= 180 and -90 <= latitude <= 90):
        raise AreaError("the center lies off the map: it is not in degrees of longitude and latitude")
    center = Point(longitude, latitude, srid=4326)
    return Outline(circle(center, meters), center, meters)


def areas_of(team: Team) -> QuerySet[DrawnArea]:
    """Return the areas that a team has, by name, each with its ``square_meters`` on the ellipsoid."""
    ground = Cast("geometry", GeometryField(srid=4326, geography=True))
    size = Func(ground, function="ST_Area", output_field=FloatField())
    return DrawnArea.objects.filter(team=team, deleted_at=None).annotate(square_meters=size)


def _named(scope: Scope, name: str, but: DrawnArea | None = None) -> dict[str, str]:
    """Return a name as it is kept, both ways. Raises AreaError for none, and for one that is taken."""
    kept = " ".join(name.replace("\x00", "").split())
    if not kept:
        raise AreaError("the area has no name yet; give it one")
    if kept.startswith(MARK):
        raise AreaError(f"an area's name can't begin with {MARK}; searches are kept with it")
    if len(kept) > _LONGEST:
        raise AreaError(f"an area's name has at most {_LONGEST} characters; this one has {len(kept)}")
    called = areas_of(scope.team).filter(folded=folded(kept))
    if (called.exclude(pk=but.pk) if but else called).exists():
        raise AreaError(f"there is an area “{kept}” already; choose another name")
    return {"name": kept, "folded": folded(kept)}


def _locked(scope: Scope, area: DrawnArea) -> DrawnArea:
    """Return an area of the team's, locked until the transaction ends. Raises AreaError when it is gone."""
    try:
        return DrawnArea.objects.select_for_update().get(pk=area.pk, team=scope.team, deleted_at=None)
    except DrawnArea.DoesNotExist:
        raise AreaError(f"the area “{area.name}” was deleted in the meantime; the page of areas can put it back") from None


def _begin(scope: Scope) -> None:
    require(scope, AREAS)
    Team.objects.select_for_update().get(pk=scope.team.pk)


@transaction.atomic
def keep_area(scope: Scope, name: str, outline: Outline) -> DrawnArea:
    """Keep an area under a name. Raises AreaError and PermissionDenied."""
    _begin(scope)
    at = now()
    area = DrawnArea.objects.create(
        team=scope.team, **_named(scope, name), geometry=outline.geometry, center=outline.center, radius=outline.radius,
        made_by=scope.user, made_at=at, changed_at=at,
    )  # fmt: skip
    scope.team.put_up_version()
    return area


@transaction.atomic
def rename_area(scope: Scope, area: DrawnArea, name: str) -> None:
    """Give an area another name. Searches that ask for it go on asking for it. Raises AreaError and PermissionDenied."""
    _begin(scope)
    found = _locked(scope, area)
    DrawnArea.objects.filter(pk=found.pk).update(**_named(scope, name, found), changed_at=now())
    scope.team.put_up_version()


@transaction.atomic
def reshape_area(scope: Scope, area: DrawnArea, outline: Outline) -> None:
    """Give an area another outline. Raises AreaError and PermissionDenied."""
    _begin(scope)
    found = _locked(scope, area)
    found.geometry, found.center, found.radius, found.changed_at = outline.geometry, outline.center, outline.radius, now()
    found.save(update_fields=["geometry", "center", "radius", "changed_at"])
    scope.team.put_up_version()


def free_name(team: Team, wanted: str) -> str:
    """Return a name, with a number behind it where it is taken."""
    taken = set(areas_of(team).values_list("folded", flat=True))
    names = [wanted, *(f"{wanted} {number}" for number in range(2, len(taken) + 3))]
    return next(name for name in names if folded(name) not in taken)


def return_refused(scope: Scope, area: DrawnArea) -> str:
    """Return why a deleted area can't come back, as where another has its name; blank where it can."""
    try:
        _named(scope, area.name)
    except AreaError as error:
        return sentence_of(error)
    return ""
