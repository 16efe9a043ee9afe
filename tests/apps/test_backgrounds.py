"""What lies under the parcels: pictures and tiles that staff bring, an installation's own address, and elevations.

Rasters are written by GDAL and by pmtiles' own writer, and looked at with Pillow.
"""

from __future__ import annotations

import array
import io
import math
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from django.contrib.gis.gdal import GDALRaster
from django.contrib.gis.geos import Point
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import override_settings
from django.urls import reverse
from PIL import Image
from pmtiles.tile import Compression, TileType, zxy_to_tileid
from pmtiles.writer import Writer

from jaded_ledger.maps.backgrounds import Background, background_tile, shown_background
from jaded_ledger.maps.map_files import bring_map_file, remove_map_file
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import MapFile, ParcelFacts
from tests.support.maps import MapCase, tile_at
from tests.support.tiers import thorough

RED, GREEN = (200, 30, 40), (20, 160, 60)


class BackgroundCase(MapCase):
    def setUp(self) -> None:
        super().setUp()
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        settings = override_settings(MAP_FILES=Path(self.folder.name) / "kept")
        settings.enable()
        self.addCleanup(settings.disable)
        self.here = Path(self.folder.name)

    def geotiff(self, name: str, srid: int, corner: tuple[float, float], cell: float, bands: list[bytes], side: int, kind: int = 1) -> Path:
        """Write a square raster from its northwest corner on."""
        path = self.here / name
        raster = GDALRaster({
            "driver": "GTiff", "name": str(path), "srid": srid, "width": side, "height": side, "origin": corner, "scale": (cell, -cell),
            "datatype": kind, "bands": [{"data": band} for band in bands],
        })  # fmt: skip
        # It is whole on the disk when it is closed.
        del raster
        return path

    def in_one_piece(self, name: str) -> Path:
        """Write a picture of 81 megapixels and few bytes, which can be decoded only as a whole."""
        path = self.here / name
        raster = GDALRaster({
            "driver": "GTiff", "name": str(path), "srid": 4326, "width": 9_000, "height": 9_000, "origin": (0, 1), "scale": (1e-5, -1e-5),
            "datatype": 1, "bands": [{}], "papsz_options": {"compress": "deflate", "blockysize": "9000"},
        })  # fmt: skip
        del raster
        return path

    def picture(self, side: int = 512, cell: float = 2.0) -> Path:
        """A picture about Alder Bay's middle in web mercator: its western half red, its eastern half green."""
        x, y = self.downtown.x, self.downtown.y
        rows = [bytes([RED[band]] * (side // 2) + [GREEN[band]] * (side // 2)) * side for band in range(3)]
        return self.geotiff("picture.tif", 3857, (x - side * cell / 2, y + side * cell / 2), cell, rows, side)

    def pmtiles(self, kind: TileType = TileType.PNG) -> Path:
        path = self.here / "ground.pmtiles"
        drawn = io.BytesIO()
        Image.new("RGB", (256, 256), GREEN).save(drawn, "PNG")
        zoom, column, row = tile_at(self.downtown.x, self.downtown.y, 14)
        with path.open("wb") as handle:
            writer = Writer(handle)
            writer.write_tile(zxy_to_tileid(zoom, column, row), drawn.getvalue())
            writer.finalize(
                {
                    "tile_type": kind, "tile_compression": Compression.NONE, "min_lon_e7": -880_000_000, "min_lat_e7": 430_000_000,
                    "max_lon_e7": -860_000_000, "max_lat_e7": 450_000_000, "center_zoom": 14, "center_lon_e7": 0, "center_lat_e7": 0,
                },
                {},
            )  # fmt: skip
        return path


class Tiles(BackgroundCase):
    def test_none_until_one_is_brought(self) -> None:
        self.assertIsNone(shown_background())
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.client.get(reverse("find:find"), {"q": "beds: 3..", "face": "map"}), "data-background")
        with override_settings(MAP_BACKGROUND="https://tiles.example/{z}/{x}/{y}.png", MAP_CREDIT="Example Survey"):
            self.assertEqual(shown_background(), Background("https://tiles.example/{z}/{x}/{y}.png", "Example Survey", 22))
            # A file that staff brought comes first.
            file = bring_map_file(self.picture(), "Flight", "County", self.user)
            self.assertIn(f"/map/background/{file.pk}/{{z}}/{{x}}/{{y}}", shown_background().address)

    def test_a_picture_is_cut_where_it_lies(self) -> None:
        file = bring_map_file(self.picture(), " Flight   2026 ", "County", self.user)
        self.assertEqual((file.kind, file.name, file.closest_zoom, file.lowest_zoom), (MapFile.Kind.PICTURE, "Flight 2026", 17, 13))
        place = Point(self.downtown.x, self.downtown.y, srid=3857)
        place.transform(4326)
        self.assertTrue(file.bounds.covers(place))
        zoom, column, row = tile_at(self.downtown.x, self.downtown.y, 16)
        sent = self.get("background-tile", file.pk, zoom, column, row)
        self.assertEqual(sent["Content-Type"], "image/png")
        self.assertIn("immutable", sent["Cache-Control"])
        image = Image.open(io.BytesIO(sent.content))
        side = 2 * 20_037_508.342789244 / 2**zoom
        west, north = column * side - 20_037_508.342789244, 20_037_508.342789244 - row * side
        for east, color in ((-40, RED), (40, GREEN)):
            pixel = int((self.downtown.x + east - west) / side * 256), int((north - self.downtown.y) / side * 256)
            if 0 <= pixel[0] < 256:
                self.assertEqual(image.getpixel(pixel), (*color, 255))
        # Outside of it there is nothing, and at its edge it is transparent.
        self.assertEqual(self.get("background-tile", file.pk, 16, column + 40, row).status_code, 204)
        edges = [background_tile(file, 13, *tile_at(self.downtown.x, self.downtown.y, 13)[1:])]
        self.assertEqual(Image.open(io.BytesIO(edges[0][0])).getextrema()[3], (0, 255))
        for zoom in (file.lowest_zoom - 1, file.closest_zoom + 1):
            self.assertIsNone(background_tile(file, zoom, *tile_at(self.downtown.x, self.downtown.y, zoom)[1:]))

    def test_tiles_are_sent_as_they_are_kept(self) -> None:
        file = bring_map_file(self.pmtiles(), "Ground", "", None)
        self.assertEqual((file.kind, file.lowest_zoom, file.closest_zoom), (MapFile.Kind.TILES, 14, 14))
        at = tile_at(self.downtown.x, self.downtown.y, 14)
        image = Image.open(io.BytesIO(self.get("background-tile", file.pk, *at).content))
        self.assertEqual((image.size, image.getpixel((9, 9))), ((256, 256), GREEN))
        self.assertEqual(self.get("background-tile", file.pk, 14, at[1] + 1, at[2]).status_code, 204)
        # One that was damaged since shows nothing, and breaks no page.
        file.path.write_bytes(file.path.read_bytes()[:127])
        with self.assertLogs("jaded_ledger.maps.backgrounds", "WARNING"):
            self.assertEqual(self.get("background-tile", file.pk, *at).status_code, 204)

    def test_what_is_no_background(self) -> None:
        text = self.here / "notes.tif"
        text.write_text("no picture")
        leads_elsewhere = self.here / "elsewhere.tif"
        leads_elsewhere.write_text(f"<VRTDataset><SourceFilename>{self.picture()}</SourceFilename></VRTDataset>")
        in_one_piece = self.in_one_piece("one-piece.tif")
        floats = self.geotiff("heights.tif", 4326, (0, 1), 0.1, [bytes(4 * 9)], 3, kind=6)
        two = self.geotiff("two.tif", 4326, (0, 1), 0.1, [bytes(9), bytes(9)], 3)
        broken = self.here / "broken.pmtiles"
        broken.write_bytes(b"PMTiles\x03")
        # A header of 127 bytes says all that a file of tiles has, and there is nothing behind it.
        forged = self.here / "forged.pmtiles"
        whole = self.pmtiles().read_bytes()
        forged.write_bytes(whole[:127])
        no_picture = self.here / "no picture.pmtiles"
        no_picture.write_bytes(whole.replace(b"\x89PNG", b"GIF8"))
        for path, why in (
            (in_one_piece, "stored in blocks of 81 MB"),
            (text, "neither a GeoTIFF nor PMTiles"), (leads_elsewhere, "neither a GeoTIFF nor PMTiles"),
            (floats, "for elevations say so"), (two, "one, three or four bands"),
            (broken, "can't be read"), (forged, "can't be read"), (no_picture, "can't be read"),
            (self.pmtiles(TileType.MVT), "no tiles of pictures"),
        ):  # fmt: skip
            with self.subTest(path.name), self.assertRaisesMessage(AreaError, why):
                bring_map_file(path, "x", "", None)
        with self.assertRaisesMessage(AreaError, "one band"):
            bring_map_file(two, "x", "", None, is_elevation=True)
        with self.assertRaisesMessage(AreaError, "no name"):
            bring_map_file(self.picture(), " ", "", None)
        self.assertFalse(MapFile.objects.exists())

    def test_the_page_is_for_staff(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.user.is_staff = False
        self.user.save()
        self.assertEqual(self.get("background").status_code, 403)
        self.user.is_staff = True
        self.user.save()
        self.assertContains(self.get("background"), "nothing is fetched from elsewhere")
        sent: dict[str, Any] = {"file": SimpleUploadedFile("flight.tif", self.picture().read_bytes()), "credit": "<b>County</b>"}
        self.client.post(reverse("maps:background"), sent)
        self.assertContains(self.get("background"), "&lt;b&gt;County&lt;/b&gt;")
        page = self.client.get(reverse("find:find"), {"q": "beds: 3..", "face": "map"})
        self.assertContains(page, 'data-background="/map/background/')
        file = MapFile.objects.get()
        self.assertTrue(file.path.is_file())
        self.client.post(reverse("maps:remove-background", args=[file.pk]))
        self.assertFalse(file.path.exists())
        self.assertIsNone(shown_background())
        self.assertEqual(self.get("background-tile", file.pk, 14, 0, 0).status_code, 404)
        self.assertContains(self.client.post(reverse("maps:background")), "No file was chosen", status_code=400)

    def test_by_command(self) -> None:
        out = io.StringIO()
        call_command("background", str(self.picture()), credit="County", stdout=out)
        self.assertIn("picture (GeoTIFF)  picture", out.getvalue())
        out = io.StringIO()
        call_command("background", remove=MapFile.objects.get().pk, stdout=out)
        self.assertEqual(out.getvalue(), "")
        for wrong in ({"file": "/none.tif"}, {"remove": 10**6}):
            with self.assertRaises(CommandError):
                call_command("background", **{"stdout": out, **wrong})


class Setting(BackgroundCase):
    def settings_with(self, address: str) -> subprocess.CompletedProcess[str]:
        """Read the settings as another process does, with an address in the environment."""
        code = "from jaded_ledger import settings as s; print(s.MAP_BACKGROUND); print(*s.CONTENT_SECURITY_POLICY['DIRECTIVES']['img-src'])"
        environment = {**os.environ, "JADED_LEDGER_MAP": address}
        return subprocess.run([sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=False)

    def test_the_policy_follows_the_address(self) -> None:
        for given, used, origin in (
            ("https://tiles.example/{z}/{x}/{y}.png", "https://tiles.example/{z}/{x}/{y}.png", " https://tiles.example"),
            # A RESTful WMTS (OGC 07-057r7), and one with keys and values.
            ("http://w.example:8080/{TileMatrix}/{TileRow}/{TileCol}", "http://w.example:8080/{z}/{y}/{x}", " http://w.example:8080"),
            ("https://w.example/?M={TileMatrix}&R={tilerow}&C={TILECOL}", "https://w.example/?M={z}&R={y}&C={x}", " https://w.example"),
            ("", "", ""),
        ):  # fmt: skip
            with self.subTest(given):
                self.assertEqual(self.settings_with(given).stdout.splitlines(), [used, f"'self' data:{origin}"])
        for wrong in ("tiles.example/{z}/{x}/{y}", "https://tiles.example/{z}/{x}.png", "ftp://t.example/{z}/{x}/{y}"):
            self.assertIn("is no address of tiles", self.settings_with(wrong).stderr)


@thorough
class Elevations(BackgroundCase):
    """A plane, of which height and slope are known anywhere: it rises by so much to the east and to the north."""

    EAST, NORTH, HEIGHT = 0.06, 0.08, 180.0

    def plane(self, *, hole: bool = False) -> Path:
        """In meters of UTM zone 16N (EPSG:32616), in cells of ten meters about Alder Bay's middle."""
        middle = Point(self.downtown.x, self.downtown.y, srid=3857)
        middle.transform(32616)
        self.middle, side, cell = middle, 400, 10.0
        cells = array.array("f")
        for row in range(side):
            for column in range(side):
                east, north = (column + 0.5 - side / 2) * cell, (side / 2 - row - 0.5) * cell
                height = self.HEIGHT + self.EAST * east + self.NORTH * north
                cells.append(-9999.0 if hole and abs(east) < 300 and abs(north) < 300 else height)
        path = self.here / "plane.tif"
        raster = GDALRaster({
            "driver": "GTiff", "name": str(path), "srid": 32616, "width": side, "height": side,
            "origin": (middle.x - side / 2 * cell, middle.y + side / 2 * cell), "scale": (cell, -cell), "datatype": 6,
            "bands": [{"data": cells.tobytes(), "nodata_value": -9999.0}],
        })  # fmt: skip
        del raster
        return path

    def test_height_and_slope(self) -> None:
        self.assertFalse(ParcelFacts.objects.exclude(elevation=None).exists())
        file = bring_map_file(self.plane(), "Plane", "", self.user, is_elevation=True)
        told = ParcelFacts.objects.exclude(elevation=None)
        self.assertGreater(told.count(), 1_000)
        for facts in told.order_by("pk")[:200:7]:
            at = facts.place.transform(32616, clone=True)
            # To the cell's middle, which is at most five meters away either way.
            height = self.HEIGHT + self.EAST * (at.x - self.middle.x) + self.NORTH * (at.y - self.middle.y)
            self.assertAlmostEqual(facts.elevation * 0.3048, height, delta=5 * (self.EAST + self.NORTH) + 0.2)
            # Horn (1981): of a plane the slope is that of the plane.
            self.assertEqual(facts.slope, 100 * math.hypot(self.EAST, self.NORTH))
        self.assertFalse(ParcelFacts.objects.filter(county__name="Pike Hollow").exclude(slope=None).exists())
        remove_map_file(file)
        self.assertFalse(ParcelFacts.objects.exclude(elevation=None).exists())

    def test_no_value_is_unknown(self) -> None:
        bring_map_file(self.plane(hole=True), "Hole", "", None, is_elevation=True)
        self.assertIsNone(ParcelFacts.objects.get(pk=self.lot).elevation)
        self.assertTrue(ParcelFacts.objects.exclude(elevation=None).exists())

    def test_the_newest_file_counts(self) -> None:
        bring_map_file(self.plane(), "Old", "", None, is_elevation=True)
        before = ParcelFacts.objects.get(pk=self.lot).elevation
        self.__class__.HEIGHT += 100
        try:
            bring_map_file(self.plane(), "New", "", None, is_elevation=True)
        finally:
            self.__class__.HEIGHT -= 100
        self.assertAlmostEqual(ParcelFacts.objects.get(pk=self.lot).elevation - before, 100 / 0.3048, delta=1)
        # What is derived anew stays so.
        self.assertEqual(sum(derive([self.lot]).values()), 0)
