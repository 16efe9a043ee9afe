"""The map: a tile against bare ST_AsMVT over the same rows, and the matches in view against the same written by hand in SQL."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from math import floor

from django.db import connection

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.maps.in_view import View, matches_in
from jaded_ledger.maps.tiles import tile
from tests.benchmarks.find import run
from tests.benchmarks.measure import Row, compare

WORLD = 20_037_508.342789244
SEARCH = "county: Tamarack\nclass: single-family, duplex\nowner-occupied: no"
WHERE = """county_id = (SELECT id FROM records_county WHERE name = 'Tamarack') AND property_class IN (1, 2) AND owner_occupied = false"""
BARE = """
WITH t AS (SELECT ST_TileEnvelope({0}, {1}, {2}) AS box)
SELECT (SELECT ST_AsMVT(q, 'parcels', 4096, 'geom', 'id') FROM (
         SELECT parcel_id AS id, ST_AsMVTGeom(drawn, t.box, 4096, 64, true) AS geom FROM records_parcelshape, t
          WHERE superseded_at IS NULL AND outline && ST_Transform(t.box, 4326)) q),
       (SELECT ST_AsMVT(q, 'features', 4096, 'geom', 'id') FROM (
         SELECT id, layer, class_code, name, ST_AsMVTGeom(drawn, t.box, 4096, 64, true) AS geom FROM records_mapfeature, t
          WHERE superseded_at IS NULL AND geometry && ST_Transform(t.box, 4326)) q)
"""
BY_HAND = (
    """
SELECT s.parcel_id FROM records_parcelshape s JOIN records_parcelfacts f ON f.parcel_id = s.parcel_id
 WHERE s.superseded_at IS NULL AND s.outline && ST_Transform(ST_MakeEnvelope({0}, {1}, {2}, {3}, 3857), 4326) AND f."""
    + WHERE
)


def _downtown() -> tuple[float, float]:
    """Return the middle of Alder Bay in web mercator."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT ST_X(ST_Centroid(drawn)), ST_Y(ST_Centroid(drawn))"
            " FROM records_parcelshape s JOIN records_parcel p ON p.id = s.parcel_id"
            " WHERE p.number = '12-090-008' AND s.superseded_at IS NULL"
        )
        return cursor.fetchone()


def rows() -> Iterator[Row]:
    x, y = _downtown()
    for zoom in (15, 14, 12):
        side = 2 * WORLD / 2**zoom
        at = (zoom, floor((x + WORLD) / side), floor((WORLD - y) / side))
        yield compare(
            f"map: a tile at zoom {zoom}, against bare ST_AsMVT", 1.3, lambda at=at: tile(*at), lambda at=at: run(BARE.format(*at))
        )
    matches = compile(parse(SEARCH), Scope(Team.objects.first(), None, date(2026, 11, 24))).matches
    for half, zoom in ((1_500, 15), (4_000, 14)):
        box = (x - half, y - half, x + half, y + half)
        view = View(*box, zoom)
        yield compare(
            f"map: the matches in view at zoom {zoom}",
            1.5,
            lambda view=view: matches_in(view, matches),
            lambda box=box: run(BY_HAND.format(*box)),
        )
