"""Distances, sizes and what lies within, against PROJ's geodesics and shapely.

Geodesics: Karney, Algorithms for geodesics, Journal of Geodesy 87 (2013), as pyproj has them. PostGIS reckons on the same ellipsoid.
"""

from __future__ import annotations

import json
import random
from decimal import Decimal

from django.contrib.gis.geos import GEOSGeometry, Point
from django.db import connection
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisCase
from pyproj import Geod, Proj, Transformer
from shapely import Point as Spot
from shapely import from_wkb, prepare
from shapely.geometry import MultiPolygon, Polygon, mapping, shape
from shapely.geometry.polygon import orient
from shapely.ops import transform, unary_union
from shapely.validation import make_valid

from jaded_ledger.core.criteria.search import Center, Criterion, DistanceUnit, Members, Quantity, Ring, Search
from jaded_ledger.core.ground import Way
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.results import rows
from jaded_ledger.maps.areas import keep_area, outline_of
from jaded_ledger.maps.on_record import between_barriers
from jaded_ledger.maps.outlines import circle, polygons_of, square_meters
from jaded_ledger.records.models import OF_WAY, AreaEntry, County, MapFeature, ParcelFacts, ParcelShape
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

WGS84 = Geod(ellps="WGS84")
MILLIMETER = 0.001


