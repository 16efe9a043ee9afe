"""A county's books: one file for each kind of record, written as they are told, in the forms that counties send."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections import Counter
from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import Any, Protocol

import shapefile
from openpyxl import Workbook

from jaded_ledger.demo.ground import Feature, Placed
from jaded_ledger.demo.world import County
from jaded_ledger.intake.kinds import KINDS

WORKBOOKS = ("permits", "violations", "auctions", "vacancies")
"""Towns and clerks send these as spreadsheets."""
_DEGREES = (
    'GEOGCS["WGS 84",DATUM["WGS_1984",SPHEROID["WGS 84",6378137,298.257223563]],PRIMEM["Greenwich",0],UNIT["degree",0.0174532925199433]]'
)


class Book(Protocol):
    """A file open for writing."""

    def enter(self, cells: dict[str, Any]) -> None: ...

    def close(self) -> None: ...


class CsvBook:
    """A CSV with a header."""

    def __init__(self, path: Path, columns: Sequence[str]) -> None:
        self._file = path.open("w", encoding="utf-8", newline="")
        self._rows = csv.writer(self._file)
        self._columns = columns
        self._known = frozenset(columns)
        self._rows.writerow(columns)

    def enter(self, cells: dict[str, Any]) -> None:
        if not cells.keys() <= self._known:
            raise KeyError(cells.keys() - self._known)
        self._rows.writerow([cells.get(column) for column in self._columns])

    def close(self) -> None:
        self._file.close()


class ExcelBook:
    """A workbook of one sheet."""

    def __init__(self, path: Path, columns: Sequence[str]) -> None:
        self._path, self._columns = path, columns
        self._book = Workbook(write_only=True)
        self._sheet = self._book.create_sheet("records")
        self._sheet.append(list(columns))

    def enter(self, cells: dict[str, Any]) -> None:
        self._sheet.append([cells.get(column) for column in self._columns])

    def close(self) -> None:
        self._book.save(self._path)


class GeoJsonBook:
    """A collection of features (RFC 7946)."""

    def __init__(self, path: Path) -> None:
        self._file = path.open("w", encoding="utf-8")
        self._file.write('{"type": "FeatureCollection", "features": [\n')
        self._between = ""

    def enter(self, cells: dict[str, Any]) -> None:
        geometry = cells.pop("geometry")
        self._file.write(self._between + json.dumps({"type": "Feature", "properties": cells, "geometry": geometry}))
        self._between = ",\n"

    def close(self) -> None:
        self._file.write("\n]}\n")
        self._file.close()


class PictureBook:
    """A zip of pictures, in folders named by their listing."""

    def __init__(self, path: Path) -> None:
        self._zip = zipfile.ZipFile(path, "w", zipfile.ZIP_STORED)

    def enter(self, cells: dict[str, Any]) -> None:
        # Always the same moment, so that the same world gives the same file.
        entry = zipfile.ZipInfo(f"{cells['folder']}/{cells['order']:02d} {cells['caption']}.png", (2026, 11, 24, 0, 0, 0))
        self._zip.writestr(entry, cells["image"])

    def close(self) -> None:
        self._zip.close()


class PaperBook:
    """A zip of papers, in folders named by their case."""

    def __init__(self, path: Path) -> None:
        self._zip = zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED)

    def enter(self, cells: dict[str, Any]) -> None:
        name = f"{cells['case_number']}/{cells['filed_on'].isoformat()} {cells['title']}.pdf"
        self._zip.writestr(zipfile.ZipInfo(name, (2026, 11, 24, 0, 0, 0)), cells["paper"], zipfile.ZIP_DEFLATED)

    def close(self) -> None:
        self._zip.close()


class Books:
    """All files of a county, and the counters of its register of deeds and its courts."""

    def __init__(self, folder: Path, county: County, own_columns: Sequence[str]) -> None:
        self.county = county
        self.folder = folder / county.key
        self.folder.mkdir(parents=True, exist_ok=True)
        self._own_columns = own_columns
        self._open: dict[str, Book] = {}
        self._documents: Counter[int] = Counter()
        self._cases: Counter[tuple[int, str]] = Counter()
        self._serial: Counter[str] = Counter()

    def _book(self, kind: str) -> Book:
        columns = KINDS[kind].columns
        if kind in ("parcels", "areas"):
            return GeoJsonBook(self.folder / f"{kind}.geojson")
        if kind == "case-papers":
            return PaperBook(self.folder / "case-papers.zip")
        if kind == "photographs":
            return PictureBook(self.folder / "photographs.zip")
        if kind in WORKBOOKS:
            return ExcelBook(self.folder / f"{kind}.xlsx", columns)
        return CsvBook(self.folder / f"{kind}.csv", (*columns, *self._own_columns) if kind == "roll" else columns)

    def enter(self, kind: str, /, **cells: Any) -> None:
        """Write a row into the file of a kind."""
        book = self._open.get(kind)
        if book is None:
            book = self._open[kind] = self._book(kind)
        book.enter(cells)

    def document(self, day: date) -> str:
        """Return the register's next document number of a year."""
        self._documents[day.year] += 1
        return f"{day.year}-{self._documents[day.year]:06d}"

    def case(self, day: date, letters: str) -> str:
        """Return the court's next case number of a year."""
        self._cases[day.year, letters] += 1
        return f"{day.year}{letters}{self._cases[day.year, letters]:06d}"

    def serial(self, what: str, first: int = 1) -> int:
        """Return the next number of a series."""
        self._serial[what] += 1
        return first - 1 + self._serial[what]

    def is_first(self, what: str) -> bool:
        """Whether this is the first time that something comes up."""
        return self.serial(what) == 1

    def layers(self, features: Sequence[tuple[Feature, Placed]]) -> None:
        """Write map layers as two zipped Shapefiles, for a Shapefile holds lines or areas, not both."""
        for name, is_area, kind in (("lines", False, shapefile.POLYLINE), ("areas", True, shapefile.POLYGON)):
            parts = {ending: io.BytesIO() for ending in ("shp", "shx", "dbf")}
            with shapefile.Writer(**parts, shapeType=kind) as writer:
                for field, width in (("layer", 20), ("number", 40), ("name", 80), ("class_code", 20), ("is_barrier", 3)):
                    writer.field(field, "C", size=width)
                for feature, placed in features:
                    if feature.is_area == is_area:
                        number = f"{feature.layer[:2].upper()}{self.serial(feature.layer):05d}"
                        self._shape(writer, feature, placed)
                        writer.record(
                            feature.layer.value, number, feature.name, feature.feature_class, "yes" if feature.is_barrier else "no"
                        )
            with zipfile.ZipFile(self.folder / f"layers-{name}.zip", "w", zipfile.ZIP_DEFLATED) as files:
                for ending, content in parts.items():
                    files.writestr(zipfile.ZipInfo(f"{name}.{ending}", (2026, 11, 24, 0, 0, 0)), content.getvalue())
                files.writestr(zipfile.ZipInfo(f"{name}.prj", (2026, 11, 24, 0, 0, 0)), _DEGREES)

    @staticmethod
    def _shape(writer: shapefile.Writer, feature: Feature, placed: Placed) -> None:
        if feature.is_area:
            # A Shapefile's outer rings run clockwise.
            writer.poly([placed.ring(feature.points)[::-1]])
        else:
            writer.line([[placed.position(point) for point in feature.points]])

    def close(self) -> None:
        for book in self._open.values():
            book.close()
