"""Worksheets beside one another: all of a team's by stage, with the results that somebody chose, or a few in every figure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import QuerySet

from jaded_ledger.comps.valuation import addresses_of
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.deals.expressions import FigureUnit
from jaded_ledger.core.deals.inputs import INPUTS
from jaded_ledger.core.deals.reading import exact_text, figure_text
from jaded_ledger.records.clock import day_of
from jaded_ledger.worksheets.models import Worksheet, WorksheetVersion
from jaded_ledger.worksheets.models.worksheets import Stage
from jaded_ledger.worksheets.services import title_of

RESULTS: Mapping[str, tuple[str, FigureUnit]] = {
    "price": ("price", FigureUnit.MONEY),
    "arv": ("value after repair", FigureUnit.MONEY),
    "resale.profit": ("profit", FigureUnit.MONEY),
    "resale.return": ("return on cash", FigureUnit.PERCENT),
    "resale.margin": ("margin", FigureUnit.PERCENT),
    "resale.break-even": ("breaks even at", FigureUnit.MONEY),
    "highest-offer": ("highest offer", FigureUnit.MONEY),
    "rental.flow": ("cash flow a year", FigureUnit.MONEY),
    "rental.cap": ("cap rate", FigureUnit.PERCENT),
    "rental.return": ("cash on cash", FigureUnit.PERCENT),
    "rental.cover": ("DSCR", FigureUnit.RATIO),
    "rental.irr": ("IRR", FigureUnit.PERCENT),
    "refinance.left-in": ("cash left in", FigureUnit.MONEY),
    "assignment.profit": ("fee less own costs", FigureUnit.MONEY),
    "split.profit": ("profit of the split", FigureUnit.MONEY),
    "titles.profit": ("profit unit by unit", FigureUnit.MONEY),
    "seller.net": ("net to seller", FigureUnit.MONEY),
}
"""The results that the table of deals can show, with what they are called there."""
USUAL = ("price", "resale.profit", "rental.cap", "rental.return", "seller.net")
MOST_COMPARED = 6


def chosen_results(asked: Sequence[str]) -> list[str]:
    """Return the results that are asked, in the table's order; the usual ones where none is."""
    return [key for key in RESULTS if key in asked] or list(USUAL)


def figure_in(figures: Mapping[str, Any], key: str) -> float | None:
    """Return an input's or a result's figure, as it was remembered."""
    if key in INPUTS:
        return figures.get("inputs", {}).get(key, [None])[0]
    return figures.get("results", {}).get(key)


@dataclass(frozen=True)
class Deal:
    """A worksheet as a row: with its figures as it was last changed, and its latest version, 0 where none was kept."""

    worksheet: Worksheet
    title: str
    version: int
    texts: tuple[str, ...]
    sorts: tuple[float | None, ...]


def deals_of(rows: QuerySet[Worksheet], keys: Sequence[str], sort: str) -> list[tuple[str, list[Deal]]]:
    """Return deals by their stages, in the order of one of the results; what has none stands last."""
    every = list(rows.prefetch_related("versions"))
    addresses = addresses_of([row.parcel_id for row in every])
    found: dict[str, list[Deal]] = {stage: [] for stage in Stage.values}
    for row in every:
        numbers = tuple(figure_in(row.figures, key) for key in keys)
        texts = tuple(figure_text(number, RESULTS[key][1]) for key, number in zip(keys, numbers, strict=True))
        versions = [version.number for version in row.versions.all()]
        title = row.name or addresses.get(row.parcel_id, (row.parcel.number, ""))[0]
        found[row.stage].append(Deal(row, title, max(versions, default=0), texts, numbers))
    name = sort.removeprefix("-")
    if name in keys:
        at = list(keys).index(name)
        for deals in found.values():
            deals.sort(key=lambda deal: deal.sorts[at] or 0.0, reverse=sort.startswith("-"))
            deals.sort(key=lambda deal: deal.sorts[at] is None)
    return [(str(label), found[stage]) for stage, label in Stage.choices if found[stage]]