@thorough
class Places(HypothesisCase, DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.places = {pk: (x, y) for pk, x, y in ParcelFacts.objects.values_list("pk", "longitude", "latitude")}
        xs, ys = zip(*cls.places.values(), strict=True)
        cls.extent = min(xs), min(ys), max(xs), max(ys)

    def matches(self, *criteria: Criterion) -> set[int]:
        return set(compile(Search((), criteria), self.scope).matches.values_list("pk", flat=True))

    def test_every_parcel_has_the_place_that_stands_for_it(self) -> None:
        outlines = {pk: from_wkb(bytes(o.wkb)) for pk, o in ParcelShape.objects.filter(superseded_at=None).values_list("parcel", "outline")}
        self.assertEqual(outlines.keys(), self.places.keys())
        for pk in random.Random(7).sample(sorted(outlines), 500):
            self.assertTrue(outlines[pk].buffer(1e-9).covers(Spot(self.places[pk])))

    def test_rings(self) -> None:
        for number, (low, high, unit) in enumerate(
            (
                (None, "0.25", DistanceUnit.MILES),
                ("0.25", "2", DistanceUnit.MILES),
                ("1", None, DistanceUnit.KILOMETERS),
                ("100", "101", DistanceUnit.KILOMETERS),
            )
        ):
            x, y = random.Random(number).choice(list(self.places.values()))
            around = Ring(*(None if end is None else Decimal(end) for end in (low, high)), unit, Center.POINT, f"{y}, {x}")
            nearest, farthest = around.meters
            away = {pk: WGS84.inv(x, y, *place)[2] for pk, place in self.places.items()}
            # No parcel lies so near an end that a millimeter would matter.
            self.assertFalse([d for d in away.values() for end in around.meters if end is not None and abs(d - end) < MILLIMETER])
            expected = {pk for pk, d in away.items() if (nearest is None or d >= nearest) and (farthest is None or d <= farthest)}
            asked = Criterion("within", (around,))
            self.assertEqual(self.matches(asked), expected)
            self.assertEqual(self.matches(Criterion("within", refuses=(around,))), self.places.keys() - expected)
            # The column tells the distance, to a hundredth of a mile.
            parcels = compile(Search((), (asked,)), self.scope).matches
            for row in rows(parcels, ("within",), "within", 1):
                self.assertAlmostEqual(float(row.cells[0].text.replace(",", "")), away[row.parcel_id] / 1609.344, delta=0.00501)

    def test_the_end_of_a_ring_counts(self) -> None:
        x, y = next(iter(self.places.values()))
        other = max(self.places, key=lambda pk: WGS84.inv(x, y, *self.places[pk])[2])
        with self.subTest("a distance as PostGIS has it to the last digit"):
            meters = ParcelFacts.objects.raw(
                "SELECT parcel_id, ST_DistanceSpheroid(place, ST_SetSRID(ST_MakePoint(%s, %s), 4326),"
                " 'SPHEROID[\"WGS 84\",6378137,298.257223563]') AS away FROM records_parcelfacts WHERE parcel_id = %s",
                [x, y, other],
            )[0].away
            self.assertAlmostEqual(meters, WGS84.inv(x, y, *self.places[other])[2], delta=MILLIMETER)
            near, far = (
                Ring(None, Decimal(repr(end)), DistanceUnit.METERS, Center.POINT, f"{y}, {x}") for end in (meters - 0.002, meters + 0.002)
            )
            self.assertNotIn(other, self.matches(Criterion("within", (near,))))
            self.assertIn(other, self.matches(Criterion("within", (far,))))

    def test_circles(self) -> None:
        for x, y, meters in ((-87.3, 44.9, 804.672), (-87.3, 44.9, 5_000), (150.0, -33.0, 100_000)):
            (outline,) = circle(Point(x, y, srid=4326), meters)
            for corner in outline[0].coords:
                self.assertAlmostEqual(WGS84.inv(x, y, *corner)[2], meters, delta=meters * 1e-6)
            self.assertEqual(len(set(outline[0].coords)), 256)

    def test_sizes(self) -> None:
        for entry in AreaEntry.objects.filter(superseded_at=None, geometry__isnull=False)[:40]:
            # The sign of PROJ's areas tells which way a ring runs.
            parts = [orient(part) for part in from_wkb(bytes(entry.geometry.wkb)).geoms]
            area = sum(WGS84.geometry_area_perimeter(part)[0] for part in parts)
            self.assertAlmostEqual(square_meters(entry.geometry) / area, 1, delta=1e-6)

    def outline(self, draw: st.DrawFn) -> Polygon:
        """Draw a polygon somewhere among the parcels: any corners in any order, sometimes with a hole."""
        west, south, east, north = self.extent
        numbers = st.floats(0, 1, allow_nan=False)
        corners = draw(st.lists(st.tuples(numbers, numbers), min_size=3, max_size=9, unique=True))
        spots = [(west + x * (east - west), south + y * (north - south)) for x, y in corners]
        found = Polygon(spots)
        if draw(st.booleans()) and found.is_valid and found.area > 1e-6:
            hole = found.representative_point().buffer(found.boundary.distance(found.representative_point()) / 2, 3)
            return Polygon(spots, [list(hole.exterior.coords)])
        return found

    def by_postgis(self, drawn: Polygon | MultiPolygon) -> Polygon | MultiPolygon:
        with connection.cursor() as cursor:
            cursor.execute("SELECT ST_AsBinary(ST_MakeValid(ST_GeomFromWKB(%s), 'method=structure keepcollapsed=false'))", [drawn.wkb])
            return from_wkb(bytes(cursor.fetchone()[0]))

    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.data())
    def test_what_lies_in_any_outline(self, data) -> None:
        parts = [self.outline(data.draw) for _ in range(data.draw(st.integers(1, 3)))]
        drawn = parts[0] if len(parts) == 1 else MultiPolygon(parts)
        kept = outline_of(polygons_of(json.dumps(mapping(drawn)))) if drawn.area > 1e-7 and make_valid(drawn).area > 1e-7 else None
        if kept is None:
            return
        # A drawing that crosses itself is mended: what its rings enclose, as PostGIS's structure method has it.
        self.assertEqual(bool(kept.note), not drawn.is_valid)
        expected_shape = drawn if drawn.is_valid else self.by_postgis(drawn)
        self.assertLess(shape(json.loads(kept.geometry.json)).symmetric_difference(expected_shape).area, 1e-9)
        area = keep_area(self.scope, f"Drawn {data.draw(st.integers(0, 10**9))}", kept)
        prepare(expected_shape)
        expected = {pk for pk, place in self.places.items() if expected_shape.covers(Spot(place))}
        members = Members(Quantity.ANY, (area.name,))
        self.assertEqual(self.matches(Criterion("in-area", (members,))), expected)
        self.assertEqual(self.matches(Criterion("in-area", refuses=(members,))), self.places.keys() - expected)

    def test_across_the_county_line(self) -> None:
        """The ground about two counties' nearest parcels holds some of both."""
        one, other = County.objects.order_by("name")[:2]
        ours, theirs = (list(ParcelFacts.objects.filter(county=county).values_list("longitude", "latitude")) for county in (one, other))
        spot = theirs[0]
        nearest = min(ours, key=lambda place: WGS84.inv(*place, *spot)[2])
        box = Polygon([nearest, (nearest[0], spot[1]), spot, (spot[0], nearest[1])]).buffer(0.02)
        keep_area(self.scope, "Both", outline_of(polygons_of(json.dumps(mapping(box)))))
        found = self.matches(Criterion("in-area", (Members(Quantity.ANY, ("Both",)),)))
        self.assertEqual(found, {pk for pk, place in self.places.items() if box.covers(Spot(place))})
        counties = set(ParcelFacts.objects.filter(pk__in=found).values_list("county", flat=True))
        self.assertLessEqual({one.pk, other.pk}, counties)

    def test_what_is_unknown_lies_nowhere(self) -> None:
        lost = next(iter(self.places))
        ParcelFacts.objects.filter(pk=lost).update(longitude=None, latitude=None)
        around = Criterion("within", (Ring(None, Decimal(600), DistanceUnit.KILOMETERS, Center.POINT, "44, -87"),))
        inside = Criterion("in-area", (Members(Quantity.ANY, ("Oakum corner",)),))
        for asked in (around, inside):
            refused = Criterion(asked.trait, refuses=asked.accepts)
            self.assertNotIn(lost, self.matches(asked) | self.matches(refused))
            self.assertEqual(self.matches(asked) | self.matches(refused), self.places.keys() - {lost})
            self.assertEqual(self.matches(Criterion(asked.trait, unknown=True)), {lost})

    def test_distances_from_ways(self) -> None:
        """In a plane about each parcel (azimuthal equidistant), where a short line is as long as on the ground."""
        features = {way: [(f.county_id, f.geometry) for f in MapFeature.objects.filter(is_one)] for way, is_one in OF_WAY.items()}
        rows_ = ParcelFacts.objects.order_by("pk").values_list("pk", "county", *(f"{way}_distance" for way in Way))
        outlines = dict(ParcelShape.objects.filter(superseded_at=None).values_list("parcel", "outline"))
        told = 0
        for pk, county, *feet in random.Random(3).sample(list(rows_), 60):
            x, y = self.places[pk]
            plane = Transformer.from_proj(Proj("epsg:4326"), Proj(proj="aeqd", lat_0=y, lon_0=x, ellps="WGS84"), always_xy=True).transform
            outline = transform(plane, from_wkb(bytes(outlines[pk].wkb)))
            for way, known in zip(Way, feet, strict=True):
                there = [transform(plane, from_wkb(bytes(geometry.wkb))) for of, geometry in features[way] if of == county]
                if not there:
                    self.assertIsNone(known)
                    continue
                meters = min(outline.distance(one) for one in there)
                self.assertAlmostEqual(known, meters / 0.3048, delta=1 + meters / 0.3048 * 0.001)
                told += 1
        self.assertGreater(told, 150)

    def test_between_barriers(self) -> None:
        """No barrier runs through the ground that is proposed, and it is the part that holds the point."""
        barriers = [from_wkb(bytes(f.geometry.wkb)) for f in MapFeature.objects.filter(superseded_at=None, is_barrier=True)]
        for pk in random.Random(5).sample(sorted(self.places), 12):
            spot = Spot(self.places[pk])
            ground = between_barriers(Point(spot.x, spot.y, srid=4326), 1_500)
            if ground is None:
                self.assertTrue(any(barrier.covers(spot) for barrier in barriers if barrier.area))
                continue
            found = from_wkb(bytes(ground.wkb))
            around = from_wkb(bytes(circle(Point(spot.x, spot.y, srid=4326), 1_500).wkb))
            self.assertTrue(found.buffer(1e-9).covers(spot))
            self.assertTrue(around.buffer(1e-6).covers(found))
            for barrier in barriers:
                inside = barrier.intersection(found.buffer(-1e-7))
                self.assertLess(inside.length, 1e-6)
            # What is left of the circle without the barriers has no larger part about the point.
            cut = around.difference(unary_union([barrier.buffer(1e-8) for barrier in barriers]))
            part = next(one for one in getattr(cut, "geoms", [cut]) if one.buffer(1e-7).covers(spot))
            self.assertLess(part.symmetric_difference(found).area, 1e-7)

    def test_a_geometry_is_read_as_it_was_written(self) -> None:
        west, south, east, north = self.extent
        text = json.dumps({"type": "Polygon", "coordinates": [[[west, south], [east, south], [east, north]]]})
        self.assertIsInstance(polygons_of(text), GEOSGeometry)
