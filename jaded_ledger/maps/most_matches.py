"""Which areas hold most of the matches, and where each lies."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.gis.db.models import Extent
from django.db.models import Count, F, QuerySet

from jaded_ledger.maps.in_view import Degrees
from jaded_ledger.records.models import Area, ParcelFacts, ParcelShape

MOST = 12
KINDS = ("neighborhood", "subdivision", "city", "zip")
"""By which areas the matches may be counted: columns of the facts."""


@dataclass(frozen=True)
class Holding:
    """An area, how many matches it holds, and the box about them in degrees; None where none of them has an outline."""

    name: str
    count: int
    box: Degrees | None


def most_matches(matches: QuerySet[ParcelFacts], kind: str) -> list[Holding]:
    """Return the areas of a kind with most matches, the fullest first."""
    counted = matches.filter(**{f"{kind}__isnull": False}).order_by().values(kind).annotate(count=Count("pk"))
    first = list(counted.order_by("-count", kind).values_list(kind, "count")[:MOST])
    names = dict(Area.objects.filter(pk__in=[pk for pk, _ in first]).values_list("pk", "text"))
    inside = matches.filter(**{f"{kind}__in": [pk for pk, _ in first]})
    shapes = ParcelShape.objects.filter(superseded_at=None, parcel__in=inside.values("pk"))
    boxes = dict(shapes.order_by().values(area=F(f"parcel__facts__{kind}")).annotate(box=Extent("outline")).values_list("area", "box"))
    return [Holding(names[pk], count, boxes.get(pk)) for pk, count in first]
