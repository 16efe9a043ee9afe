"""The small map of comps: the subject, what is in and out, the barriers that are on record, and areas that are drawn."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.comps.lines import LineKind, PoolLine
from jaded_ledger.core.words import folded
from jaded_ledger.maps.areas import areas_of
from jaded_ledger.maps.small_map import SmallMap, small_map
from jaded_ledger.records.models import ParcelFacts, ParcelShape

SIZE = (330, 206)


def map_of(about: dict[str, Any], scope: Scope, lines: Sequence[PoolLine] = (), size: tuple[int, int] = SIZE) -> SmallMap | None:
    """Draw the map of what a page of comps shows; None where nothing of it has a place."""
    marks = {comp["parcel_id"]: "sold" if comp["share"] is not None else "refused" for comp in about["comps"]}
    subject = about["subject"]["parcel_id"]
    outlines = list(ParcelShape.objects.filter(parcel_id__in=[subject, *marks], superseded_at=None).values_list("outline", flat=True))
    if not outlines:
        outlines = list(ParcelFacts.objects.filter(pk__in=[subject, *marks], place__isnull=False).values_list("place", flat=True))
    if not outlines:
        return None
    names = {folded(line.name) for line in lines if line.kind in (LineKind.INSIDE, LineKind.OUTSIDE)}
    areas = [(area.geometry, "") for area in areas_of(scope.team).filter(folded__in=names)] if names else []
    count = sum(mark == "sold" for mark in marks.values())
    label = f"Map of {about['subject']['address']} and its comps: {count} included, {len(marks) - count} excluded."
    return small_map(outlines, marks | {subject: "subject"}, areas, size=size, label=label)
