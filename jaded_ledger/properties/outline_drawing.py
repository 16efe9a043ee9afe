"""A parcel drawn from its geometry: its sides with their lengths, its neighbors, and what runs past it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from django.contrib.gis.db.models import GeometryField
from django.contrib.gis.db.models.functions import Area
from django.contrib.gis.geos import MultiPolygon, Polygon
from django.db.models.functions import Cast

from jaded_ledger.core.ground import Layer
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.outlines import Ground, Point, Side, ground_at, sides
from jaded_ledger.records.models import MapFeature, Parcel, ParcelFacts, ParcelShape

WIDTH, HEIGHT = 392, 172
_BESIDE, _ABOVE = 62, 28
"""Room beside and above a parcel for its lengths and a strip of the neighbors, in pixels."""
_MOST = 60
_SHORTEST_LABELED = 0.05
"""Sides shorter than this share of the way round are drawn without their length: they would be written over each other."""
_GAP = 6
_LINE = 12


@dataclass(frozen=True)
class Text:
    """A word at a place of the picture, in pixels."""

    x: float
    y: float
    text: str

    @property
    def reach(self) -> float:
        """Half its width, in pixels, in the drawing's small type."""
        return 3.2 * len(self.text) + 2

    def is_clear_of(self, others: Iterable[Text]) -> bool:
        """Whether it can be read beside others, and lies inside the picture."""
        if not (self.reach < self.x < WIDTH - self.reach and 12 < self.y < HEIGHT - 3):
            return False
        return all(abs(self.x - other.x) > self.reach + other.reach or abs(self.y - other.y) > _LINE for other in others)


@dataclass(frozen=True)
class Neighbor:
    """Another parcel: its outline, its house number, and its page."""

    parcel_id: int
    path: str
    label: Text | None
    name: str


@dataclass(frozen=True)
class Way:
    """A road, a rail or a shore that runs past."""

    path: str
    layer: str
    is_area: bool
    name: str


@dataclass(frozen=True)
class OutlineDrawing:
    """The picture, in pixels of its own box."""

    path: str
    number: Text
    lengths: tuple[Text, ...]
    neighbors: tuple[Neighbor, ...]
    ways: tuple[Way, ...]
    square_feet: float
    width: int = WIDTH
    height: int = HEIGHT


@dataclass(frozen=True)
class _Frame:
    """From feet on the ground to pixels of the picture, north up."""

    ground: Ground
    scale: float
    middle: Point

    def pixel(self, point: Point) -> Point:
        return (
            round(WIDTH / 2 + (point[0] - self.middle[0]) * self.scale, 1),
            round(HEIGHT / 2 - (point[1] - self.middle[1]) * self.scale, 1),
        )

    def path(self, lines: Iterable[Sequence[Sequence[float]]], *, closed: bool) -> str:
        """Return lines of positions as an SVG path."""
        parts = []
        for line in lines:
            pixels = " L".join(f"{x:g} {y:g}" for x, y in (self.pixel(self.ground.point(position)) for position in line))
            parts.append(f"M{pixels}{'Z' if closed else ''}")
        return "".join(parts)


def _rings(outline: MultiPolygon) -> list[Sequence[Sequence[float]]]:
    return [ring for part in outline.coords for ring in part]


def _frame(outline: MultiPolygon) -> _Frame:
    ground = ground_at((outline.centroid.x, outline.centroid.y))
    points = [ground.point(position) for ring in _rings(outline) for position in ring]
    (west, east), (south, north) = ((min(axis), max(axis)) for axis in zip(*points, strict=True))
    scale = min((WIDTH - 2 * _BESIDE) / max(east - west, 1.0), (HEIGHT - 2 * _ABOVE) / max(north - south, 1.0))
    return _Frame(ground, scale, ((west + east) / 2, (south + north) / 2))


def _length(side: Side, inside: Point, frame: _Frame) -> Text:
    """Place a side's length beside its middle, on the outer side."""
    (x1, y1), (x2, y2) = frame.pixel(side.start), frame.pixel(side.end)
    x, y = (x1 + x2) / 2, (y1 + y2) / 2
    run = math.hypot(x2 - x1, y2 - y1) or 1.0
    out = ((y1 - y2) / run, (x2 - x1) / run)
    center = frame.pixel(inside)
    if (x - center[0]) * out[0] + (y - center[1]) * out[1] < 0:
        out = (-out[0], -out[1])
    text = f"{side.length:,.1f} ft"
    # A word is wider than high.
    away = _GAP + Text(x, y, text).reach * abs(out[0])
    return Text(round(x + out[0] * away, 1), round(y + out[1] * away + 4, 1), text)


