"""How a trait is distributed over the matches: bars between round ends, or a bar for each of the commonest values."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from django.db.models import QuerySet

from jaded_ledger.charts.drawings import (
    BOTTOM,
    FOR_NAMES,
    LEFT,
    TOP,
    Box,
    Chart,
    Drawing,
    Tick,
    across,
    counts_of,
    of_all,
    plain_rows,
    plot_width,
    titled,
    upward,
)
from jaded_ledger.core.criteria.search import Criterion, Exactly, Match, Members, Named, Quantity, Value
from jaded_ledger.core.criteria.text import line_text
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.spread import Spread, spread_of, value_text
from jaded_ledger.find.value_counts import commonest_names, value_counts
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import FEW

HEIGHT = 380
_ROW = 24
_MOST_VALUES = 20
_MOST_MARKS = 9
_GAP = 1


def may_be_distributed(trait: Trait) -> bool:
    """Return whether a trait's values can be counted: all but running text and what each parcel has for itself alone."""
    return trait.is_range or trait.kind in FEW or trait.kind is Kind.NAME


def distribution(matches: QuerySet[ParcelFacts], trait: Trait, parcels: int, opening: QuerySet[ParcelFacts] | None = None) -> Chart:
    """Return how a trait is distributed over so many matches; with ``opening`` beside how it is over all parcels, both in percent."""
    return _of_figures(matches, trait, parcels, opening) if trait.is_range else _of_values(matches, trait, parcels, opening)


def _share(count: int, known: int) -> float:
    return 100 * count / known if known else 0.0


def _of_figures(matches: QuerySet[ParcelFacts], trait: Trait, parcels: int, opening: QuerySet[ParcelFacts] | None) -> Chart:
    spread = spread_of(matches, trait)
    title = f"Distribution of {trait.label}"
    if spread is None:
        return Chart(title, (of_all(0, parcels),), ())
    beside = spread_of(opening, trait, spread.edges) if opening is not None else None
    drawn = [_heights(spread, beside is not None)] + ([_heights(beside, is_share=True)] if beside else [])
    tall, marks = counts_of(max(map(max, drawn)), HEIGHT - TOP - BOTTOM, is_share=beside is not None)
    width = plot_width() / len(spread.counts)

    def boxes(of: Spread, heights: Sequence[float]) -> tuple[Box, ...]:
        found = []
        for place, (count, height) in enumerate(zip(of.counts, heights, strict=True)):
            low, high = spread.typed(place)
            reads = f"{trait.label} {spread.reads(place)}: {count:,} ({_share(count, of.known):.1f} %)"
            up = tall.at(height)
            found.append(Box(round(LEFT + place * width, 2), HEIGHT - BOTTOM - up, round(width - _GAP, 2), up, reads, "add", low, high))
        return tuple(found)

    drawing = Drawing(
        HEIGHT, titled(trait), "percent of those known" if beside else "parcels", _edges(spread, width), upward(marks, HEIGHT),
        boxes(spread, drawn[0]), boxes(beside, drawn[1]) if beside else (),
    )  # fmt: skip
    head = (trait.label, "parcels", "percent") + (("all parcels", "percent of all") if beside else ())
    rows = [
        (spread.reads(place), count, f"{_share(count, spread.known):.1f}",
         *((beside.counts[place], f"{_share(beside.counts[place], beside.known):.1f}") if beside else ()))
        for place, count in enumerate(spread.counts)
    ]  # fmt: skip
    notes = [of_all(spread.known, parcels), f"from {value_text(trait, spread.least)} to {value_text(trait, spread.most)}"]
    if beside:
        notes.append(f"outlined: all {beside.known:,} parcels of the opening of which it is known")
    return Chart(title, tuple(notes), (drawing,), head, plain_rows(rows), "x")


def _heights(spread: Spread, is_share: bool) -> list[float]:
    return [_share(count, spread.known) if is_share else float(count) for count in spread.counts]


def _edges(spread: Spread, width: float) -> tuple[Tick, ...]:
    """Return the marks beneath the bars, as many as can be read: the ends of bars, or the middle of those that are of one number."""
    if spread.is_by_value:
        places = range(len(spread.counts))
        return across(((place + 0.5) * width, spread.mark(place)) for place in places[:: max(1, -(-len(places) // _MOST_MARKS))])
    every = range(1, len(spread.counts))
    step = max(1, -(-len(every) // _MOST_MARKS))
    return across((place * width, value_text(spread.trait, spread.edges[place])) for place in every[::step])


def _counts(parcels: QuerySet[ParcelFacts], trait: Trait) -> Counter[str]:
    if trait.kind is Kind.NAME:
        return Counter(dict(commonest_names(parcels, trait, _MOST_VALUES)))
    return value_counts(parcels, trait)


def _criterion(trait: Trait, text: str) -> str:
    value: Value = Exactly(text)
    if trait.kind is Kind.NAME:
        value = Named(text, Match.EXACT)
    elif trait.kind is Kind.SET:
        value = Members(Quantity.ANY, (text,))
    elif trait.kind is Kind.FLAG:
        value = Exactly(text == "yes")
    return line_text(Criterion(trait.key, (value,)))


def _of_values(matches: QuerySet[ParcelFacts], trait: Trait, parcels: int, opening: QuerySet[ParcelFacts] | None) -> Chart:
    counts = _counts(matches, trait)
    every = sum(counts.values())
    shown = counts.most_common(_MOST_VALUES)
    title = f"{'Commonest values' if len(counts) > len(shown) or trait.kind is Kind.NAME else 'Values'} of {trait.label}"
    if not shown:
        return Chart(title, (of_all(0, parcels),), ())
    beside = value_counts(opening, trait) if opening is not None and trait.kind is not Kind.NAME else None
    of_all_parcels = sum(beside.values()) if beside else 0
    height = TOP + BOTTOM + _ROW * len(shown)
    lengths = [_share(count, every) if beside is not None else float(count) for _, count in shown]
    others = [_share(beside[value], of_all_parcels) for value, _ in shown] if beside is not None else []
    along, marks = counts_of(max([*lengths, *others]), plot_width(FOR_NAMES), is_share=beside is not None)

    def boxes(of: Sequence[float]) -> tuple[Box, ...]:
        return tuple(
            Box(FOR_NAMES, TOP + _ROW * place + 3, along.at(length), _ROW - 6, f"{value}: {count:,}", _criterion(trait, value))
            for place, ((value, count), length) in enumerate(zip(shown, of, strict=True))
        )

    drawing = Drawing(
        height, "percent of those known" if beside is not None else "parcels", titled(trait), across(marks, FOR_NAMES), (), boxes(lengths),
        boxes(others) if others else (),
        names=tuple(Tick(TOP + _ROW * place + _ROW / 2, value) for place, (value, _) in enumerate(shown)),
    )  # fmt: skip
    known = every if trait.kind in FEW and trait.kind is not Kind.SET else min(every, parcels)
    notes = [of_all(known, parcels)] if trait.kind is not Kind.NAME else [f"the {len(shown)} commonest"]
    if len(counts) > len(shown):
        notes.append(f"the {len(shown)} commonest of {len(counts):,}; the others together {every - sum(count for _, count in shown):,}")
    head = (trait.label, "parcels", "percent") + (("all parcels", "percent of all") if beside is not None else ())
    rows = [
        (
            value,
            count,
            f"{_share(count, every):.1f}",
            *((beside[value], f"{_share(beside[value], of_all_parcels):.1f}") if beside is not None else ()),
        )
        for value, count in counts.most_common(200)
    ]
    return Chart(title, tuple(notes), (drawing,), head, plain_rows(rows), "")
