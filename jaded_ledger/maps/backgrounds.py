"""What lies under the parcels: the installation's own background, by an address or from a file that staff brought. There need be none."""

from __future__ import annotations

import io
import logging
import math
from dataclasses import dataclass

from django.conf import settings
from django.contrib.gis.gdal import GDALRaster
from django.urls import reverse
from PIL import Image, ImageChops
from pmtiles.reader import MmapSource, Reader

from jaded_ledger.records.models import MapFile

_log = logging.getLogger(__name__)
SIDE = 256
_WORLD = 20_037_508.342789244
_TYPES = {1: "image/png", 2: "image/jpeg", 3: "image/webp"}
"""How Pillow's names of formats are sent."""
_MAGIC = {b"\x89PNG": "image/png", b"\xff\xd8\xff": "image/jpeg", b"RIFF": "image/webp"}


@dataclass(frozen=True)
class Background:
    """Where tiles of a background come from: an address with ``{z}``, ``{x}`` and ``{y}``, whom to name, and how close it goes."""

    address: str
    credit: str
    closest: int
    lowest: int = 0


def shown_background() -> Background | None:
    """Return the background of the map: the newest file that staff brought, else the address that the installation gives; else None."""
    file = MapFile.objects.filter(kind__in=[MapFile.Kind.PICTURE, MapFile.Kind.TILES], removed_at=None).first()
    if file:
        address = reverse("maps:background-tile", args=[file.pk, 0, 0, 0]).removesuffix("0/0/0")
        return Background(f"{address}{{z}}/{{x}}/{{y}}", file.credit, file.closest_zoom, file.lowest_zoom)
    return Background(settings.MAP_BACKGROUND, settings.MAP_CREDIT, 22) if settings.MAP_BACKGROUND else None


def background_tile(file: MapFile, zoom: int, column: int, row: int) -> tuple[bytes, str] | None:
    """Return a tile of 256 pixels of a file, and its type; None where it shows nothing there."""
    if not (file.lowest_zoom <= zoom <= file.closest_zoom and 0 <= column < 2**zoom and 0 <= row < 2**zoom):
        return None
    return _kept_tile(file, zoom, column, row) if file.kind == MapFile.Kind.TILES else _cut_tile(file, zoom, column, row)


def _kept_tile(file: MapFile, zoom: int, column: int, row: int) -> tuple[bytes, str] | None:
    try:
        with file.path.open("rb") as handle:
            found = Reader(MmapSource(handle)).get(zoom, column, row)
    # A tile that can't be read shows nothing; the map goes on beneath the others.
    except Exception:
        _log.warning("tile %s/%s/%s of map file %s can't be read", zoom, column, row, file.pk, exc_info=True)
        return None
    kind = next((kind for magic, kind in _MAGIC.items() if found and found.startswith(magic)), None)
    return (found, kind) if found and kind else None


def is_picture(tile: bytes) -> bool:
    """Return whether a tile begins as PNG, JPEG or WebP do."""
    return any(tile.startswith(magic) for magic in _MAGIC)


def _cut_tile(file: MapFile, zoom: int, column: int, row: int) -> tuple[bytes, str] | None:
    """Cut a tile out of a georeferenced picture. What the picture does not cover is transparent."""
    side = 2 * _WORLD / 2**zoom
    west, north = column * side - _WORLD, _WORLD - row * side
    warped = GDALRaster(str(file.path)).warp(
        {
            "driver": "MEM", "name": "tile", "srid": 3857, "width": SIDE, "height": SIDE, "origin": (west, north),
            "scale": (side / SIDE, -side / SIDE), "skew": (0, 0),
        },
        resampling="Bilinear",
    )  # fmt: skip
    bands = [Image.frombytes("L", (SIDE, SIDE), bytes(band.data(as_memoryview=True))) for band in warped.bands]
    if len(bands) == 1:
        bands = bands * 3
    # GDAL leaves black what it does not reach.
    brightest = ImageChops.lighter(ImageChops.lighter(bands[0], bands[1]), bands[2])
    covered = bands[3] if len(bands) > 3 else brightest.point(lambda value: 255 * (value > 0))
    if not covered.getbbox():
        return None
    written = io.BytesIO()
    Image.merge("RGBA", (*bands[:3], covered)).save(written, "PNG")
    return written.getvalue(), "image/png"


def zooms_of(meters_per_pixel: float) -> tuple[int, int]:
    """Return from where to where a picture is worth tiling: to a tile's pixel at least as fine as its own, and out to 16 of them.

    Pixels are counted along the equator (OGC 17-083r4: 156,543 meters at zoom 0).

    >>> zooms_of(0.6), zooms_of(156_543)
    ((14, 18), (0, 0))
    """
    closest = max(0, math.ceil(math.log2(2 * _WORLD / SIDE / meters_per_pixel)))
    return max(0, closest - 4), closest
