"""Files of the installation's own map, as staff bring them: looked at, kept in the folder of map files, and taken out again."""

from __future__ import annotations

import secrets
import shutil
import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.gis.gdal import GDALException, GDALRaster
from django.contrib.gis.geos import GEOSGeometry, Polygon
from django.db import transaction
from PIL.TiffImagePlugin import (
    BITSPERSAMPLE,
    IMAGELENGTH,
    IMAGEWIDTH,
    ROWSPERSTRIP,
    SAMPLESPERPIXEL,
    TILELENGTH,
    TILEWIDTH,
    ImageFileDirectory_v2,
)
from pmtiles.reader import MmapSource, Reader, all_tiles
from pmtiles.tile import TileType

from jaded_ledger.accounts.models import User
from jaded_ledger.maps.backgrounds import is_picture, zooms_of
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.records.clock import now
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import MapFile, ParcelFacts

_TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
"""How TIFF (6.0) and BigTIFF begin. Nothing else reaches GDAL: some of its formats lead to other files."""
_NO_TILES = "the file begins as PMTiles do, and can't be read as such"
_CLOSEST = 22
_LONGEST_ROOT = 16_384
"""Bytes that a root directory and what stands before it take at most (PMTiles 3)."""
_MOST_PIECE = 64 << 20
"""Bytes of one block. Drawing a map tile reads each block that it touches as a whole."""
_BIG = 43
"""The version number of a BigTIFF."""
_BYTE = 1
"""GDAL's type of a cell that is a byte, as those of pictures are."""


@dataclass(frozen=True)
class _Seen:
    """What a file turned out to be."""

    kind: MapFile.Kind
    bounds: Polygon
    lowest: int = 0
    closest: int = 22


def _look_at(path: Path, *, is_elevation: bool) -> _Seen:
    """Return what a file is. Raises AreaError for one that can't be shown."""
    with path.open("rb") as handle:
        begins = handle.read(7)
    if begins == b"PMTiles":
        return _look_at_tiles(path)
    try:
        if not begins.startswith(_TIFF):
            raise ValueError("no TIFF")
        raster = GDALRaster(str(path))
        srs = raster.srs
        if srs is None or (not srs.srid and not srs.wkt):
            raise AreaError("the picture does not say where it lies: bring a GeoTIFF with a coordinate system")
        bounds: GEOSGeometry = Polygon.from_bbox(raster.extent)
        bounds.srid = srs.srid or None
        bounds = bounds.transform(4326, clone=True) if bounds.srid else _in_degrees(bounds, raster)
        assert isinstance(bounds, Polygon)
        in_mercator = bounds.transform(3857, clone=True).extent
        piece = _largest_piece(path)
    except (GDALException, KeyError, OSError, SyntaxError, ValueError, struct.error):
        raise AreaError("the file is neither a GeoTIFF nor PMTiles") from None
    if piece > _MOST_PIECE:
        raise AreaError(
            f"the picture is stored in blocks of {piece / 1e6:,.0f} MB; at most {_MOST_PIECE / 1e6:,.0f} MB can be read. "
            "Save it with internal tiles"
        )
    types = {band.datatype() for band in raster.bands}
    if is_elevation:
        if len(raster.bands) != 1:
            raise AreaError(f"elevations are one band; the file has {len(raster.bands)}")
        return _Seen(MapFile.Kind.ELEVATION, bounds)
    if types != {_BYTE} or len(raster.bands) not in (1, 3, 4):
        raise AreaError("a picture has one, three or four bands of bytes; for elevations say so")
    lowest, closest = zooms_of((in_mercator[2] - in_mercator[0]) / raster.width)
    return _Seen(MapFile.Kind.PICTURE, bounds, lowest, closest)


