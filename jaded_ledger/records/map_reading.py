"""What the map says of parcels: flood zones, roads, and how far their owners' mail goes."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import connection

from jaded_ledger.core.facts.record import Ground
from jaded_ledger.core.ground import Layer
from jaded_ledger.records import models
from jaded_ledger.records.bulk import among_ids

Ids = Sequence[int]
_NEAR_ROAD = 200 * 0.3048
"""How far a road may lie from a parcel, in meters."""
_METERS_PER_MILE = 1609.344
"""NIST Handbook 44, Appendix C: the international mile."""
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


def grounds_of(ids: Ids, has_layers: bool) -> dict[int, Ground]:
    """Return what the map says of parcels. Units of a condominium have no outline of their own but that of their place."""
    with connection.cursor() as cursor:
        cursor.execute(_ZONES, [Layer.FLOOD_ZONE, list(ids)])
        zones = dict(cursor.fetchall())
        cursor.execute(_ROADS, [[Layer.ROAD, Layer.HIGHWAY], _NEAR_ROAD, list(ids)])
        roads = dict(cursor.fetchall())
        cursor.execute(_AWAY, [list(ids)])
        away = dict(cursor.fetchall())
    shaped = set(models.ParcelShape.objects.filter(parcel_id__in=among_ids(ids), superseded_at=None).values_list("parcel_id", flat=True))
    return {
        pk: Ground(
            tuple(zones.get(pk, ())) if has_layers and pk in shaped else None,
            roads.get(pk),
            None if away.get(pk) is None else away[pk] / _METERS_PER_MILE,
        )
        for pk in ids
    }
