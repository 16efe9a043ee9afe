"""What the page of a worksheet shows, as plain texts: so do its printed form and its versions."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from jaded_ledger.core.deals.expressions import Cell, Unit
from jaded_ledger.core.deals.figures import axis_steps, is_missed, sensitivity
from jaded_ledger.core.deals.inputs import INPUTS, Exit
from jaded_ledger.core.deals.known import Given, Origin
from jaded_ledger.core.deals.reading import figure_text, typed_text, wanted_text, why_none
from jaded_ledger.core.deals.sheet import ExitSheet, Goal, Line, Side
from jaded_ledger.core.deals.verdict import Verdict, cautions, headline, judged
from jaded_ledger.deals.strip import strip_of
from jaded_ledger.deals.worksheets.computed import Computed
from jaded_ledger.deals.worksheets.years import years_of

_AFFIXES = {
    Unit.MONEY: ("$", ""), Unit.PERCENT: ("", " %"), Unit.MONTHS: ("", " months"), Unit.YEARS: ("", " y"), Unit.SQUARE_FEET: ("", " sq ft"),
    Unit.FEET: ("", " ft"), Unit.RATIO: ("", ""), Unit.COUNT: ("", ""), Unit.YEAR: ("", ""),
}  # fmt: skip
GOAL = "price-for:"
"""Begins the key of a solved price."""


@dataclass(frozen=True)
class Field:
    """An input as it stands in its field: by which name it is sent, what is typed in it, and whose word it is."""

    name: str
    label: str
    typed: str
    unit: Unit
    origin: str = ""
    said: str = ""
    meaning: str = ""

    @property
    def hint(self) -> str:
        """What is to be said of it in a word or two, and what it means."""
        told = f"{self.label}: {self.origin}" if self.origin else self.label
        return ". ".join(filter(None, (told + (f", {self.said}" if self.said else ""), self.meaning[:1].upper() + self.meaning[1:])))

    @property
    def prefix(self) -> str:
        return _AFFIXES[self.unit][0]

    @property
    def suffix(self) -> str:
        return _AFFIXES[self.unit][1]

    @property
    def size(self) -> int:
        return max(len(self.typed), 2)


@dataclass(frozen=True)
class Figure:
    """A figure as it is shown: its text, and why there is none. Its key opens it to its arithmetic."""

    key: str
    label: str
    text: str
    why: str = ""
    sign: str = ""


@dataclass(frozen=True)
class ShownLine:
    """A line of an account: words and fields, the amount on its side, and whose word it rests on."""

    parts: tuple[str | Field, ...]
    side: Side
    figure: Figure
    field: Field | None
    origin: str
    said: str


@dataclass(frozen=True)
class ShownGoal:
    """What is wanted, with the price that gives it; None where no price does. Its key opens the price to its arithmetic."""

    key: str
    words: str
    price: str
    is_missed: bool | None


@dataclass(frozen=True)
class ShownExit:
    """An exit as the page shows it."""

    key: str
    label: str
    badge: str
    works: bool | None
    lines: tuple[ShownLine, ...]
    main: Figure
    results: tuple[Figure, ...]
    goals: tuple[ShownGoal, ...]
    further: tuple[Field, ...]


def field_of(found: Computed, cell: Cell) -> Field:
    """Return an input as its field."""
    given = found.figures.given.get(cell.key, Given(np.nan, Origin.ASSUMED))
    value = None if np.isnan(given.value) else float(given.value)
    meaning = INPUTS[cell.key].meaning
    return Field(f"input:{cell.key}", cell.label, typed_text(value, cell.unit), cell.unit, str(given.origin), given.said, meaning)


def figure_of(found: Computed, cell: Cell) -> Figure:
    """Return a figure as it is shown."""
    value = found.figures.number(cell)
    sign = "" if value is None or cell.unit is not Unit.MONEY else "less" if value < 0 else "more"
    return Figure(cell.key, cell.label, figure_text(value, cell.unit), why_none(cell, found.figures.values), sign)


def _line(found: Computed, line: Line) -> ShownLine:
    parts = tuple(field_of(found, part) if isinstance(part, Cell) else part for part in line.parts)
    fields = [part for part in parts if isinstance(part, Field)]
    own = field_of(found, line.cell) if line.cell.is_input and line.cell.key in INPUTS else None
    told = [*fields, *([own] if own else [])]
    origin, said = _told(found, line.cell, told)
    return ShownLine(parts, line.side, figure_of(found, line.cell), own, origin, said)


def _told(found: Computed, cell: Cell, fields: Iterable[Field]) -> tuple[str, str]:
    """Return whose word a line rests on: the user's, where any of it is; and what there is to say of each of its fields."""
    told = list(fields)
    if cell.key.startswith("gross."):
        return _rents_told(found)
    if not told:
        return "", ""
    origins = [one.origin for one in told]
    origin = str(Origin.YOURS) if Origin.YOURS in origins else origins[0]
    return origin, "; ".join(f"{one.label}: {one.origin}{', ' + one.said if one.said else ''}" for one in told)