@dataclass(frozen=True)
class Compared:
    """A worksheet, or a version of it, as a column."""

    title: str
    when: str
    worksheet_id: int
    figures: Mapping[str, Any]


def _day(moment: datetime) -> str:
    """Return the day of a moment where the team is."""
    return day_text(day_of(moment))


def read_compared(text: str, rows: QuerySet[Worksheet]) -> list[Compared]:
    """Return what is compared, from an address: "12,15" for worksheets as they were last changed, "12.1" for a version."""
    found: list[Compared] = []
    for word in text.split(",")[:MOST_COMPARED]:
        pk, _, number = word.strip().partition(".")
        if not pk.isdecimal() or len(pk) > 12:
            continue
        row = rows.filter(pk=int(pk)).first()
        if row is None:
            continue
        title = title_of(row)
        if not number:
            found.append(Compared(title, f"as of {_day(row.changed_at)}", row.pk, row.figures))
        elif number.isdecimal() and len(number) < 6:
            version = WorksheetVersion.objects.filter(worksheet=row, number=int(number)).first()
            if version:
                found.append(Compared(title, f"version {version.number}, {_day(version.kept_at)}", row.pk, version.figures))
    return found


def compared_rows(columns: Sequence[Compared]) -> dict[str, list[tuple[str, list[str], bool]]]:
    """Return the results and the inputs of all columns, side by side; each row says whether its figures differ."""
    labels: dict[str, tuple[str, str]] = {}
    for column in columns:
        labels |= {key: (label, unit) for key, label, unit in column.figures.get("labels", [])}
    results = [(key, label, FigureUnit(unit)) for key, (label, unit) in labels.items()]
    inputs = [(key, one.label, one.unit) for key, one in INPUTS.items()]
    return {"Results": _rows(columns, results), "Inputs": [row for row in _rows(columns, inputs) if row[2]]}


def _rows(columns: Sequence[Compared], what: Sequence[tuple[str, str, FigureUnit]]) -> list[tuple[str, list[str], bool]]:
    rows = []
    for key, label, unit in what:
        numbers = [figure_in(column.figures, key) for column in columns]
        shown = exact_text if key in INPUTS else figure_text
        texts = ["·" if number is None else shown(number, unit) for number in numbers]
        rows.append((label, texts, len(set(texts)) > 1))
    return rows


_RANKED = {
    "resale.profit": "Flip", "rental.return": "Rental", "rental.flow": "Rental", "refinance.left-in": "Refinance",
    "assignment.profit": "Assignment", "split.profit": "Lot split", "titles.profit": "Units sold separately",
}  # fmt: skip
"""By which result deals are put in order, of each exit; the first that all of them have counts."""
_LESS_IS_BETTER = frozenset({"refinance.left-in"})


def first_of(columns: Sequence[Compared]) -> list[str]:
    """Return which deal is first in each exit that all have, and why: "Flip: 12 Quay St first, profit $31,200 against $18,400"."""
    found: dict[str, str] = {}
    for key, exit_ in _RANKED.items():
        numbers = [figure_in(column.figures, key) for column in columns]
        known = [number for number in numbers if number is not None]
        if exit_ in found or len(columns) < 2 or len(known) < len(columns):
            continue
        label, unit = RESULTS.get(key, (key, FigureUnit.MONEY))
        order = sorted(range(len(columns)), key=lambda at: (known[at] if key in _LESS_IS_BETTER else -known[at], at))
        best, next_ = order[0], order[1]
        texts = [figure_text(known[at], unit) for at in (best, next_)]
        if texts[0] == texts[1]:
            found[exit_] = f"{exit_}: alike, {label} {texts[0]}."
        else:
            found[exit_] = f"{exit_}: {columns[best].title} ({columns[best].when}) first, {label} {texts[0]} against {texts[1]}."
    return list(found.values())
