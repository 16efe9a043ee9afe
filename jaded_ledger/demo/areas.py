"""The areas that the demo's team drew: ground between barriers, a circle, and a few blocks."""

from __future__ import annotations

from datetime import date

from django.contrib.gis.geos import MultiPolygon, Point, Polygon

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.ground import box_around
from jaded_ledger.maps.areas import keep_area, outline_of, outline_of_circle
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.maps.on_record import between_barriers
from jaded_ledger.records.models import AreaEntry

_HALF_A_MILE, _BLOCKS = 804.672, 180.0
"""Meters."""


def make_areas(team: Team, today: date) -> None:
    """Make the demo's areas for a team that has drawn none."""
    if DrawnArea.objects.filter(team=team).exists():
        return
    scope = Scope(team, User.objects.filter(team=team).order_by("pk").first(), today)
    wards = AreaEntry.objects.filter(superseded_at=None, kind="neighborhood", area__text="Harbour Wards").first()
    if wards is None or wards.geometry is None:
        return
    middle = wards.geometry.centroid
    if ground := between_barriers(middle):
        keep_area(scope, "Shore side of the tracks", outline_of(ground))
    west, south, east, north = wards.geometry.extent
    quay = Point(east, middle.y, srid=4326)
    keep_area(scope, "Half a mile around the quay", outline_of_circle(quay.x, quay.y, _HALF_A_MILE))
    corner = Polygon.from_bbox(box_around(west + (east - west) / 4, south + (north - south) / 3, _BLOCKS))
    keep_area(scope, "Oakum corner", outline_of(MultiPolygon(corner, srid=4326)))