def _rents_told(found: Computed) -> tuple[str, str]:
    if found.figures.worksheet.units is not None:
        return str(Origin.YOURS), "the rents of each unit stand below"
    known = [value for value in (found.record.rent_in_place, found.record.rent_potential) if not np.isnan(value)]
    return (str(Origin.RECORDED), "as let, asked or stated") if known else (str(Origin.ESTIMATED), "the area's median rents")


def _goal(found: Computed, goal: Goal) -> ShownGoal:
    price = found.figures.solved(goal.gap, "price")
    words = f"{wanted_text(found.figures.number(goal.wanted), goal.wanted.unit)} {goal.words}"
    return ShownGoal(
        f"{GOAL}{goal.key}", words, figure_text(price, Unit.MONEY) if price is not None else "none", is_missed(found.figures, goal)
    )


def _badge(found: Computed, verdict: Verdict) -> str:
    price = figure_text(found.figures.number(found.figures.sheet.input("price")), Unit.MONEY)
    if verdict.works:
        return f"works at {price}"
    if verdict.works is None:
        return "not known"
    return f"needs {figure_text(verdict.price, Unit.MONEY)}" if verdict.price else "no price does"


def shown_exit(found: Computed, one: ExitSheet, verdict: Verdict) -> ShownExit:
    """Return an exit as it is shown. What no line shows is among its further assumptions."""
    visible = [line for line in one.lines if not (line.is_optional and found.figures.number(line.cell) == 0)]
    hidden = [part for line in one.lines if line not in visible for part in (line.cell, *line.parts) if isinstance(part, Cell)]
    on_lines = {part.key for line in visible for part in (line.cell, *line.parts) if isinstance(part, Cell)}
    further = {cell.key: cell for cell in (*hidden, *one.further) if cell.key in INPUTS and cell.key not in on_lines}
    return ShownExit(
        str(one.exit), one.exit.label, _badge(found, verdict), verdict.works, tuple(_line(found, line) for line in visible),
        figure_of(found, one.main), tuple(figure_of(found, cell) for cell in one.results), tuple(_goal(found, goal) for goal in one.goals),
        tuple(field_of(found, cell) for cell in further.values()),
    )  # fmt: skip


@dataclass(frozen=True)
class Asked:
    """Which table of what changes is asked: a figure down, one across, and the result in it."""

    down: str = ""
    across: str = ""
    of: str = ""


def axes_of(found: Computed) -> dict[str, Cell]:
    """Return the figures that a table of what changes can have at its sides: every known input of the exits, and the repairs."""
    keys = [key for key in INPUTS if key in found.figures.sheet.cells]
    cells = {key: found.figures.sheet.cells[key] for key in ("repairs", *keys) if key in found.figures.sheet.cells}
    return {key: cell for key, cell in cells.items() if found.figures.number(cell) is not None}


def results_of(found: Computed) -> dict[str, tuple[ExitSheet, Cell]]:
    """Return the results that such a table can be of, by their keys, each with its exit."""
    cells: dict[str, tuple[ExitSheet, Cell]] = {}
    for one in found.figures.exits:
        projection = found.figures.projections.get(one.exit)
        over_years = (projection.rate, projection.worth) if projection else ()
        cells |= {cell.key: (one, cell) for cell in (one.main, *one.results, *over_years)}
    return cells


