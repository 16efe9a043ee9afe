"""The map: a tile against bare ST_AsMVT over the same rows; the matches in view, and searches of a ring and of an area with three other
criteria, against the same written by hand in SQL."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from math import cos, floor, pi, sin

from django.contrib.gis.geos import MultiPolygon, Point, Polygon
from django.core.cache import caches
from django.db import connection

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.lengths import METERS_PER_MILE
from jaded_ledger.find.balance import Balance, balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.maps.in_view import View, matches_in
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.maps.tiles import tile
from jaded_ledger.records.clock import now
from tests.benchmarks.find import balance_by_hand, run
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

THREE = "class: single-family, duplex\nowner-occupied: no\nlast-sale: more than 5 years ago"
THREE_BY_HAND = ("property_class IN (1, 2)", "NOT owner_occupied", "last_sale <= DATE '2021-11-23'")
MILES = 2
CIRCLE = """
SELECT count(*) FROM records_parcelshape s JOIN records_parcelfacts f ON f.parcel_id = s.parcel_id
 WHERE s.superseded_at IS NULL AND ST_DWithin(s.place, {point}::geography, {meters}) AND {others}"""
POLYGON = "SELECT count(*) FROM records_parcelfacts f WHERE ST_Covers('{area}'::geometry, f.place) AND {others}"


def _downtown() -> tuple[float, float]:
    """Return the middle of Alder Bay in web mercator."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT ST_X(ST_Centroid(drawn)), ST_Y(ST_Centroid(drawn))"
            " FROM records_parcelshape s JOIN records_parcel p ON p.id = s.parcel_id"
            " WHERE p.number = '12-090-008' AND s.superseded_at IS NULL"
        )
        return cursor.fetchone()


def _outline(longitude: float, latitude: float) -> Polygon:
    """Return an outline of 60 corners about a place, now near and now farther off, as somebody draws along streets."""
    corners = [
        (longitude + reach * cos(turn), latitude + reach * sin(turn))
        for number in range(60)
        for reach, turn in ((0.03 if number % 2 else 0.024, 2 * pi * number / 60),)
    ]
    return Polygon([*corners, corners[0]], srid=4326)


def _places(x: float, y: float, scope: Scope) -> Iterator[Row]:
    middle = Point(x, y, srid=3857)
    middle.transform(4326)
    area, _ = DrawnArea.objects.update_or_create(
        team=scope.team, folded="bench", defaults={"name": "Bench", "geometry": MultiPolygon(_outline(*middle.coords), srid=4326),
        "made_at": now(), "changed_at": now(), "deleted_at": None},
    )  # fmt: skip
    others = " AND ".join(f"f.{one.removeprefix('NOT ')}" if not one.startswith("NOT") else f"NOT f.{one[4:]}" for one in THREE_BY_HAND)
    point = f"ST_SetSRID(ST_MakePoint({middle.x!r}, {middle.y!r}), 4326)"
    meters = MILES * METERS_PER_MILE
    hexed = area.geometry.hexewkb.decode()
    for what, line, by_hand, condition in (
        (
            "a ring", f'within: {MILES} mi of point "{middle.y}, {middle.x}"', CIRCLE.format(point=point, meters=meters, others=others),
            f"(f.place && ST_Expand({point}, 0.05) AND ST_DWithin(f.place::geography, {point}::geography, {meters}))",
        ),
        ("an area", 'in-area: "Bench"', POLYGON.format(area=hexed, others=others), f"ST_Covers('{hexed}'::geometry, f.place)"),
    ):  # fmt: skip
        search = parse(f"{line}\n{THREE}")
        ((found,),) = run(by_hand)
        assert compile(search, scope).matches.count() == found > 0, (what, found)
        print(f"{what} with three other criteria: {found:,} match")
        yield compare(
            f"map: the matches of {what} with three other criteria", 1.5,
            lambda search=search: compile(search, scope).matches.count(), lambda by_hand=by_hand: run(by_hand),
        )  # fmt: skip

        def anew(search: Search = search) -> Balance:
            caches["tallies"].clear()
            return balance(compile(search, scope))

        whole = balance_by_hand(None, (condition, *THREE_BY_HAND))
        yield compare(f"map: the running balance of {what} with three other criteria", 1.5, anew, lambda whole=whole: run(whole))


def rows() -> Iterator[Row]:
    x, y = _downtown()
    yield from _places(x, y, Scope(Team.objects.first(), None, date(2026, 11, 24)))
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
