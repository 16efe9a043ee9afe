"""A team's areas: drawn, named, used by searches, brought and taken along; what lies around a sale and around a property."""

from __future__ import annotations

import io
import json
import random
import tempfile
import time
import zipfile
from pathlib import Path
from typing import Any
from unittest import mock
from unittest.mock import patch
from urllib.parse import urlencode

import shapefile
from django.contrib.gis.geos import Point
from django.core.exceptions import PermissionDenied
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.urls import reverse
from pyproj import Geod
from shapely import Point as Spot
from shapely import box as rectangle
from shapely.geometry import mapping, shape

from jaded_ledger.accounts.deletion import DeletionError, delete, undelete, undo_address
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.named_things import search_from, stored_text
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists import services as lists
from jaded_ledger.maps import area_files, around_sale, closed_sales, marks, small_map
from jaded_ledger.maps.areas import (
    areas_of,
    free_name,
    keep_area,
    outline_of,
    outline_of_circle,
    rename_area,
    reshape_area,
)
from jaded_ledger.maps.asked_shapes import asked_shapes
from jaded_ledger.maps.in_view import View
from jaded_ledger.maps.marks import MARK_KINDS, marks_in, parcels_of_same_owner, price_words, short_money
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.maps.models import DrawnArea, SaleOfArea
from jaded_ledger.maps.nearby import KINDS, nearby
from jaded_ledger.maps.on_record import areas_at
from jaded_ledger.maps.outlines import LEAST_METERS, LONGEST_RADIUS, MOST_CORNERS, circle, polygons_of
from jaded_ledger.records.models import Listing, Parcel, ParcelFacts, ParcelShape, RollEntry
from tests.support.maps import MapCase

BOW_TIE = {"type": "Polygon", "coordinates": [[[0, 0], [1, 1], [1, 0], [0, 1], [0, 0]]]}


def geojson(west: float, south: float, east: float, north: float) -> str:
    return json.dumps(mapping(rectangle(west, south, east, north)))


