"""Which areas hold most of the matches, and where each lies."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.gis.db.models import Extent
from django.db.models import Count, F, QuerySet

from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.maps.in_view import Degrees, about_outlines
from jaded_ledger.records.models import Area, ParcelFacts, ParcelShape, Street

MOST = 12
_AREAS = ("neighborhood", "subdivision", "city", "zip")
"""Columns of the facts."""
KINDS = ("neighborhood", "block", "subdivision", "city", "zip")
"""By what the matches may be counted. A block is the hundred of house numbers along a street; common practice."""
_HUNDRED = 100


@dataclass(frozen=True)
class Holding:
    """An area, how many matches it holds, and the box about them in degrees; None where none of them has an outline."""

    name: str
    count: int
    box: Degrees | None


def most_matches(matches: QuerySet[ParcelFacts], kind: str) -> list[Holding]:
    """Return the areas of a kind with most matches, or the blocks, the fullest first."""
    return _areas(matches, kind) if kind in _AREAS else _blocks(matches)


def _blocks(matches: QuerySet[ParcelFacts]) -> list[Holding]:
    numbered = matches.filter(street__isnull=False, house_number__isnull=False).order_by()
    counted = numbered.values("street", block=F("house_number") / _HUNDRED).annotate(count=Count("pk"))
    first = list(counted.order_by("-count", "street", "block").values_list("street", "block", "count")[:MOST])
    names = dict(Street.objects.filter(pk__in=[street for street, _, _ in first]).values_list("pk", "text"))
    return [
        Holding(
            f"{block * _HUNDRED or 1} block of {in_reading_case(names[street])}",
            count,
            about_outlines(numbered.filter(street=street, house_number__range=(block * _HUNDRED, block * _HUNDRED + _HUNDRED - 1))),
        )
        for street, block, count in first
    ]


def _areas(matches: QuerySet[ParcelFacts], kind: str) -> list[Holding]:
    counted = matches.filter(**{f"{kind}__isnull": False}).order_by().values(kind).annotate(count=Count("pk"))
    first = list(counted.order_by("-count", kind).values_list(kind, "count")[:MOST])
    names = dict(Area.objects.filter(pk__in=[pk for pk, _ in first]).values_list("pk", "text"))
    inside = matches.filter(**{f"{kind}__in": [pk for pk, _ in first]})
    shapes = ParcelShape.objects.filter(superseded_at=None, parcel__in=inside.values("pk"))
    boxes = dict(shapes.order_by().values(area=F(f"parcel__facts__{kind}")).annotate(box=Extent("outline")).values_list("area", "box"))
    return [Holding(names[pk], count, boxes.get(pk)) for pk, count in first]
