"""What the map says of parcels: where they lie, flood zones, roads and other ways, and how far their owners' mail goes."""

from __future__ import annotations

from collections.abc import Sequence

from django.contrib.gis.db.models import GeometryField
from django.db import connection
from django.db.models import FloatField, Func, OuterRef, Subquery
from django.db.models.functions import Cast

from jaded_ledger.core.facts.record import Ground
from jaded_ledger.core.ground import Layer, Way
from jaded_ledger.core.lengths import METERS_PER_FOOT, METERS_PER_MILE
from jaded_ledger.records import models
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.terrain import terrains_of

Ids = Sequence[int]
_NEAR_ROAD = 200 * METERS_PER_FOOT
"""How far a road may lie from a parcel, in meters."""
_ZONES = """
SELECT shape.parcel_id, array_agg(DISTINCT zone.class_code ORDER BY zone.class_code)
  FROM records_parcelshape shape
  JOIN records_mapfeature zone ON zone.county_id = shape.county_id AND zone.layer = %s AND zone.superseded_at IS NULL
   AND ST_Intersects(zone.geometry, shape.outline)
 WHERE shape.parcel_id = ANY(%s) AND shape.superseded_at IS NULL GROUP BY shape.parcel_id
"""
# The index gives the nearest few in degrees, in which a mile east is longer than one north; of those, the nearest on the ground is taken.
_ROADS = """
SELECT shape.parcel_id, nearest.class_code
  FROM records_parcelshape shape
  CROSS JOIN LATERAL (
    SELECT few.class_code, ST_Distance(few.geometry::geography, shape.outline::geography) AS away
      FROM (SELECT road.id, road.class_code, road.geometry FROM records_mapfeature road
             WHERE road.layer = ANY(%s) AND road.superseded_at IS NULL AND road.county_id = shape.county_id
             ORDER BY road.geometry <-> shape.outline LIMIT 4) few
     ORDER BY away, few.id LIMIT 1
  ) nearest
 WHERE nearest.away <= %s AND shape.parcel_id = ANY(%s) AND shape.superseded_at IS NULL
"""
# A parcel whose situs is the mailing address tells best where that is; else the middle of its ZIP Code's area.
_AWAY = """
SELECT here.parcel_id,
       ST_Distance(COALESCE(place.place, ground.point), COALESCE(
         (SELECT there.place FROM records_recordedaddress at
            JOIN records_rollentry entry ON entry.situs_id = at.id AND entry.superseded_at IS NULL
            JOIN records_parcelshape there ON there.parcel_id = entry.parcel_id AND there.superseded_at IS NULL
           WHERE at.street = mail.street AND at.zip5 = mail.zip5 AND mail.street <> '' AND mail.zip5 <> ''
           ORDER BY entry.parcel_id LIMIT 1),
         (SELECT ST_Centroid(zone.geometry)::geography FROM records_area area
            JOIN records_areaentry zone ON zone.area_id = area.id AND zone.superseded_at IS NULL
           WHERE area.kind = 'zip' AND area.text = mail.zip5 AND zone.geometry IS NOT NULL ORDER BY area.id LIMIT 1)))
  FROM records_rollentry here
  JOIN records_recordedaddress mail ON mail.id = here.mailing_address_id
  JOIN records_parcel ground ON ground.id = here.parcel_id
  LEFT JOIN records_parcelshape place ON place.parcel_id = here.parcel_id AND place.superseded_at IS NULL
 WHERE here.parcel_id = ANY(%s) AND here.superseded_at IS NULL
"""

# A unit of a condominium lies where its building stands.
_PLACES = """
SELECT parcel.id, ST_X(at.place), ST_Y(at.place)
  FROM records_parcel parcel
  LEFT JOIN records_parcel base ON base.id = parcel.parent_id
  LEFT JOIN records_parcelshape own ON own.parcel_id = parcel.id AND own.superseded_at IS NULL
  LEFT JOIN records_parcelshape beneath ON beneath.parcel_id = base.id AND beneath.superseded_at IS NULL
  CROSS JOIN LATERAL (SELECT COALESCE(own.place, parcel.point, beneath.place, base.point)::geometry AS place) at
 WHERE parcel.id = ANY(%s) AND at.place IS NOT NULL
"""


class _To(Func):
    """How near two shapes lie in web mercator: the index finds what lies nearest, and any direction counts alike there."""

    template = "%(expressions)s"
    arg_joiner = " <-> "
    output_field = FloatField()


_ON_THE_ELLIPSOID = GeometryField(srid=4326, geography=True)


def _feet_to_ways(ids: Ids) -> dict[int, dict[Way, float]]:
    """Return how far outlines lie from the nearest way of each kind in their county; nothing of a kind of which it has none."""
    shapes = models.ParcelShape.objects.filter(parcel_id__in=among_ids(ids), superseded_at=None)
    found: dict[int, dict[Way, float]] = {pk: {} for pk in ids}
    counties = set(models.Parcel.objects.filter(id__in=among_ids(ids)).order_by().values_list("county", flat=True))
    for way, is_one in models.OF_WAY.items():
        features = models.MapFeature.objects.filter(is_one, county__in=counties)
        if not features.exists():
            continue
        nearest = features.filter(county=OuterRef("county")).alias(near=_To("drawn", OuterRef("drawn"))).order_by("near")
        shape = Cast(Subquery(nearest.values("geometry")[:1]), _ON_THE_ELLIPSOID)
        meters = Func(shape, Cast("outline", _ON_THE_ELLIPSOID), function="ST_Distance", output_field=FloatField())
        for pk, away in shapes.values_list("parcel", meters):
            if away is not None:
                found[pk][way] = away / METERS_PER_FOOT
    return found


def grounds_of(ids: Ids, has_layers: bool) -> dict[int, Ground]:
    """Return what the map says of parcels. Units of a condominium have no outline of their own but that of their place."""
    with connection.cursor() as cursor:
        cursor.execute(_ZONES, [Layer.FLOOD_ZONE, list(ids)])
        zones = dict(cursor.fetchall())
        cursor.execute(_ROADS, [[Layer.ROAD, Layer.HIGHWAY], _NEAR_ROAD, list(ids)])
        roads = dict(cursor.fetchall())
        cursor.execute(_AWAY, [list(ids)])
        away = dict(cursor.fetchall())
        cursor.execute(_PLACES, [list(ids)])
        places = {pk: (longitude, latitude) for pk, longitude, latitude in cursor.fetchall()}
    terrains = terrains_of(places)
    feet_to = _feet_to_ways(ids) if has_layers else {}
    shaped = set(models.ParcelShape.objects.filter(parcel_id__in=among_ids(ids), superseded_at=None).values_list("parcel_id", flat=True))
    return {
        pk: Ground(
            tuple(zones.get(pk, ())) if has_layers and pk in shaped else None,
            roads.get(pk),
            None if away.get(pk) is None else away[pk] / METERS_PER_MILE,
            *places.get(pk, (None, None)),
            feet_to.get(pk, {}),
            terrains.get(pk),
        )
        for pk in ids
    }