def _window(frame: _Frame) -> Polygon:
    """Return the ground that the picture shows."""
    east, north = WIDTH / 2 / frame.scale, HEIGHT / 2 / frame.scale
    origin, ground = frame.ground.origin, frame.ground
    middle = (origin[0] + frame.middle[0] / ground.east, origin[1] + frame.middle[1] / ground.north)
    return Polygon.from_bbox(
        (middle[0] - east / ground.east, middle[1] - north / ground.north, middle[0] + east / ground.east, middle[1] + north / ground.north)
    )


def _neighbors(parcel: Parcel, frame: _Frame, window: Polygon, written: Iterable[Text]) -> Iterator[Neighbor]:
    """Yield the parcels around; a house number that would be written over another word is left out."""
    taken = list(written)
    shapes = (
        ParcelShape.objects.filter(superseded_at=None, outline__bboverlaps=window, parcel__retired_on=None, parcel__parent=None)
        .exclude(parcel__in=[pk for pk in (parcel.pk, parcel.parent_id) if pk])
        .select_related("parcel", "parcel__facts", "parcel__facts__address")
        # Of the facts' many columns these two.
        .only("outline", "parcel__number", "parcel__facts__house_number", "parcel__facts__address")[:_MOST]
    )
    for shape in shapes:
        inside = shape.outline.intersection(window)
        facts = getattr(shape.parcel, "facts", None)
        label = None
        if facts and facts.house_number and not inside.empty:
            x, y = frame.pixel(frame.ground.point(inside.point_on_surface.coords))
            word = Text(x, y + 4, str(facts.house_number))
            if word.is_clear_of(taken):
                label = word
                taken.append(word)
        name = (facts.street_line if facts else "") or shape.parcel.number
        yield Neighbor(shape.parcel_id, frame.path(_rings(shape.outline), closed=True), label, name)


def _ways(parcel: Parcel, frame: _Frame, window: Polygon) -> Iterable[Way]:
    features = MapFeature.objects.filter(county=parcel.county, superseded_at=None, geometry__bboverlaps=window)
    for feature in features.exclude(layer=Layer.FLOOD_ZONE).order_by("id"):
        seen = feature.geometry.intersection(window)
        if seen.empty:
            continue
        is_area = seen.geom_type in ("Polygon", "MultiPolygon")
        if is_area:
            lines = [ring for part in (seen.coords if seen.geom_type == "MultiPolygon" else [seen.coords]) for ring in part]
        else:
            lines = list(seen.coords) if seen.geom_type == "MultiLineString" else [seen.coords] if seen.geom_type == "LineString" else []
        yield Way(frame.path(lines, closed=is_area), feature.layer, is_area, in_reading_case(feature.name))


def draw_outline(parcel: Parcel, shape: ParcelShape) -> OutlineDrawing:
    """Draw a parcel's outline in the middle of what lies around it."""
    outline = shape.outline
    frame = _frame(outline)
    window = _window(frame)
    inside = frame.ground.point(outline.point_on_surface.coords)
    ring = max((part[0] for part in outline.coords), key=len)
    found = sides([frame.ground.point(position) for position in ring])
    around = sum(side.length for side in found)
    house_number = ParcelFacts.objects.filter(parcel=parcel).values_list("house_number", flat=True).first()
    x, y = frame.pixel(inside)
    number = Text(x, y + 4, str(house_number or ""))
    lengths = tuple(_length(side, inside, frame) for side in found if side.length >= _SHORTEST_LABELED * around)
    return OutlineDrawing(
        path=frame.path(_rings(outline), closed=True),
        number=number,
        lengths=lengths,
        neighbors=tuple(_neighbors(parcel, frame, window, (number, *lengths))),
        ways=tuple(_ways(parcel, frame, window)),
        square_feet=_square_feet(shape),
    )


def _square_feet(shape: ParcelShape) -> float:
    """Return the area of an outline on the ellipsoid, as PostGIS computes it."""
    measured = ParcelShape.objects.annotate(ground=Area(Cast("outline", GeometryField(geography=True)))).get(pk=shape.pk)
    return float(measured.ground.sq_ft)