def _largest_piece(path: Path) -> int:
    """Return how many bytes a strip or tile of a TIFF takes once it is decoded (TIFF 6.0, sections 3 and 15)."""
    with path.open("rb") as handle:
        head = handle.read(8)
        directory = ImageFileDirectory_v2(head + (handle.read(8) if head[2] == _BIG else b""))
        handle.seek(directory.next)
        directory.load(handle)
    width, height = directory[IMAGEWIDTH], directory[IMAGELENGTH]
    across, down = directory.get(TILEWIDTH, width), directory.get(TILELENGTH) or min(directory.get(ROWSPERSTRIP, height), height)
    bits = directory.get(BITSPERSAMPLE, (1,))
    return int(across * down * directory.get(SAMPLESPERPIXEL, 1) * max(bits) // 8)


def _in_degrees(bounds: GEOSGeometry, raster: GDALRaster) -> Polygon:
    """Return bounds in degrees, of a coordinate system without a number."""
    turned = bounds.ogr
    turned.srs = raster.srs
    turned.transform(4326)
    return Polygon.from_bbox(turned.geos.extent)


def _look_at_tiles(path: Path) -> _Seen:
    """Return what a file of tiles holds. Its header says much that need not be so: its first tile is read as well. Raises AreaError."""
    # The library reads what comes as it comes: whatever it raises says that the file is not what it says.
    with path.open("rb") as handle:
        source = MmapSource(handle)
        try:
            header = Reader(source).header()
        except Exception:
            raise AreaError(_NO_TILES) from None
        if header["tile_type"] not in (TileType.PNG, TileType.JPEG, TileType.WEBP):
            raise AreaError("the file holds no tiles of pictures (PNG, JPEG or WebP); draw vector tiles to such first")
        try:
            _check(header, path.stat().st_size)
            (zoom, _, _), first = next(all_tiles(source))
        except Exception:
            raise AreaError(_NO_TILES) from None
    if not (header["min_zoom"] <= zoom <= header["max_zoom"] and is_picture(first)):
        raise AreaError(_NO_TILES)
    west, south, east, north = (header[name] / 1e7 for name in ("min_lon_e7", "min_lat_e7", "max_lon_e7", "max_lat_e7"))
    bounds = Polygon.from_bbox((west, south, east, north))
    bounds.srid = 4326
    return _Seen(MapFile.Kind.TILES, bounds, header["min_zoom"], header["max_zoom"])


def _check(header: dict[str, Any], size: int) -> None:
    """Raises ValueError for a header that tells of places outside the file, or of zooms and bounds that no map has."""
    for part in ("root", "metadata", "leaf_directory", "tile_data"):
        if header[f"{part}_offset"] + header[f"{part}_length"] > size:
            raise ValueError(f"{part} lies outside")
    sides = [header[name] / 1e7 for name in ("min_lon_e7", "min_lat_e7", "max_lon_e7", "max_lat_e7")]
    if not (-180 <= sides[0] < sides[2] <= 180 and -90 <= sides[1] < sides[3] <= 90):
        raise ValueError("its bounds are none")
    if not 0 <= header["min_zoom"] <= header["max_zoom"] <= _CLOSEST or header["root_length"] > _LONGEST_ROOT:
        raise ValueError("its zooms are none")


def bring_map_file(path: Path, name: str, credit: str, user: User | None, *, is_elevation: bool = False) -> MapFile:
    """Keep a file of the map. Elevations tell the parcels that they cover their height and slope. Raises AreaError."""
    named = " ".join(name.split())[:120]
    if not named:
        raise AreaError("the file has no name yet; give it one")
    seen = _look_at(path, is_elevation=is_elevation)
    folder = Path(settings.MAP_FILES)
    folder.mkdir(parents=True, exist_ok=True)
    kept = f"{secrets.token_hex(8)}{'.pmtiles' if seen.kind is MapFile.Kind.TILES else '.tif'}"
    shutil.copyfile(path, folder / kept)
    with transaction.atomic():
        file = MapFile.objects.create(
            kind=seen.kind, name=named, credit=" ".join(credit.split())[:200], file=kept, bounds=seen.bounds, lowest_zoom=seen.lowest,
            closest_zoom=seen.closest, added_by=user, added_at=now(),
        )  # fmt: skip
        _derive_beneath(file)
    return file


def remove_map_file(file: MapFile) -> None:
    """Take a file out of the map; what was derived from elevations goes with it."""
    with transaction.atomic():
        MapFile.objects.filter(pk=file.pk).update(removed_at=now())
        _derive_beneath(file)
    file.path.unlink(missing_ok=True)


def _derive_beneath(file: MapFile) -> None:
    if file.kind == MapFile.Kind.ELEVATION:
        derive(list(ParcelFacts.objects.filter(place__coveredby=file.bounds).values_list("pk", flat=True)))
