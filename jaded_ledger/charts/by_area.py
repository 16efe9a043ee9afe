"""The medians of a trait by area: where it is dear and where it is cheap."""

from __future__ import annotations

from django.db.models import Count, QuerySet

from jaded_ledger.charts.drawings import (
    BOTTOM,
    FOR_NAMES,
    TOP,
    Box,
    Chart,
    Drawing,
    Tick,
    across,
    marks_of,
    number,
    of_all,
    plain_rows,
    plot_width,
    titled,
)
from jaded_ledger.core.charts.axes import Axis
from jaded_ledger.core.criteria.search import Criterion, Exactly
from jaded_ledger.core.criteria.text import line_text
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.figures import known_of, median_of
from jaded_ledger.find.spread import value_text
from jaded_ledger.records.models import Area, ParcelFacts

AREAS = ("neighborhood", "subdivision", "municipality", "city", "zip", "school-district")
_ROW = 24
_MOST = 25
_DOT = 9


def by_area(matches: QuerySet[ParcelFacts], trait: Trait, place: Trait, parcels: int) -> Chart:
    """Return the medians of a range trait over the matches of each area, of the areas that have most of them."""
    title = f"Median {trait.label} by {place.label}"
    known = known_of(matches, trait).filter(**{f"{place.fact}__isnull": False})
    rows = list(
        known.values(place.fact)
        .annotate(n=Count("pk"), middle=median_of(trait))
        .order_by("-n", place.fact)
        .values_list(place.fact, "n", "middle")
    )
    counted = sum(count for _, count, _ in rows)
    if not rows:
        return Chart(title, (of_all(0, parcels),), ())
    names = _names(pk for pk, _, _ in rows)
    shown = sorted(rows[:_MOST], key=lambda row: (-number(row[2]), names[row[0]]))
    values = [number(middle) for _, _, middle in shown]
    # Amounts begin at nothing; years and days where the first is.
    from_zero = trait.kind in (Kind.MONEY, Kind.PERCENT, Kind.NUMBER) and trait.grouped and min(values) >= 0
    margin = (max(values) - min(values)) * 0.05 or 1.0
    along = Axis(
        0.0 if from_zero else min(values) - margin, max(max(values), 1.0 if from_zero else max(values) + margin), plot_width(FOR_NAMES)
    )
    height = TOP + BOTTOM + _ROW * len(shown)
    boxes = []
    for row, (pk, count, middle) in enumerate(shown):
        top, far = TOP + _ROW * row, along.at(number(middle))
        reads = f"{names[pk]}: {value_text(trait, middle)}, the median of {count:,}"
        adds = line_text(Criterion(place.key, (Exactly(names[pk].partition(" (")[0]),)))
        boxes.append(
            Box(FOR_NAMES, top + 3, far, _ROW - 6, reads, adds)
            if from_zero
            else Box(FOR_NAMES + far - _DOT / 2, top + (_ROW - _DOT) / 2, _DOT, _DOT, reads, adds)
        )
    drawing = Drawing(
        height, f"median {titled(trait)}", place.label, across(marks_of(trait, along, 8), FOR_NAMES), (), tuple(boxes),
        names=tuple(Tick(TOP + _ROW * row + _ROW / 2, names[pk]) for row, (pk, _, _) in enumerate(shown)),
    )  # fmt: skip
    notes = [of_all(counted, parcels)]
    if len(rows) > len(shown):
        notes.append(f"the {_MOST} of {len(rows):,} that have most parcels")
    table = [(names[pk], count, value_text(trait, middle)) for pk, count, middle in rows]
    return Chart(title, tuple(notes), (drawing,), (place.label, "parcels", f"median {trait.label}"), plain_rows(table))


def _names(pks: object) -> dict[int, str]:
    """Return areas' names; where two counties have one of the same name, with its county."""
    found = list(Area.objects.filter(pk__in=list(pks)).select_related("county"))  # type: ignore[call-overload]
    often: dict[str, int] = {}
    for area in found:
        often[area.text] = often.get(area.text, 0) + 1
    return {area.pk: f"{area.text} ({area.county.name})" if often[area.text] > 1 and area.county else area.text for area in found}