class AreaCase(MapCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.scope = Scope(cls.scope.team, cls.user, cls.scope.today)
        cls.here = ParcelFacts.objects.get(pk=cls.lot)
        cls.x, cls.y = cls.here.longitude, cls.here.latitude
        cls.other_team = Team.objects.create(name="Others")
        cls.stranger = Scope(cls.other_team, User.objects.create_user("rival", password="x", team=cls.other_team), cls.scope.today)

    def around(self, half: float = 0.002) -> str:
        return geojson(self.x - half, self.y - half, self.x + half, self.y + half)

    def keep(self, name: str = "Quay", half: float = 0.002) -> DrawnArea:
        return keep_area(self.scope, name, outline_of(polygons_of(self.around(half))))

    def ids(self, text: str, scope: Scope | None = None) -> set[int]:
        return set(Answer(SearchPage(parse(text)), scope or self.scope).matches.values_list("pk", flat=True))

    def post(self, page: str, /, *args: int, **sent: Any) -> Any:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        return self.client.post(reverse(f"maps:{page}", args=args), sent)


class Kept(AreaCase):
    def test_names(self) -> None:
        self.keep("  The   Quay ")
        self.assertTrue(areas_of(self.scope.team).filter(name="The Quay").exists())
        for name, why in (("", "no name"), ("the quay", "already"), ("@1", "can't begin"), ("x" * 81, "at most 80")):
            with self.subTest(name), self.assertRaisesMessage(AreaError, why):
                self.keep(name)
        self.assertEqual(self.keep("x" * 80).name, "x" * 80)
        self.assertEqual([free_name(self.scope.team, name) for name in ("The quay", "Hill")], ["The quay 2", "Hill"])
        # Another team's names are no matter.
        keep_area(self.stranger, "The Quay", outline_of(polygons_of(self.around())))

    def test_renamed_in_a_search_that_was_kept(self) -> None:
        area = self.keep()
        search = parse('in-area: "quay"\nwithin: 1..2 mi of area "Quay"\nin-area: not "Oakum corner"')
        text = stored_text(search, self.scope.team)
        self.assertNotIn("uay", text)
        rename_area(self.scope, area, "Harbor front")
        found = search_from(text, self.scope.team)
        self.assertIn('"Harbor front"', stored_text(search_from(text, self.scope.team), self.other_team))
        with self.assertRaisesMessage(CriteriaError, "none of your team's areas"):
            self.ids('in-area: "Quay"')
        delete(self.scope, area)
        with self.assertRaises(AreaError):
            rename_area(self.scope, area, "x")
        with self.assertRaisesMessage(CriteriaError, "Harbor front"):
            self.ids(stored_text(found, self.other_team))
        undelete(self.scope, area)
        self.assertEqual(search_from(text, self.scope.team), found)

    def test_put_back_where_the_name_is_taken(self) -> None:
        area = self.keep()
        delete(self.scope, area)
        self.keep("quay")
        with self.assertRaisesMessage(DeletionError, "already"):
            undelete(self.scope, area)

    def test_another_outline(self) -> None:
        area = self.keep(half=0.002)
        before, version = self.ids('in-area: "Quay"'), self.scope.team.version
        reshape_area(self.scope, area, outline_of(polygons_of(self.around(0.004))))
        self.assertGreater(len(self.ids('in-area: "Quay"')), len(before))
        self.assertGreater(self.scope.team.version, version)
        reshape_area(self.scope, area, outline_of_circle(self.x, self.y, 200))
        area.refresh_from_db()
        self.assertEqual((area.center.coords, area.radius), ((self.x, self.y), 200))
        # A ring about a circle is about its center.
        self.assertEqual(self.ids("within: 0.5 mi of area Quay"), self.ids(f'within: 0.5 mi of point "{self.y}, {self.x}"'))

    def test_a_reader_changes_none(self) -> None:
        area = self.keep()
        self.user.role = User.Role.READER
        self.user.save()
        reader = Scope(self.scope.team, self.user, self.scope.today)
        for change in (
            lambda: keep_area(reader, "x", outline_of_circle(0, 0, 5)), lambda: rename_area(reader, area, "x"),
            lambda: delete(reader, area), lambda: undelete(reader, area),
            lambda: reshape_area(reader, area, outline_of_circle(0, 0, 5)),
        ):  # fmt: skip
            with self.assertRaises(PermissionDenied):
                change()
        self.assertEqual(self.post("keep-area", name="x", geometry=self.around()).status_code, 403)
        self.assertEqual(self.post("area-act", area.pk, do="delete").status_code, 403)

    def test_outlines_that_can_be_none(self) -> None:
        for text, why in (
            ("", "can't be read"), ("{}", "is a polygon"), ('{"type": "MultiPolygon", "coordinates": []}', "encloses nothing"),
             ('{"type": "Point", "coordinates": [0, 0]}', "is a polygon"),
            ('{"type": "Polygon", "coordinates": [[[0, 0], [1, 1]]]}', "can't be read"), ('{"type": "Polygon"}', "can't be read"),
            ('{"type": "Polygon", "coordinates": [[["a", 0], [1, 1], [1, 0]]]}', "can't be read"), ("[" * 5000, "can't be read"),
            ('{"type": "Polygon", "coordinates": [[[0, 0], [1, 1], [2, 2]]]}', "encloses nothing"),
            (geojson(170, 10, 190, 20), "off the map"),
            (geojson(1e5, 1e5, 2e5, 2e5), "off the map"), ('{"type": "Polygon", "coordinates": [[[0, 0], [1, NaN], [1, 0]]]}', ""),
        ):  # fmt: skip
            with self.subTest(text[:60]), self.assertRaisesMessage(AreaError, why):
                outline_of(polygons_of(text))
        corners = [[x / MOST_CORNERS, (x % 2) * 1e-5] for x in range(MOST_CORNERS - 2)] + [[0.5, 1]]
        self.assertTrue(outline_of(polygons_of(json.dumps({"type": "Polygon", "coordinates": [corners]}))))
        with self.assertRaisesMessage(AreaError, "corners"):
            outline_of(polygons_of(json.dumps({"type": "Polygon", "coordinates": [[*corners, [0.4, 1]]]})))

    def test_what_crosses_itself_is_mended(self) -> None:
        kept = outline_of(polygons_of(json.dumps(BOW_TIE)))
        self.assertEqual((len(kept.geometry), kept.geometry.valid), (2, True))
        self.assertIn("has 2 parts", kept.note)
        self.assertEqual(outline_of(polygons_of(self.around())).note, "")

    def test_one_that_crosses_itself_too_often_is_refused_before_it_stops_the_server(self) -> None:
        """300 random corners took GEOS a minute by its usual method; nothing can interrupt it but the end of its process."""
        draw = random.Random(1)

        def tangle(count: int) -> str:
            ring = [[-88 + draw.random(), 43 + draw.random()] for _ in range(count)]
            return json.dumps({"type": "Polygon", "coordinates": [ring]})

        # Other tests beside may take the machine for a while.
        for count in (36, 300):
            with patch("jaded_ledger.maps.outlines._SECONDS", 60):
                self.assertTrue(outline_of(polygons_of(tangle(count))).geometry.valid)
        began = time.monotonic()
        with patch("jaded_ledger.maps.outlines._SECONDS", 1), self.assertRaisesMessage(AreaError, "crosses itself too often"):
            outline_of(polygons_of(tangle(MOST_CORNERS - 1)))
        self.assertLess(time.monotonic() - began, 20)

    def test_what_reaches_around_the_world_gets_a_sentence(self) -> None:
        for west, south, east, north in ((-180, -90, 180, 90), (-10, 80, 10, 89), (-100, 10, -39, 20), (0, -40, 10, 21)):
            ring = [[west, south], [east, south], [east, north], [west, north], [west, south]]
            with self.assertRaisesMessage(AreaError, "draw a smaller one"):
                outline_of(polygons_of(json.dumps({"type": "Polygon", "coordinates": [ring]})))
        ring = [[-100, 10], [-40, 10], [-40, 50], [-100, 50], [-100, 10]]
        self.assertTrue(outline_of(polygons_of(json.dumps({"type": "Polygon", "coordinates": [ring]}))))

    def test_how_large_a_circle_may_be(self) -> None:
        for meters in (LEAST_METERS, LONGEST_RADIUS):
            self.assertTrue(circle(Point(0, 0, srid=4326), meters).valid)
        for meters in (LEAST_METERS * 0.999, LONGEST_RADIUS * 1.001, float("nan")):
            with self.assertRaises(AreaError):
                circle(Point(0, 0, srid=4326), meters)


class Centers(AreaCase):
    def test_each_kind_of_center(self) -> None:
        number = f"tamarack/{self.here.parcel.number}"
        listing = Listing.objects.filter(parcel__county__name="Tamarack", superseded_at=None, parcel__facts__isnull=False).first()
        listed = listing.parcel.facts
        by_point = self.ids(f'within: 0.2 mi of point "{self.y}, {self.x}"')
        self.assertTrue(by_point)
        for written in (f"parcel {number}", self.here.parcel.number, f'"{self.here.street_line}, Alder Bay"', f"{self.here.street_line}"):
            with self.subTest(written):
                self.assertEqual(self.ids(f"within: 0.2 mi of {written}"), by_point)
        near = self.ids(f'within: 0.2 mi of point "{listed.latitude}, {listed.longitude}"')
        for written in (listing.listing_id, listing.listing_id.lower()):
            self.assertEqual(self.ids(f"within: 0.2 mi of listing {written}"), near)
        # A ZIP Code's middle is its outline's, or its parcels' where none is on record; an area on record has one, too.
        self.assertTrue(self.ids("within: 5 mi of zip 53301"))
        self.assertTrue(self.ids('within: 2 mi of area "harbour wards"'))

    def test_a_distance_is_explained_in_its_search(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        address = reverse("properties:explained", args=[self.lot, "within"])
        ring = f'within: 2 mi of point "{self.y + 0.01:.6f}, {self.x:.6f}"'
        page = self.client.get(address, headers={"HX-Request": "true", "HX-Current-URL": f"http://localhost/?{urlencode({'q': ring})}"})
        meters = Geod(ellps="WGS84").inv(self.x, self.y, self.x, self.y + 0.01)[2]
        self.assertContains(page, f"{round(meters / 1609.344, 2)}")
        self.assertContains(page, "the center of the search")
        for of in ("http://localhost/?q=beds:+3..", "http://localhost/?q=beds:+lots", "http://[", ""):
            page = self.client.get(address, headers={"HX-Request": "true", "HX-Current-URL": of})
            self.assertContains(page, "of a search that asks for it")

    def test_what_there_is_to_choose_from(self) -> None:
        """Every area stands in the editor, with how many parcels under the other lines lie in it."""
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        keep_area(self.scope, "Nowhere", outline_of_circle(0, 0, 100))
        asked = {"q": "county: Tamarack\nbeds: 3..", "trait": "in-area"}
        page = self.client.get(reverse("find:edit"), asked, headers={"HX-Request": "true"})
        for area in areas_of(self.scope.team):
            self.assertContains(page, area.name)
            count = len(self.ids(f'county: Tamarack\nbeds: 3..\nin-area: "{area.name}"'))
            self.assertContains(page, f'<span class="mut">{count:,}</span>', html=True)

    def test_what_is_not_there(self) -> None:
        for line, why in (
            ("within: 1 mi of parcel 99-999-999", "no parcel on record"), ("within: 1 mi of listing nope", "no listing on record"),
            ("within: 1 mi of zip 00000", "neither with an outline nor with parcels"), ('within: 1 mi of area "Nowhere"', "areas"),
            ('within: 1 mi of "1 Nowhere Rd"', "no property on record"), ('within: 1 mi of "?!"', "can be read"),
            (f'within: 1 mi of "{self.here.street_line}, Elsewhere"', "in Elsewhere"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesMessage(CriteriaError, why):
                self.ids(line)
        ParcelFacts.objects.filter(pk=self.lot).update(longitude=None)
        with self.assertRaisesMessage(CriteriaError, "no place on the map"):
            self.ids(f"within: 1 mi of parcel tamarack/{self.here.parcel.number}")

    def test_an_address_in_two_places(self) -> None:
        far = ParcelFacts.objects.filter(county__name="Pike Hollow").order_by("pk").last()
        entry = RollEntry.objects.get(parcel=self.lot, superseded_at=None)
        RollEntry.objects.filter(parcel=far.pk, superseded_at=None).update(situs=entry.situs)
        with self.assertRaisesMessage(CriteriaError, "several places"):
            self.ids(f'within: 1 mi of "{self.here.street_line}"')
        self.assertTrue(self.ids(f'within: 1 mi of "{self.here.street_line}, Alder Bay"'))


class OnTheMap(AreaCase):
    def test_drawn_and_kept(self) -> None:
        said = self.post("drawn", q="county: Tamarack\nowner-occupied: no", geometry=self.around()).json()
        outline = shape(json.loads(self.around()))
        places = ParcelFacts.objects.values_list("pk", "longitude", "latitude")
        inside = ParcelFacts.objects.filter(pk__in=[pk for pk, x, y in places if outline.covers(Spot(x, y))])
        self.assertEqual((said["parcels"], said["matches"]), (inside.count(), inside.filter(owner_occupied=False).count()))
        self.assertEqual((said["name"], said["note"]), ("Area 1", ""))
        self.assertIn("acres", said["size"])
        kept = self.post("keep-area", name='O\'Brien "quay"', geometry=self.around()).json()
        self.assertEqual(kept["name"], 'O\'Brien "quay"')
        page = self.post("keep-area", name='o\'brien "QUAY"', geometry=self.around())
        self.assertEqual(page.status_code, 400)
        self.assertIn("There is an area", page.json()["error"])
        again = self.post("keep-area", area=kept["id"], longitude=self.x, latitude=self.y, radius=300).json()
        self.assertEqual(again["id"], kept["id"])
        self.assertEqual(self.get("outline", kept["id"]).json()["radius"], 300)
        # The act that the map does: the line widens, or refuses.
        self.client.post(reverse("find:change"), {"do": 'include:in-area:O\'Brien "quay"'})
        address = self.client.post(reverse("find:change"), {"q": 'in-area: "Oakum corner"', "do": 'exclude:in-area:O\'Brien "quay"'})[
            "Location"
        ]
        self.assertIn("none%20of", address)
        refused = self.client.post(reverse("find:change"), {"do": "include:in-area:Nope"}, headers={"HX-Request": "true"})
        self.assertContains(refused, "areas")
        self.assertEqual(self.client.post(reverse("find:change"), {"do": "include:beds:3"}).status_code, 404)

    def test_wrong_outlines_say_so(self) -> None:
        for sent in (
            {"geometry": "x"}, {"radius": "x", "longitude": 1, "latitude": 1}, {"radius": 5, "longitude": 200, "latitude": 1},
            {"radius": 5, "longitude": "nan", "latitude": 1}, {"geometry": self.around(), "q": "beds: lots"},
        ):  # fmt: skip
            page = self.post("drawn", **sent)
            self.assertEqual(page.status_code, 400, sent)
            self.assertTrue(page.json()["error"].endswith("."))
        self.assertEqual(self.get("at-point", longitude="x", latitude=1).status_code, 400)

    def test_no_team_sees_anothers(self) -> None:
        area = keep_area(self.stranger, "Secret", outline_of(polygons_of(self.around())))
        with self.assertRaisesMessage(CriteriaError, "none of your team's areas"):
            self.ids('in-area: "Secret"')
        ours = 'in-area: any of "Shore side of the tracks", "Half a mile around the quay", "Oakum corner"'
        self.assertEqual(self.ids("in-area: any"), self.ids(ours))
        self.assertEqual(self.ids("in-area: any", self.stranger), self.ids('in-area: "Secret"', self.stranger))
        self.assertEqual(self.ids("in-area: none"), set(ParcelFacts.objects.values_list("pk", flat=True)) - self.ids(ours))
        self.assertEqual(self.get("outline", area.pk).status_code, 404)
        self.assertEqual(self.post("area-act", area.pk, do="delete").status_code, 404)
        self.assertEqual(self.post("keep-area", area=area.pk, geometry=self.around()).status_code, 404)
        for page in (self.get("areas"), self.get("areas-menu"), self.get("areas-geojson"), self.get("asked", q="in-area: any")):
            self.assertNotContains(page, "Secret")
        self.assertContains(self.get("asked", q='in-area: "Secret"'), "none of your", status_code=400)
        self.assertNotIn("Secret", str(self.get("at-point", longitude=self.x, latitude=self.y).json()))

    def test_what_a_search_asks_is_drawn(self) -> None:
        self.keep()
        ring = f"within: 0.25..0.5 mi of parcel tamarack/{self.here.parcel.number}"
        search = parse(f'in-area: "Quay"; not "Oakum corner"\n{ring}\n~ in-area: "Quay"')
        shapes = asked_shapes(search, self.scope)
        told = [(one["properties"]["name"], one["properties"]["use"], one["geometry"]["type"]) for one in shapes]
        number = f"tamarack/{self.here.parcel.number}"
        self.assertEqual(told, [
            ("Quay", "in", "MultiPolygon"), ("Oakum corner", "out", "MultiPolygon"), ("0.25..0.5 mi", "in", "MultiPolygon"),
            ("0.25..0.5 mi", "in", "MultiPolygon"), (number, "center", "Point"),
        ])  # fmt: skip
        self.assertEqual(asked_shapes(parse("beds: 3.."), self.scope), [])

    def test_areas_on_record(self) -> None:
        found = areas_at(Point(self.x, self.y, srid=4326))
        self.assertIn(("neighborhood", "Harbour Wards"), [(one.what, one.name) for one in found])
        self.assertEqual(found[-1].what, "between barriers")
        for one in found:
            self.assertTrue(one.geometry.covers(Point(self.x, self.y, srid=4326)), one.what)
        said = self.get("at-point", longitude=self.x, latitude=self.y).json()["areas"]
        self.assertEqual([one["what"] for one in said], [one.what for one in found])
        self.assertEqual(self.get("at-point", longitude=0, latitude=0).json()["areas"][0]["what"], "between barriers")

    def test_the_page_of_areas(self) -> None:
        area = self.keep("<script>alert(1)</script>")
        page = self.get("areas")
        self.assertContains(page, "&lt;script&gt;alert(1)&lt;/script&gt;")
        self.assertNotContains(page, "<script>alert(1)")
        inside = len(self.ids('in-area: "<script>alert(1)</script>"'))
        self.assertContains(page, f">{inside:,}</a>")
        self.post("area-act", area.pk, do="rename", name="Hill")
        self.assertContains(self.get("areas"), "is called “Hill” now")
        self.post("area-act", area.pk, do="rename", name="oakum CORNER")
        self.assertContains(self.get("areas"), "There is an area “oakum CORNER” already")
        self.post("area-act", area.pk, do="delete")
        self.assertContains(self.get("areas"), "“Hill” deleted")
        self.assertContains(self.get("areas"), f'action="{undo_address(area)}"')
        self.client.post(undo_address(area))
        self.assertContains(self.get("areas"), "“Hill” restored")
        self.assertEqual(self.post("area-act", area.pk, do="burn").status_code, 404)
        self.assertContains(self.get("areas-menu", q='in-area: "Hill"; not "Oakum corner"'), 'aria-pressed="true"', 2)
        self.assertContains(self.get("areas-menu", q="beds: lots"), "Hill")


class Files(AreaCase):
    def bring(self, name: str, content: bytes) -> Any:
        self.post("areas", file=SimpleUploadedFile(name, content))
        return self.get("areas")

    def test_out_and_in_again(self) -> None:
        sent = self.get("areas-geojson")
        self.assertEqual(sent["Content-Type"], "application/geo+json")
        before = {area.name: shape(json.loads(area.geometry.json)) for area in areas_of(self.scope.team)}
        self.assertEqual(set(before), {"Half a mile around the quay", "Oakum corner", "Shore side of the tracks"})
        page = self.bring("areas.geojson", sent.content)
        self.assertContains(page, "Taken in: Half a mile around the quay 2, Oakum corner 2, Shore side of the tracks 2.")
        for name, outline in before.items():
            again = shape(json.loads(areas_of(self.scope.team).get(name=f"{name} 2").geometry.json))
            self.assertLess(again.hausdorff_distance(outline), 1e-6)
        (only,) = self.get("areas-geojson", area=areas_of(self.scope.team).get(name="Oakum corner").pk).json()["features"]
        self.assertEqual(only["properties"]["name"], "Oakum corner")

    def test_a_shapefile(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            with shapefile.Writer(str(Path(folder) / "wards"), shapeType=shapefile.POLYGON) as writer:
                writer.field("NAME", "C", 40)
                for name, half in (("North ward", 0.001), ("", 0.002)):
                    corners = list(shape(json.loads(self.around(half))).exterior.coords)
                    writer.poly([corners])
                    writer.record(name)
            packed = io.BytesIO()
            with zipfile.ZipFile(packed, "w") as files:
                for file in Path(folder).iterdir():
                    files.write(file, file.name)
        self.assertContains(self.bring("wards.zip", packed.getvalue()), "Taken in: North ward, wards 2.")
        self.assertTrue(self.ids('in-area: "North ward"') < self.ids('in-area: "wards 2"'))

    def test_a_name_longer_than_a_disk_has_any(self) -> None:
        feature = {"type": "Feature", "properties": {}, "geometry": json.loads(self.around())}
        content = json.dumps({"type": "FeatureCollection", "features": [feature]}).encode()
        for name in ("x." + "y" * 250, "z" * 251 + ".geojson"):
            self.assertEqual(self.bring(name, content).status_code, 200, name)

    def test_what_can_not_be_taken_in(self) -> None:
        point = {"type": "Feature", "properties": {"name": "Spot"}, "geometry": {"type": "Point", "coordinates": [0, 0]}}
        bow = {"type": "Feature", "properties": {"name": "Bow"}, "geometry": BOW_TIE}
        page = self.bring("mixed.geojson", json.dumps({"type": "FeatureCollection", "features": [point, bow]}).encode())
        self.assertContains(page, "Taken in: Bow. 1 crossed themselves and were mended.")
        self.assertContains(page, "Not taken in: 1: an area is a polygon")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        for name, content, why in (
            ("empty.geojson", b'{"type": "FeatureCollection", "features": []}', "holds no areas"),
            ("x.geojson", b"{", "(?i)can.{1,6}t be read"),
        ):  # fmt: skip
            page = self.client.post(reverse("maps:areas"), {"file": SimpleUploadedFile(name, content)})
            self.assertEqual(page.status_code, 400)
            self.assertRegex(page.content.decode(), why)
        self.assertContains(self.client.post(reverse("maps:areas")), "No file was chosen", status_code=400)

    def test_a_broken_file_leaves_nothing(self) -> None:
        count = areas_of(self.scope.team).count()
        feature = json.dumps({"type": "Feature", "properties": {"name": "Half"}, "geometry": json.loads(self.around())})
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        broken = f'{{"type": "FeatureCollection", "features": [{feature}, {{"type": "Feature", "prop'.encode()
        page = self.client.post(reverse("maps:areas"), {"file": SimpleUploadedFile("a.geojson", broken)})
        self.assertEqual((page.status_code, areas_of(self.scope.team).count()), (400, count))

    def test_as_many_as_a_file_may_hold(self) -> None:
        one = {"type": "Feature", "properties": {"name": "Ward"}, "geometry": json.loads(self.around())}
        content = json.dumps({"type": "FeatureCollection", "features": [one] * 3}).encode()
        # None of them is mended before it is known that they are too many.
        with mock.patch.object(area_files, "MOST", 2), mock.patch.object(area_files, "outline_of", side_effect=AssertionError):
            self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
            page = self.client.post(reverse("maps:areas"), {"file": SimpleUploadedFile("a.geojson", content)})
            self.assertContains(page, "more than 2 areas", status_code=400)
        with mock.patch.object(area_files, "MOST", 3):
            self.assertContains(self.bring("a.geojson", content), "Taken in: Ward, Ward 2, Ward 3.")

    def test_by_command(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "areas.geojson"
            path.write_text(json.dumps({"type": "FeatureCollection", "features": [
                {"type": "Feature", "properties": {"name": "By command"}, "geometry": json.loads(self.around())},
            ]}))  # fmt: skip
            out = io.StringIO()
            call_command("areas", team=self.scope.team.name, take=str(path), stdout=out)
            self.assertIn("Taken in: By command", out.getvalue())
        out = io.StringIO()
        call_command("areas", team=self.scope.team.name, stdout=out)
        self.assertRegex(out.getvalue(), r"By command +\S+ acres +[\d,]+ parcels")
        out = io.StringIO()
        call_command("areas", team=self.scope.team.name, format="geojson", stdout=out)
        self.assertEqual(len(json.loads(out.getvalue())["features"]), 4)
        out = io.StringIO()
        call_command("find", 'in-area: "By command"', "--count", "--team", self.scope.team.name, stdout=out)
        self.assertIn(str(len(self.ids('in-area: "By command"'))), out.getvalue().replace(",", ""))


class AroundASale(AreaCase):
    def sold(self, **changed: Any) -> Listing:
        """Return a closed listing of a parcel in a subdivision, with a price."""
        rows = Listing.objects.filter(
            superseded_at=None, standard_status="Closed", close_price__isnull=False, parcel__facts__county__name="Tamarack",
            parcel__facts__subdivision__isnull=False,
        ).exclude(property_type__contains="Lease")  # fmt: skip
        listing = rows.order_by("-close_date", "pk")[0]
        for name, value in changed.items():
            setattr(listing, name, value)
        listing.save()
        return listing

    def test_a_sale_in_a_sentence(self) -> None:
        listing = self.sold(list_price=200_000, close_price=211_000)
        (sale,) = closed_sales.closed_sales(listing.parcel, self.scope.today, [listing])
        facts = listing.parcel.facts
        self.assertIn(f"{facts.street_line} closed on", sale.description)
        self.assertIn("at $211,000, 5.5 % over the $200,000 asked", sale.description)
        self.assertIn("; at or above list", sale.description)
        described = closed_sales.describe_sale
        self.assertEqual(described("9 Elm Row", None, None, None, None, ()), "9 Elm Row closed")
        self.assertEqual(
            described("9 Elm Row", None, 100, 100, 1, ()), "9 Elm Row closed at $100, what was asked, after 1 day on the market"
        )
        self.assertEqual(described("9 Elm Row", None, 200, 150, None, ()), "9 Elm Row closed at $150, 25 % under the $200 asked")
        self.assertEqual(described("9 Elm Row", None, 200, None, 0, ()), "9 Elm Row closed, asked $200, after 0 days on the market")

    def test_the_neighborhoods_that_are_proposed(self) -> None:
        listing = self.sold()
        facts = ParcelFacts.objects.get(pk=listing.parcel_id)
        found = {one.key: one for one in around_sale.proposals(listing.parcel, "0.5")}
        self.assertEqual(list(found), ["subdivision", "barriers", "circle", "neighborhood"])
        # The subdivision's own parcels are in it; a few others may stand between them.
        its_own = set(ParcelFacts.objects.filter(subdivision=facts.subdivision_id).values_list("pk", flat=True))
        inside = set(ParcelFacts.objects.filter(place__coveredby=found["subdivision"].geometry).values_list("pk", flat=True))
        self.assertLessEqual(its_own, inside)
        self.assertEqual(found["subdivision"].parcels, len(inside))
        self.assertTrue(all(one.geometry.covers(facts.place) for one in found.values()))
        # The ground between barriers is part of the circle.
        self.assertLessEqual(found["barriers"].parcels, found["circle"].parcels)
        ParcelFacts.objects.filter(pk=facts.pk).update(latitude=None)
        self.assertEqual(around_sale.proposals(listing.parcel, "0.5"), [])

    def test_from_the_listing_to_the_owners_list(self) -> None:
        listing = self.sold()
        address = reverse("maps:around-sale", args=[listing.pk])
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get(reverse("maps:nearby", args=[listing.parcel_id])), f'href="{address}"')
        page = self.client.get(address, {"area": "circle", "reach": "0.25"}, headers={"HX-Request": "true"})
        self.assertContains(page, "<svg")
        sent = {"area": "circle", "reach": "0.25", "months": "24", "lives_there": "no"}
        led_to = self.client.post(address, sent)["Location"]
        area = DrawnArea.objects.get(name__startswith="Around ")
        page = self.client.get(led_to)
        self.assertContains(page, "Around a sale:")
        self.assertContains(page, area.sale.address)
        scope = self.scope
        search = around_sale.search_of(area.name, listing.parcel, 24, "no")
        found = set(Answer(SearchPage(search), scope).matches.values_list("pk", flat=True))
        since = scope.today.replace(year=scope.today.year - 2)
        expected = {
            facts.pk
            for facts in ParcelFacts.objects.filter(place__coveredby=area.geometry, county=listing.county_id)
            if facts.pk != listing.parcel_id and facts.owner_occupied is False and not (facts.last_sale and facts.last_sale >= since)
        }
        self.assertEqual(found, expected)
        self.assertTrue(found)
        # The sale goes with the list that is made of it.
        made = lists.make_list(scope, "Neighbors of the sale")
        lists.add(scope, made, found, stored_text(search, scope.team))
        self.assertContains(self.client.get(reverse("lists:list", args=[made.pk])), "Around a sale:")
        self.assertEqual([sale.listing_id for sale in around_sale.sales_of_list(made, scope)], [listing.listing_id])
        self.assertEqual(around_sale.sales_of_list(made, self.stranger), [])
        # Not with a search that excludes the area, or asks of no area.
        self.assertEqual(around_sale.sales_of(parse(f'in-area: not "{area.name}"'), scope), [])
        self.assertEqual(around_sale.sales_of(parse("beds: 3.."), scope), [])
        # A second of the same sale has a name of its own.
        self.client.post(address, sent)
        self.assertEqual(SaleOfArea.objects.filter(listing_id=listing.listing_id).count(), 2)

    def test_who_is_left_out(self) -> None:
        listing = self.sold()
        self.keep()
        texts = [stored_text(around_sale.search_of("Quay", listing.parcel, *chosen), self.other_team) for chosen in ((0, ""), (6, "yes"))]
        self.assertNotIn("last-sale", texts[0])
        self.assertNotIn("owner-occupied", texts[0])
        self.assertIn("last-sale: not in the last 6 months, or unknown\nowner-occupied: yes", texts[1])

    def test_refused(self) -> None:
        listing = self.sold()
        self.assertEqual(self.post("around-sale", listing.pk, months="x").status_code, 400)
        self.assertEqual(self.post("around-sale", listing.pk, months="601").status_code, 400)
        self.assertEqual(self.get("around-sale", 10**12).status_code, 404)
        active = Listing.objects.filter(superseded_at=None, standard_status="Active", parcel__isnull=False)[0]
        self.assertEqual(self.get("around-sale", active.pk).status_code, 404)


class AroundAProperty(AreaCase):
    def test_what_goes_on_within_a_distance(self) -> None:
        parcel = Parcel.objects.select_related("county").get(pk=self.lot)
        for distance in ("300 ft", "0.25 mi"):
            found = nearby(parcel, distance, self.scope)
            for one in found.found:
                expected = self.ids(f"within: {distance} of parcel tamarack/{parcel.number}\n{one.kind.lines}") - {self.lot}
                self.assertEqual(one.count, len(expected), one.kind.title)
                self.assertLessEqual({row.parcel_id for row in one.nearest}, expected)
                near = [row.cells[0].text for row in one.nearest]
                self.assertEqual(near, sorted(near, key=float))
            marked = {drawn.parcel_id for drawn in found.drawing.parcels if drawn.mark}
            self.assertTrue(marked)
            self.assertIn(str(found.found[0].count), found.drawing.label)
        self.assertEqual(len(found.found), len(KINDS))
        ParcelFacts.objects.filter(pk=self.lot).update(latitude=None)
        self.assertIsNone(nearby(parcel, "0.25 mi", self.scope))
        self.assertEqual(self.get("nearby", self.lot).status_code, 404)

    def test_on_the_propertys_page(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("properties:more", args=[self.lot]))
        self.assertContains(page, f'hx-get="{reverse("maps:nearby", args=[self.lot])}" hx-trigger="intersect once"')
        self.assertContains(self.get("nearby", self.lot, distance="1 mi"), "<option selected>1 mi</option>", html=True)
        self.assertContains(self.get("nearby", self.lot, distance="9 mi"), "<option selected>0.25 mi</option>", html=True)

    def test_marks_with_prices(self) -> None:
        x, y = self.downtown.x, self.downtown.y
        view = View(x - 800, y - 800, x + 800, y + 800, 16)
        found = marks_in(view, ["sold", "offered", "auction"], self.scope)
        kinds = {mark["kind"] for mark in found}
        self.assertLessEqual({"sold", "offered"}, kinds)
        for mark in found:
            facts = ParcelFacts.objects.get(pk=mark["id"])
            price = {"sold": facts.last_sale_price, "offered": facts.list_price}.get(mark["kind"])
            if price:
                self.assertTrue(mark["text"].startswith(short_money(price)))
                self.assertEqual("an acre" in mark["text"], bool(facts.lot_acres and facts.lot_acres >= 1))
        self.assertEqual(marks_in(view, [], self.scope), [])
        self.assertEqual(self.get("marks", kind="sold").status_code, 400)

    def test_too_many_marks_of_a_kind_are_left_out(self) -> None:
        x, y = self.downtown.x, self.downtown.y
        view = View(x - 400, y - 400, x + 400, y + 400, 17)
        count = len(marks_in(view, ["sold"], self.scope))
        with mock.patch.object(marks, "MOST_MARKS", count):
            self.assertEqual(len(marks_in(view, ["sold"], self.scope)), count)
        with mock.patch.object(marks, "MOST_MARKS", count - 1):
            self.assertEqual(marks_in(view, ["sold"], self.scope), [])

    def test_a_small_map_of_many_parcels_draws_those_with_a_mark(self) -> None:
        outline = ParcelShape.objects.get(parcel=self.lot, superseded_at=None).outline
        every = small_map.small_map([outline], {self.lot: "subject"}, margin=9).parcels
        self.assertGreater(len(every), 20)
        # What wears a mark is drawn last, over the others.
        self.assertEqual((every[-1].parcel_id, every[-1].mark), (self.lot, "subject"))
        for most, drawn in ((len(every), len(every)), (len(every) - 1, 1)):
            with mock.patch.object(small_map, "MOST_PARCELS", most):
                self.assertEqual(len(small_map.small_map([outline], {self.lot: "subject"}, margin=9).parcels), drawn)

    def test_price_per_acre(self) -> None:
        facts = ParcelFacts(last_sale_price=300_000, sale_parcels=1)
        for acres, text in ((None, "$300k"), (0.99, "$300k"), (1.0, "$300k\n$300k an acre"), (40.0, "$300k\n$8k an acre")):
            facts.lot_acres = acres
            self.assertEqual(price_words(facts, MARK_KINDS[0]), text)
        facts.sale_parcels = 2
        self.assertEqual(price_words(facts, MARK_KINDS[0]), "$300k")

    def test_all_that_one_owner_has(self) -> None:
        owner = ParcelFacts.objects.filter(parcels_owned__gte=3, parcels_owned__lte=20).order_by("pk")[0]
        theirs = set(ParcelFacts.objects.filter(owner=owner.owner_id).values_list("pk", flat=True))
        self.assertEqual(set(parcels_of_same_owner(owner.pk)), theirs)
        said = self.get("of-owner", owner.pk).json()
        self.assertEqual(set(said["ids"]), theirs)
        west, south, east, north = said["box"]
        for outline in ParcelShape.objects.filter(parcel__in=theirs, superseded_at=None).values_list("outline", flat=True):
            self.assertTrue(west <= outline.extent[0] and outline.extent[2] <= east)
            self.assertTrue(south <= outline.extent[1] and outline.extent[3] <= north)
        self.assertEqual(parcels_of_same_owner(10**12), [])
        self.assertContains(self.get("card", owner.pk), f"{len(theirs) - 1} other parcel")
