"""The map: tiles read back with a general-purpose decoder, matches in view against shapely, files, and what is refused."""

from __future__ import annotations

import re
from collections import Counter
from math import floor
from typing import Any
from unittest import mock

import mapbox_vector_tile
from django.contrib.gis.geos import Point
from django.urls import reverse
from shapely import box as rectangle
from shapely.geometry import shape

from jaded_ledger.maps import in_view, tiles
from jaded_ledger.maps.labels import ROOM
from jaded_ledger.maps.most_matches import most_matches
from jaded_ledger.records.models import AreaEntry, ParcelFacts, ParcelShape
from jaded_ledger.records.versions import facts_version
from tests.support.maps import SEARCH, WORLD, MapCase, tile_at


def ground(zoom: int, column: int, row: int) -> tuple[float, float, float, float]:
    side = 2 * WORLD / 2**zoom
    return column * side - WORLD, WORLD - (row + 1) * side, (column + 1) * side - WORLD, WORLD - row * side


class Tiles(MapCase):
    def read(self, zoom: int, column: int, row: int) -> dict[str, Any]:
        """Return a tile's layers with their coordinates in web mercator."""
        west, south, east, _ = ground(zoom, column, row)
        scale = (east - west) / 4096
        options = {"y_coord_down": False, "transformer": lambda x, y: (west + x * scale, south + y * scale)}
        return mapbox_vector_tile.decode(tiles.tile(zoom, column, row), default_options=options)

    def test_a_tile_holds_the_parcels_that_reach_into_it_and_no_others(self) -> None:
        for zoom in (15, 14, 12):
            at = tile_at(self.downtown.x, self.downtown.y, zoom)
            found = {feature["id"]: feature["geometry"] for feature in self.read(*at)["parcels"]["features"]}
            sides = ground(*at)
            inside = rectangle(*sides)
            about = inside.buffer((sides[2] - sides[0]) * 64 / 4096 + 1, join_style="mitre")
            reaching = {pk for pk, outline in self.outlines.items() if outline.intersects(inside)}
            self.assertTrue(reaching)
            # One that only touches the tile's side may be left to the tile beyond, and so may what is smaller than a step of its grid.
            step = (sides[2] - sides[0]) / 4096
            whole = {pk for pk in reaching if self.outlines[pk].intersection(inside).area > step * step * 4}
            self.assertLessEqual(whole, set(found), zoom)
            self.assertLessEqual(set(found), {pk for pk, outline in self.outlines.items() if outline.intersects(about)}, zoom)

    def test_an_outline_comes_back_as_it_was_drawn(self) -> None:
        at = tile_at(self.downtown.x, self.downtown.y, tiles.CLOSEST)
        sides = ground(*at)
        step, inside = (sides[2] - sides[0]) / 4096, rectangle(*sides)
        compared = 0
        for feature in self.read(*at)["parcels"]["features"]:
            wanted = self.outlines[feature["id"]]
            if wanted.within(inside):
                # The tile's grid is a foot and a half wide.
                self.assertLess(shape(feature["geometry"]).hausdorff_distance(wanted), 1.5 * step)
                compared += 1
        self.assertGreater(compared, 50)

    def test_what_lies_around_and_parcels_without_an_outline(self) -> None:
        at = tile_at(self.downtown.x, self.downtown.y, 12)
        layers = self.read(*at)
        kinds = {feature["properties"]["layer"] for feature in layers["features"]["features"]}
        self.assertLessEqual({"road", "highway", "rail", "water", "park", "flood-zone"}, kinds)
        self.assertIn("Harbour Wards", {feature["properties"]["name"] for feature in layers["areas"]["features"]})
        self.assertNotIn("points", layers)
        shape_row = ParcelShape.objects.get(parcel=self.lot, superseded_at=None)
        lone = shape_row.parcel
        lone.point = Point(shape_row.outline.centroid.coords, srid=4326)
        lone.save()
        # With an outline the point is of no use.
        self.assertNotIn("points", self.read(*at))
        ParcelShape.objects.filter(parcel=lone).delete()
        self.assertEqual([feature["id"] for feature in self.read(*at)["points"]["features"]], [lone.pk])
        self.assertNotIn(lone.pk, {feature["id"] for feature in self.read(*at)["parcels"]["features"]})
        # Far out there are neither parcels nor streets.
        far = self.read(*tile_at(self.downtown.x, self.downtown.y, tiles.PARCELS_FROM - 1))
        self.assertEqual(set(far), {"features", "areas"})
        self.assertNotIn("road", {feature["properties"]["layer"] for feature in far["features"]["features"]})
        self.assertEqual(tiles.tile(tiles.CLOSEST, 0, 0), b"")

    def test_as_it_is_sent(self) -> None:
        at = tile_at(self.downtown.x, self.downtown.y, 14)
        self.assertEqual(self.client.get(reverse("maps:tile", args=(1, *at))).status_code, 302)
        kept = self.get("tile", facts_version(), *at)
        self.assertEqual((kept.status_code, kept["Content-Type"]), (200, "application/vnd.mapbox-vector-tile"))
        self.assertIn("immutable", kept["Cache-Control"])
        self.assertEqual(self.get("tile", facts_version() + 1, *at)["Cache-Control"], "no-store")
        for zoom, column, row in ((tiles.CLOSEST + 1, 0, 0), (3, 8, 0), (3, 0, 8)):
            self.assertEqual(self.get("tile", 1, zoom, column, row).status_code, 404)