def if_wrong(found: Computed, asked: Asked) -> dict[str, Any]:
    """Return the table of a result for pairs of two figures' values, with what can be chosen for each."""
    axes, results = axes_of(found), results_of(found)
    first = found.figures.exits[0]
    usual = _usual_axes(first)
    down = axes.get(asked.down) or next((axes[key] for key in usual if key in axes), None)
    across = axes.get(asked.across) or next((axes[key] for key in usual if key in axes and axes[key] is not down), None)
    exit_, result = results.get(asked.of, (first, first.main))
    choices = {
        "axes": [(key, cell.label) for key, cell in axes.items()],
        "results": [(key, f"{one.exit.label}: {cell.label}") for key, (one, cell) in results.items()],
        "of": result.key, "exit": exit_.exit.label, "label": result.label,
    }  # fmt: skip
    if down is None or across is None:
        return choices | {"rows": []}
    downs, acrosses = axis_steps(found.figures, down, count=2), axis_steps(found.figures, across, count=1)
    if downs is None or acrosses is None:
        return choices | {"rows": []}
    table = sensitivity(found.figures, result, (down, downs), (across, acrosses))
    rows = [
        (wanted_text(value, down.unit), [(figure_text(one, result.unit), _sign(one)) for one in row], value == downs[2])
        for value, row in zip(downs, table, strict=True)
    ]
    heads = [(wanted_text(value, across.unit), value == acrosses[1]) for value in acrosses]
    return choices | {
        "down": down.key, "across": across.key, "down_label": down.label, "across_label": across.label, "heads": heads, "rows": rows,
    }  # fmt: skip


def _sign(value: float | None) -> str:
    return "" if value is None else "less" if value < 0 else "more"


def _usual_axes(exit_: ExitSheet) -> tuple[str, ...]:
    if exit_.exit in (Exit.RENTAL, Exit.REFINANCE):
        return ("price", "rental.change")
    return {Exit.SPLIT: ("split.value-each", "price"), Exit.TITLES: ("titles.value-each", "repairs")}.get(exit_.exit, ("repairs", "arv"))


def _comps(found: Computed) -> dict[str, Any] | None:
    comps = found.comps
    if comps is None:
        return None
    out = sum(not comp.is_in for comp in comps.comps)
    strip = strip_of(comps)
    title = f"{len(comps.chosen)} in" + (f" and {out} out" if out else "")
    return {"title": title, "strip": strip, "lines": ", ".join(map(str, comps.lines)), "of_set": comps.of_set}


def seller_of(found: Computed) -> dict[str, Any]:
    """Return the seller's account as it is shown."""
    values, payoffs = found.seller.values, {f"payoff.{one.key}": one for one in found.seller.payoffs}
    rows = []
    for line in found.seller.lines:
        value = values.number(line.cell)
        if line.is_optional and value == 0:
            continue
        payoff = payoffs.get(line.cell.key)
        field = None
        if payoff:
            origin = (
                Origin.YOURS
                if payoff.key in found.figures.worksheet.payoffs
                else Origin.ESTIMATED
                if "scheduled" in payoff.said
                else Origin.RECORDED
            )
            field = Field(f"payoff:{payoff.key}", payoff.label, typed_text(value, Unit.MONEY), Unit.MONEY, str(origin), payoff.said)
        parts = tuple(field_of(found, part) if isinstance(part, Cell) else part for part in line.parts)
        rows.append({
            "parts": parts, "side": str(line.side), "text": figure_text(value, Unit.MONEY), "field": field,
            "said": payoff.said if payoff else "", "label": line.cell.label,
        })  # fmt: skip
    return {
        "rows": rows, "net": figure_text(values.number(found.seller.net), Unit.MONEY), "why": why_none(found.seller.net, values),
        "concessions": field_of(found, INPUTS["seller.concessions"].cell),
    }  # fmt: skip


