"""What the map says of parcels: where they lie, flood zones, roads and other ways, and how far their owners' mail goes."""

from __future__ import annotations

from collections.abc import Sequence

from django.contrib.gis.db.models import GeometryField
from django.db import connection
from django.db.models import Count, FloatField, Func, Max, OuterRef, Q, Subquery
from django.db.models.functions import Cast

from jaded_ledger.core.facts.record import Ground
from jaded_ledger.core.ground import Layer, Way
from jaded_ledger.core.lengths import METERS_PER_FOOT, METERS_PER_MILE
from jaded_ledger.records import models
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.terrain import terrains_of

Ids = Sequence[int]
_AT_ONCE = 2_000
_STANDS = Q(superseded_at=None)
_NEAR_ROAD = 200 * METERS_PER_FOOT
"""How far a road may lie from a parcel, in meters."""
_ZONES = """
SELECT shape.id, array_agg(DISTINCT zone.class_code ORDER BY zone.class_code)
  FROM records_parcelshape shape
  JOIN records_mapfeature zone ON zone.county_id = shape.county_id AND zone.layer = %s AND zone.superseded_at IS NULL
   AND ST_Intersects(zone.geometry, shape.outline)
 WHERE shape.id = ANY(%s) GROUP BY shape.id
"""
# The index gives the nearest few in degrees, in which a mile east is longer than one north; of those, the nearest on the ground is taken.
_ROADS = """
SELECT shape.id, nearest.class_code
  FROM records_parcelshape shape
  CROSS JOIN LATERAL (
    SELECT few.class_code, ST_Distance(few.geometry::geography, shape.outline::geography) AS away
      FROM (SELECT road.id, road.class_code, road.geometry FROM records_mapfeature road
             WHERE road.layer = ANY(%s) AND road.superseded_at IS NULL AND road.county_id = shape.county_id
             ORDER BY road.geometry <-> shape.outline LIMIT 4) few
     ORDER BY away, few.id LIMIT 1
  ) nearest
 WHERE nearest.away <= %s AND shape.id = ANY(%s)
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


def _feet_to_ways(shape_ids: Ids) -> dict[int, dict[Way, float]]:
    """Return how far outlines lie from the nearest way of each kind in their county; nothing of a kind of which it has none."""
    shapes = models.ParcelShape.objects.filter(id__in=among_ids(shape_ids))
    found: dict[int, dict[Way, float]] = {pk: {} for pk in shape_ids}
    counties = set(shapes.order_by().values_list("county", flat=True).distinct())
    for way, is_one in models.OF_WAY.items():
        features = models.MapFeature.objects.filter(is_one, county__in=counties)
        if not features.exists():
            continue
        nearest = features.filter(county=OuterRef("county")).alias(near=_To("drawn", OuterRef("drawn"))).order_by("near")
        shape = Cast(Subquery(nearest.values("geometry")[:1]), _ON_THE_ELLIPSOID)
        meters = Func(shape, Cast("outline", _ON_THE_ELLIPSOID), function="ST_Distance", output_field=FloatField())
        for pk, away in shapes.values_list("pk", meters):
            if away is not None:
                found[pk][way] = away / METERS_PER_FOOT
    return found


def layers_of(county: int) -> str:
    """Return which state of a county's map layers stands: another text whenever a feature came, went or was corrected."""
    features = models.MapFeature.objects.filter(county=county)
    state = features.aggregate(rows=Count("pk"), newest=Max("pk"), ended=Max("superseded_at"), standing=Count("pk", filter=_STANDS))
    return " ".join(str(state[name]) for name in ("rows", "newest", "standing", "ended"))


def _outlines(ids: Ids, layers: str, has_layers: bool) -> dict[int, models.OutlineGround]:
    """Return by parcel what the map says of its outline: as it was kept, or found now and kept."""
    shapes = dict(models.ParcelShape.objects.filter(parcel_id__in=among_ids(ids), superseded_at=None).values_list("id", "parcel_id"))
    kept = {ground.pk: ground for ground in models.OutlineGround.objects.filter(shape__in=among_ids(shapes), layers=layers)}
    missing = sorted(shapes.keys() - kept.keys())
    if missing:
        with connection.cursor() as cursor:
            cursor.execute(_ZONES, [Layer.FLOOD_ZONE, missing])
            zones = dict(cursor.fetchall())
            cursor.execute(_ROADS, [[Layer.ROAD, Layer.HIGHWAY], _NEAR_ROAD, missing])
            roads = dict(cursor.fetchall())
        feet_to = _feet_to_ways(missing) if has_layers else {}
        found = [
            models.OutlineGround(
                shape_id=pk, layers=layers, flood_zones=zones.get(pk, []), road_class=roads.get(pk), feet_to=feet_to.get(pk, {})
            )
            for pk in missing
        ]
        # Two that read the same outlines at once find the same, and neither takes away what the other reads.
        state = ("layers", "flood_zones", "road_class", "feet_to")
        models.OutlineGround.objects.bulk_create(
            found, batch_size=_AT_ONCE, update_conflicts=True, unique_fields=["shape"], update_fields=state
        )
        kept |= {ground.pk: ground for ground in found}
    return {shapes[pk]: ground for pk, ground in kept.items()}


def grounds_of(ids: Ids, layers: str, has_layers: bool) -> dict[int, Ground]:
    """Return what the map says of parcels. Units of a condominium have no outline of their own but that of their place.

    ``layers`` is what ``layers_of`` says of their county.
    """
    with connection.cursor() as cursor:
        cursor.execute(_AWAY, [list(ids)])
        away = dict(cursor.fetchall())
        cursor.execute(_PLACES, [list(ids)])
        places = {pk: (longitude, latitude) for pk, longitude, latitude in cursor.fetchall()}
    terrains, outlines = terrains_of(places), _outlines(ids, layers, has_layers)
    found = {}
    for pk in ids:
        outline = outlines.get(pk)
        found[pk] = Ground(
            tuple(outline.flood_zones) if outline and has_layers else None,
            outline.road_class if outline else None,
            None if away.get(pk) is None else away[pk] / METERS_PER_MILE,
            *places.get(pk, (None, None)),
            {Way(way): feet for way, feet in outline.feet_to.items()} if outline else {},
            terrains.get(pk),
        )
    return found