class InView(MapCase):
    def view(self, half: float, zoom: float) -> in_view.View:
        x, y = self.downtown.x, self.downtown.y
        return in_view.View(x - half, y - half, x + half, y + half, zoom)

    def boxes(self, ids: set[int], view: in_view.View) -> set[int]:
        """Return the parcels of which the box about the outline reaches into the view."""
        here = rectangle(view.west, view.south, view.east, view.north)
        return {pk for pk in ids if pk in self.outlines and rectangle(*self.outlines[pk].bounds).intersects(here)}

    def test_the_matches_in_a_part_of_the_map(self) -> None:
        answer = self.answer()
        every = set(answer.matches.values_list("pk", flat=True))
        for half in (150, 600, 5_000):
            view = self.view(half, 16)
            found = in_view.matches_in(view, answer.matches)["ids"]
            self.assertEqual(len(found), len(set(found)))
            # PostGIS keeps the boxes of outlines in single precision: here that is within two meters.
            doubtful = self.boxes(every, self.view(half + 3, 16)) - self.boxes(every, self.view(half - 3, 16))
            self.assertLessEqual(set(found) ^ self.boxes(every, view), doubtful)
            self.assertTrue(found)

    def test_what_is_seen_is_counted_apart_from_what_is_asked_about(self) -> None:
        answer = self.answer()
        every = set(answer.matches.values_list("pk", flat=True))
        found = in_view.matches_in(self.view(600, 16), answer.matches, self.view(150, 16))
        self.assertLess(found["here"], len(found["ids"]))
        self.assertLessEqual(len(self.boxes(every, self.view(147, 16))), found["here"])
        self.assertLessEqual(found["here"], len(self.boxes(every, self.view(153, 16))))

    def test_counted_on_a_grid_where_it_is_far(self) -> None:
        answer = self.answer()
        view = self.view(40_000, in_view.PARCELS_FROM + 0.9)
        found = in_view.matches_in(view, answer.matches)
        self.assertEqual(sum(count for _, _, count in found["cells"]), answer.balance.matches)
        wanted: dict[tuple[int, int], int] = {}
        for pk in answer.matches.values_list("pk", flat=True):
            west, south, east, north = self.outlines[pk].bounds
            cell = floor((west + east) / 2 / found["cell"]), floor((south + north) / 2 / found["cell"])
            wanted[cell] = wanted.get(cell, 0) + 1
        self.assertEqual({(x, y): count for x, y, count in found["cells"]}, wanted)
        # At the zoom itself they are drawn.
        self.assertIn("ids", in_view.matches_in(self.view(40_000, in_view.PARCELS_FROM + 1), answer.matches))

    def test_too_many_to_draw(self) -> None:
        answer = self.answer("county: Tamarack")
        view = self.view(40_000, 16)
        every = len(in_view.matches_in(view, answer.matches)["ids"])
        with mock.patch.object(in_view, "MOST_DRAWN", every):
            self.assertEqual(len(in_view.matches_in(view, answer.matches)["ids"]), every)
        with mock.patch.object(in_view, "MOST_DRAWN", every - 1):
            self.assertEqual(sum(count for _, _, count in in_view.matches_in(view, answer.matches)["cells"]), every)

    def test_where_all_of_them_lie(self) -> None:
        answer = self.answer()
        west, south, east, north = in_view.extent_of(answer) or (0, 0, 0, 0)
        outlines = ParcelShape.objects.filter(superseded_at=None, parcel__in=answer.matches.values("pk")).values_list("outline", flat=True)
        bounds = [outline.extent for outline in outlines]
        self.assertEqual(
            (west, south, east, north), (*(min(b[i] for b in bounds) for i in (0, 1)), *(max(b[i] for b in bounds) for i in (2, 3)))
        )
        self.assertIsNone(in_view.about_outlines(self.answer("beds: 1..2\nbeds: 3..").matches))
        # Of very many, where their counties lie; and where no border is on record, where anything lies.
        county = AreaEntry.objects.get(superseded_at=None, kind="county", county__name="Tamarack")
        matches = answer.balance.matches
        with mock.patch.object(in_view, "MOST_DRAWN", matches):
            self.assertEqual(in_view.extent_of(answer), (west, south, east, north))
        with mock.patch.object(in_view, "MOST_DRAWN", matches - 1):
            self.assertEqual(in_view.extent_of(answer), county.geometry.extent)
            AreaEntry.objects.filter(kind="county").delete()
            box = rectangle(*(in_view.extent_of(answer) or (0, 0, 0, 0)))
        self.assertTrue(box.buffer(0.01).contains(rectangle(west, south, east, north)))

    def test_asked_and_refused(self) -> None:
        x, y = self.downtown.x, self.downtown.y
        box = f"{x - 300},{y - 300},{x + 300},{y + 300}"
        found = self.get("in-view", q=SEARCH, box=box, zoom=17, extent=1).json()
        self.assertEqual(set(found), {"ids", "here", "extent"})
        # Where nothing matches, the county is shown.
        none = self.get("in-view", q="county: Tamarack\nbeds: 1..2\nbeds: 3..", box=box, zoom=17, extent=1).json()
        county = AreaEntry.objects.get(superseded_at=None, kind="county", county__name="Tamarack").geometry
        self.assertEqual(none, {"ids": [], "here": 0, "extent": list(county.extent)})
        for wrong in ("", "1,2,3", "a,b,c,d", f"{x},{y},{x},{y + 1}", "nan,0,1,1", "0,0,1e9,1"):
            answer = self.get("in-view", q=SEARCH, box=wrong, zoom=17)
            self.assertEqual((answer.status_code, answer["Content-Type"]), (400, "text/plain; charset=utf-8"), wrong)
        self.assertEqual(self.get("in-view", q=SEARCH, box=box, zoom="inf").status_code, 400)
        self.assertContains(self.get("in-view", q="beds: lots", box=box, zoom=17), "lots", status_code=400)
        self.assertContains(self.get("labels", label="shoes", box=box, zoom=17), "the label is one of", status_code=400)

    def test_what_is_written_on_parcels(self) -> None:
        x, y = self.downtown.x, self.downtown.y
        box = f"{x - 100},{y - 100},{x + 100},{y + 100}"
        owners = self.get("labels", label="owner", box=box, zoom=18).json()["labels"]
        self.assertTrue(owners)
        for pk, text in owners.items():
            self.assertEqual(text.casefold(), ParcelFacts.objects.get(pk=pk).owner_name.text.casefold())
        numbers = self.get("labels", label="address", box=box, zoom=18).json()["labels"]
        for pk, text in numbers.items():
            self.assertEqual(text, ParcelFacts.objects.get(pk=pk).street_line.split()[0])

    def test_words_are_written_where_a_lot_has_room_for_them(self) -> None:
        """At every scale: ten acres have room at 500 ft to the scale's bar, city lots not, and where none has, nothing is written."""
        farm = ParcelFacts.objects.filter(lot_acres=10, place__isnull=False, owner_name__isnull=False).order_by("pk").first()
        at = farm.place.transform(3857, clone=True)
        box = f"{at.x - 900},{at.y - 900},{at.x + 900},{at.y + 900}"
        for zoom, has_farm in ((16, True), (15, False), (10, False)):
            with self.subTest(zoom=zoom):
                labels = self.get("labels", label="owner", box=box, zoom=zoom).json()["labels"]
                self.assertIs(str(farm.pk) in labels, has_farm)
                pixel = 2 * 20_037_508.342789244 / 256 / 2**zoom
                for lot in ParcelShape.objects.filter(superseded_at=None, parcel__in=labels):
                    west, south, east, north = lot.drawn.extent
                    self.assertGreaterEqual((east - west) / pixel, ROOM[0])
                    self.assertGreaterEqual((north - south) / pixel, ROOM[1])
        x, y = self.downtown.x, self.downtown.y
        self.assertEqual(self.get("labels", label="owner", box=f"{x - 100},{y - 100},{x + 100},{y + 100}", zoom=13).json(), {"labels": {}})

    def test_the_map_opens_where_the_matches_are(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get("/", {"q": SEARCH, "face": "map"})
        (extent,) = re.findall(r'data-extent="([^"]*)"', page.content.decode())
        self.assertEqual(tuple(float(side) for side in extent.split(",")), in_view.extent_of(self.answer()))


class Beside(MapCase):
    def test_where_most_matches_are(self) -> None:
        answer = self.answer()
        holdings = most_matches(answer.matches, "neighborhood")
        counted = Counter(answer.matches.exclude(neighborhood=None).values_list("neighborhood__text", flat=True))
        self.assertEqual({one.name: one.count for one in holdings}, dict(counted.most_common(12)))
        self.assertEqual([one.count for one in holdings], sorted((one.count for one in holdings), reverse=True))
        inside = answer.matches.filter(neighborhood__text=holdings[0].name)
        self.assertEqual(holdings[0].box, in_view.about_outlines(inside))
        page = self.get("most", q=SEARCH, by="no such")
        self.assertContains(page, holdings[0].name)
        self.assertContains(self.get("most", q="beds: 1..2\nbeds: 3.."), "No match lies in one")
        self.assertContains(self.get("most", q="beds: lots"), "lots")

    def test_a_card(self) -> None:
        facts = self.answer().matches.order_by("pk")[0]
        page = self.get("card", facts.pk)
        self.assertContains(page, facts.street_line)
        self.assertContains(page, facts.parcel.number)
        self.assertContains(page, reverse("properties:property", args=[facts.pk]))
        self.assertEqual(self.get("card", 10**12).status_code, 404)