def units_of(found: Computed) -> list[dict[str, Any]]:
    """Return the rent roll as it is shown."""
    is_own = found.figures.worksheet.units is not None
    rows = []
    for place, unit in enumerate(found.figures.building.units, 1):

        def field(name: str, value: float | None, unit_: Unit = Unit.MONEY, place: int = place) -> Field:
            return Field(f"unit:{place}:{name}", f"{name} of unit {place}", typed_text(value, unit_), unit_)

        rows.append({
            "place": place, "unit": unit, "name": unit.name or "", "rent": field("rent", unit.rent), "market": field("market", unit.market),
            "subsidy": field("subsidy", unit.subsidy), "standard": field("standard", unit.standard),
            "leaves": field("leaves", unit.leaves, Unit.YEARS),
            "area": field("area", unit.area, Unit.SQUARE_FEET), "value": field("value", unit.value),
            "second_exit": {True: "true", False: "false", None: ""}[unit.second_exit], "is_own": is_own,
            "gain": figure_text(12 * (unit.market - unit.rent), Unit.MONEY) if unit.market is not None and unit.rent is not None else "·",
        })  # fmt: skip
    return rows


def repairs_of(found: Computed) -> dict[str, Any]:
    """Return repairs item by item with their bids, and the building's systems, as they are shown."""
    items = []
    for place, row in enumerate(found.figures.building.repairs, 1):
        bids = [
            {"place": at, "by": bid.by, "amount": typed_text(bid.amount, Unit.MONEY), "is_taken": row.taken == at}
            for at, bid in enumerate(row.bids, 1)
        ]
        items.append({
            "place": place, "what": row.what, "amount": typed_text(row.amount, Unit.MONEY), "bids": bids, "next": len(bids) + 1,
            "cost": figure_text(row.cost, Unit.MONEY), "is_own": row.taken is None,
        })  # fmt: skip
    year = found.findings.today.year
    systems = []
    for one in found.figures.building.systems:
        past, told = one.past_life(year), found.basis.system_years.get(one.kind)
        recorded = next((row for row in found.recorded.systems if row.kind == one.kind), None)
        word = Origin.YOURS if recorded and recorded.year != one.year else Origin.RECORDED if told else ""
        systems.append({
            "kind": str(one.kind), "label": one.usual.label, "year": typed_text(one.year, Unit.YEAR), "origin": str(word),
            "said": told.said if told and word != Origin.YOURS else "", "life": one.usual.life, "is_replaced": one.is_replaced,
            "cost": typed_text(one.usual.cost if one.cost is None else one.cost, Unit.MONEY),
            "standing": "not known" if past is None else f"{past} y past its life" if past > 0 else f"{-past} y left",
        })  # fmt: skip
    repairs = found.figures.sheet.repairs
    return {"items": items, "systems": systems, "total": figure_of(found, repairs), "by": str(found.figures.worksheet.repairs_by)}


def shown(found: Computed, asked: Asked) -> dict[str, Any]:
    """Return all that the page of a worksheet shows of its figures."""
    verdicts = [judged(found.figures, one) for one in found.figures.exits]
    pairs = zip(found.figures.exits, verdicts, strict=True)
    return {
        "exits": [shown_exit(found, one, verdict) for one, verdict in pairs],
        "headline": headline(found.figures, verdicts), "verdicts": verdicts, "cautions": cautions(found.figures),
        "wrong": if_wrong(found, asked), "comps": _comps(found), "seller": seller_of(found), "units": units_of(found),
        "repairs": repairs_of(found), "rents": str(found.figures.worksheet.rents), "years": years_of(found),
        "hold": [field_of(found, INPUTS[key].cell) for key in INPUTS if key.startswith("hold.")],
        "addable": [(str(one), one.label) for one in Exit if one not in found.figures.worksheet.exits],
        "gross": {str(cell.key): figure_of(found, cell) for cell in _rolls(found)},
    }  # fmt: skip


def _rolls(found: Computed) -> list[Cell]:
    cells: Mapping[str, Cell] = found.figures.sheet.cells
    return [cells[key] for key in ("gross.today", "gross.market", "gross.subsidy", "gain", "gain.cost", "gain.months") if key in cells]
