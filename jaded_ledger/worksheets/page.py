"""What the page of a worksheet shows, as plain texts: so do its printed form and its versions."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any
from urllib.parse import urlencode

import numpy as np

from jaded_ledger.comps.strip import strip_of
from jaded_ledger.core.deals.expressions import Cell, FigureUnit, Values, cells_of
from jaded_ledger.core.deals.figures import HELD, axis_steps, is_missed, sensitivity
from jaded_ledger.core.deals.inputs import INPUTS, LOANS, Exit, InputError, checked, read_number
from jaded_ledger.core.deals.known import Given, Origin, rent_today
from jaded_ledger.core.deals.reading import by_period, figure_text, interest_only_words, label_by, typed_text, wanted_text, why_none
from jaded_ledger.core.deals.roll import RentedUnit
from jaded_ledger.core.deals.sheet import ExitSheet, Goal, Line, Side
from jaded_ledger.core.deals.verdict import Verdict, cautions, headline, judged
from jaded_ledger.core.deals.worksheet import Period
from jaded_ledger.web.sentences import sentence_of
from jaded_ledger.worksheets.computed import Computed
from jaded_ledger.worksheets.years import years_of

_AFFIXES = {
    FigureUnit.MONEY: ("$", ""), FigureUnit.MONEY_A_YEAR: ("$", ""),
    FigureUnit.PERCENT: ("", " %"), FigureUnit.MONTHS: ("", " months"), FigureUnit.YEARS: ("", " y"),
    FigureUnit.SQUARE_FEET: ("", " sq ft"),
    FigureUnit.FEET: ("", " ft"), FigureUnit.RATIO: ("", ""), FigureUnit.COUNT: ("", ""), FigureUnit.YEAR: ("", ""),
}  # fmt: skip
_LEAST_CERTAIN = (Origin.RECORDED, Origin.LISTING, Origin.ESTIMATED, Origin.ASSUMED, Origin.YOURS)
"""Whose word a line rests on where its fields differ: the last of these, so that an assumption never passes for a record."""
VALUE = "input:arv"
"""The name of the field of the value after repair."""
GOAL = "price-for:"
"""Begins the key of a solved price."""
_DISCOUNT = "-25k or -12 %"
_SPAN = re.compile(r"\s*(?:\bto\b|\.\.|–|(?<=[0-9km%])\s*-)\s*")
_USUAL_ROWS, _MOST_ROWS = 5, 25


@dataclass(frozen=True)
class Field:
    """An input as it stands in its field: by which name it is sent, what is typed in it, and whose word it is."""

    name: str
    label: str
    typed: str
    unit: FigureUnit
    origin: str = ""
    said: str = ""
    meaning: str = ""
    hint_text: str = ""
    """How it may be typed, shown while nothing is."""

    @property
    def hint(self) -> str:
        """What is to be said of it in a word or two, and what it means."""
        text = f"{self.label}: {self.origin}" if self.origin else self.label
        return ". ".join(filter(None, (text + (f", {self.said}" if self.said else ""), self.meaning[:1].upper() + self.meaning[1:])))

    @property
    def prefix(self) -> str:
        return _AFFIXES[self.unit][0]

    @property
    def suffix(self) -> str:
        return _AFFIXES[self.unit][1]

    @property
    def size(self) -> int:
        return max(len(self.typed), len(self.hint_text), 2)


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
    """A line of an account: words and fields, the amount on its side, whose word it rests on, and what to doubt in it."""

    parts: tuple[str | Field, ...]
    side: Side
    figure: Figure
    field: Field | None
    origin: str
    said: str
    doubts: tuple[str, ...]


@dataclass(frozen=True)
class ShownGoal:
    """What is wanted, with the price that gives it; None where no price does. Its key opens the price to its arithmetic."""

    key: str
    of: str
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
    offered: tuple[Field, ...]
    """Other ways to tell what the account tells: all costs in one line, the price by its discount."""
    beside: Mapping[str, tuple[Field, ...]]
    """What is assumed and no line shows, by the key of the result or goal that it changes."""
    low: tuple[str, Figure] | None
    """What it comes to at the low end of the comps' range, and that value; None where it does not rest on it."""


def field_of(found: Computed, cell: Cell) -> Field:
    """Return an input as its field; one of a year by the month where the worksheet is told so."""
    given, by = found.figures.given.get(cell.key, Given(np.nan, Origin.ASSUMED)), found.figures.worksheet.by
    value = by_period(None if np.isnan(given.value) else float(given.value), cell.unit, by)
    name = f"input:{cell.key}:{by}" if cell.unit is FigureUnit.MONEY_A_YEAR and by is Period.MONTH else f"input:{cell.key}"
    meaning = INPUTS[cell.key].meaning
    return Field(name, label_by(cell, by), typed_text(value, cell.unit), cell.unit, str(given.origin), given.said, meaning)


def figure_of(found: Computed, cell: Cell, values: Values | None = None) -> Figure:
    """Return a figure as it is shown, among other values than the worksheet's where those are given."""
    by, among = found.figures.worksheet.by, values or found.figures.values
    value = by_period(among.number(cell), cell.unit, by)
    sign = "" if value is None or cell.unit not in (FigureUnit.MONEY, FigureUnit.MONEY_A_YEAR) else "less" if value < 0 else "more"
    return Figure(cell.key, label_by(cell, by), figure_text(value, cell.unit), why_none(cell, among), sign)


def _line(found: Computed, line: Line) -> ShownLine:
    parts: tuple[str | Field, ...] = tuple(field_of(found, part) if isinstance(part, Cell) else part for part in line.parts)
    if words := interest_only_words(line.parts, found.figures.values):
        parts = (*parts, words.removeprefix(", "))
    fields = [part for part in parts if isinstance(part, Field)]
    own = field_of(found, line.cell) if line.cell.is_input and line.cell.key in INPUTS else None
    shown = [*fields, *([own] if own else [])]
    origin, said = _whose_word(found, line.cell, shown)
    doubts = found.doubts_about_value if any(one.name == VALUE for one in shown) else ()
    return ShownLine(parts, line.side, figure_of(found, line.cell), own, origin, said, doubts)


def _whose_word(found: Computed, cell: Cell, fields: Iterable[Field]) -> tuple[str, str]:
    """Return whose word a line rests on: the user's, else the least certain of its fields'; and what there is to say of each of them."""
    known = list(fields)
    if cell.key.startswith("gross."):
        return _whose_rents(found)
    if not known:
        return "", ""
    origin = max((one.origin for one in known), key=_LEAST_CERTAIN.index)
    return origin, "; ".join(f"{one.label}: {one.origin}{', ' + one.said if one.said else ''}" for one in known)


def _whose_rents(found: Computed) -> tuple[str, str]:
    if found.figures.worksheet.units is not None:
        return str(Origin.YOURS), "the rents of each unit stand below"
    rent = rent_today(found.record)
    return str(rent.origin), rent.said


def _goal(found: Computed, goal: Goal) -> ShownGoal:
    price = found.figures.solved(goal.gap, "price")
    words = f"{wanted_text(found.figures.number(goal.wanted), goal.wanted.unit)} {goal.words}"
    return ShownGoal(
        f"{GOAL}{goal.key}",
        f"goal {goal.key}",
        words,
        figure_text(price, FigureUnit.MONEY) if price is not None else "none",
        is_missed(found.figures, goal),
    )


def _badge(found: Computed, verdict: Verdict) -> str:
    price = figure_text(found.figures.number(found.figures.sheet.input("price")), FigureUnit.MONEY)
    if verdict.works:
        return f"works at {price}"
    if verdict.works is None:
        return "not known"
    return f"needs {figure_text(verdict.price, FigureUnit.MONEY)}" if verdict.price else "no price does"


def _inputs_in(cell: Cell) -> set[str]:
    """Return the keys of the inputs that a figure rests on."""
    found, todo = set(), [cell]
    seen: set[str] = set()
    while todo:
        one = todo.pop()
        if one.key in seen:
            continue
        seen.add(one.key)
        if one.is_input:
            found.add(one.key)
        elif one.expression is not None:
            todo.extend(cells_of(one.expression))
    return found


def _beside(found: Computed, one: ExitSheet, further: Mapping[str, Cell]) -> dict[str, tuple[Field, ...]]:
    """Return the assumptions that no line shows, each by the first result or goal that it changes; terms of a loan that is none are not."""
    unused = {loan for loan in LOANS if found.figures.inputs.get(f"{loan}.share", 0) == 0}
    left = {key: cell for key, cell in further.items() if key.partition(".")[0] not in unused or key.partition(".")[1] == ""}
    by_key: dict[str, tuple[Field, ...]] = {}
    places = [
        *((cell.key, cell) for cell in one.results),
        (one.main.key, one.main),
        *((f"goal {goal.key}", goal.gap) for goal in one.goals),
    ]
    for key, cell in places:
        inputs = _inputs_in(cell)
        mine = [name for name in left if name in inputs]
        by_key[key] = tuple(field_of(found, left.pop(name)) for name in mine)
    return by_key


def _at_the_low_end(found: Computed, one: ExitSheet) -> tuple[str, Figure] | None:
    """Return what an exit comes to where it sells for no more than the lowest of its comps."""
    comps = found.comps.range if found.comps else None
    if comps is None or found.figures.given["arv"].origin is Origin.YOURS or "arv" not in _inputs_in(one.main):
        return None
    return figure_text(comps.low, FigureUnit.MONEY), figure_of(found, one.main, found.figures.with_inputs({"arv": comps.low}))


def _offered(found: Computed, one: ExitSheet) -> tuple[Field, ...]:
    fields = []
    if not np.isnan(found.record.list_price) and "price" in {cell.key for cell in (*(line.cell for line in one.lines), *one.further)}:
        own = found.figures.worksheet.own
        rate, amount = own.get("discount-rate"), own.get("discount")
        typed = f"-{rate:g} %" if rate is not None else f"-{amount:,.0f}" if amount is not None else ""
        label = f"discount from asking {figure_text(float(found.record.list_price), FigureUnit.MONEY)}"
        fields.append(
            Field(
                "input:discount", label, typed.replace("--", "+"), FigureUnit.COUNT, str(Origin.YOURS) if typed else "", hint_text=_DISCOUNT
            )
        )
    if one.exit in HELD and not found.figures.sheet.has_costs:
        costs = field_of(found, INPUTS["costs"].cell)
        fields.append(replace(costs, label=f"or {costs.label}, in one line"))
    return tuple(fields)


def shown_exit(found: Computed, one: ExitSheet, verdict: Verdict) -> ShownExit:
    """Return an exit as it is shown. What no line and no result shows is among its further assumptions."""
    visible = [line for line in one.lines if not (line.is_optional and found.figures.number(line.cell) == 0)]
    hidden = [part for line in one.lines if line not in visible for part in (line.cell, *line.parts) if isinstance(part, Cell)]
    on_lines = {part.key for line in visible for part in (line.cell, *line.parts) if isinstance(part, Cell)}
    further = {cell.key: cell for cell in (*hidden, *one.further) if cell.key in INPUTS and cell.key not in on_lines}
    beside = _beside(found, one, further)
    shown = {field.name for fields in beside.values() for field in fields}
    return ShownExit(
        str(one.exit), one.exit.label, _badge(found, verdict), verdict.works, tuple(_line(found, line) for line in visible),
        figure_of(found, one.main), tuple(figure_of(found, cell) for cell in one.results), tuple(_goal(found, goal) for goal in one.goals),
        tuple(field for cell in further.values() if (field := field_of(found, cell)).name not in shown),
        _offered(found, one), beside, _at_the_low_end(found, one),
    )  # fmt: skip


@dataclass(frozen=True)
class WorksheetView:
    """Which table of what changes is asked: a figure down, one across, and the result in it."""

    down: str = ""
    across: str = ""
    of: str = ""
    span: str = ""
    """From where to where the figure down goes, as it was typed: "205k to 260k"; blank for some steps about its own value."""
    step: str = ""


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


def if_wrong(found: Computed, asked: WorksheetView) -> dict[str, Any]:
    """Return the table of a result for pairs of two figures' values, with what can be chosen for each."""
    axes, results = axes_of(found), results_of(found)
    first = found.figures.exits[0]
    usual = _usual_axes(first)
    down = axes.get(asked.down) or next((axes[key] for key in usual if key in axes), None)
    across = axes.get(asked.across) or next((axes[key] for key in usual if key in axes and axes[key] is not down), None)
    exit_, result = results.get(asked.of, (first, first.main))
    by = found.figures.worksheet.by
    choices: dict[str, Any] = {
        "axes": [(key, label_by(cell, by)) for key, cell in axes.items()],
        "results": [(key, f"{one.exit.label}: {label_by(cell, by)}") for key, (one, cell) in results.items()],
        "of": result.key, "exit": exit_.exit.label, "label": label_by(result, by),
    }  # fmt: skip
    choices |= {"span": asked.span, "step": asked.step}
    if down is None or across is None:
        return choices | {"rows": []}
    own = found.figures.number(down)
    downs, acrosses = axis_steps(found.figures, down, count=2), axis_steps(found.figures, across, count=1)
    if asked.span.strip():
        try:
            downs = _span(asked, down, by)
        except InputError as error:
            choices |= {"wrong": sentence_of(error)}
    if downs is None or acrosses is None:
        return choices | {"rows": []}
    table = sensitivity(found.figures, result, (down, downs), (across, acrosses))

    def text(value: float, cell: Cell) -> str:
        return wanted_text(by_period(value, cell.unit, by), cell.unit)

    rows = [
        (text(value, down), [(figure_text(by_period(one, result.unit, by), result.unit), _sign(one)) for one in row], value == own)
        for value, row in zip(downs, table, strict=True)
    ]
    heads = [(text(value, across), value == acrosses[1]) for value in acrosses]
    return choices | {
        "down": down.key, "across": across.key, "down_label": label_by(down, by), "across_label": label_by(across, by), "heads": heads,
        "rows": rows,
    }  # fmt: skip


def _span(asked: WorksheetView, cell: Cell, by: Period) -> list[float]:
    """Return the values of a figure from where to where it was asked, step by step. Raises InputError."""
    ends = _SPAN.split(asked.span.strip())
    if len(ends) != 2:
        raise InputError(f"“{asked.span.strip()[:30]}” is no range; write it as 205k to 260k")
    parts = by.parts if cell.unit is FigureUnit.MONEY_A_YEAR else 1
    low, high = sorted(read_number(end, cell.label) * parts for end in ends)
    step = read_number(asked.step, "the step") * parts if asked.step.strip() else (high - low) / _USUAL_ROWS
    if step <= 0 or high == low:
        raise InputError("a step is more than 0, and a range has two ends; write them as 205k to 260k and 5k")
    count = int((high - low) / step + 1e-9) + 1
    if count > _MOST_ROWS:
        raise InputError(f"that is {count:,} rows, and {_MOST_ROWS} fit; choose a step of {(high - low) / (_MOST_ROWS - 1):,.0f} or more")
    values = [low + place * step for place in range(count)]
    one = INPUTS.get(cell.key)
    return [checked(one, value) for value in values] if one else values


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
    title = f"{len(comps.chosen)} included" + (f", {out} excluded" if out else "")
    pool = found.figures.worksheet.pool
    asked: dict[str, str] = {"set": comps.of_set} if comps.of_set == "repaired" else {}
    if pool is not None:
        asked["lines"] = "; ".join(map(str, comps.asked))
    return {
        "title": title, "strip": strip, "lines": ", ".join(map(str, comps.lines)), "is_own_pool": pool is not None,
        "query": f"?{urlencode(asked)}" if asked else "",
    }  # fmt: skip


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
            field = Field(
                f"payoff:{payoff.key}", payoff.label, typed_text(value, FigureUnit.MONEY), FigureUnit.MONEY, str(origin), payoff.said
            )
        parts = tuple(field_of(found, part) if isinstance(part, Cell) else part for part in line.parts)
        rows.append({
            "parts": parts, "side": str(line.side), "text": figure_text(value, FigureUnit.MONEY), "field": field,
            "said": payoff.said if payoff else "", "label": line.cell.label,
        })  # fmt: skip
    return {
        "rows": rows, "net": figure_text(values.number(found.seller.net), FigureUnit.MONEY), "why": why_none(found.seller.net, values),
        "concessions": field_of(found, INPUTS["seller.concessions"].cell),
    }  # fmt: skip


def _gain(unit: RentedUnit, by: Period) -> float | None:
    """Return how much more a unit's market rent brings than its rent today; None where one is unknown."""
    return None if unit.market is None or unit.rent is None else 12 * (unit.market - unit.rent) / by.parts


def units_of(found: Computed) -> list[dict[str, Any]]:
    """Return the rent roll as it is shown."""
    is_own = found.figures.worksheet.units is not None
    rows = []
    for place, unit in enumerate(found.figures.building.units, 1):

        def field(name: str, value: float | None, unit_: FigureUnit = FigureUnit.MONEY, place: int = place) -> Field:
            return Field(f"unit:{place}:{name}", f"{name} of unit {place}", typed_text(value, unit_), unit_)

        rows.append({
            "place": place, "unit": unit, "name": unit.name or "", "rent": field("rent", unit.rent), "market": field("market", unit.market),
            "subsidy": field("subsidy", unit.subsidy), "standard": field("standard", unit.standard),
            "leaves": field("leaves", unit.leaves, FigureUnit.YEARS),
            "area": field("area", unit.area, FigureUnit.SQUARE_FEET), "value": field("value", unit.value),
            "second_exit": {True: "true", False: "false", None: ""}[unit.second_exit], "is_own": is_own,
            "gain": figure_text(_gain(unit, found.figures.worksheet.by), FigureUnit.MONEY),
        })  # fmt: skip
    return rows


def repairs_of(found: Computed) -> dict[str, Any]:
    """Return repairs item by item with their bids, and the building's systems, as they are shown."""
    items = []
    for place, row in enumerate(found.figures.building.repairs, 1):
        bids = [
            {"place": at, "by": bid.by, "amount": typed_text(bid.amount, FigureUnit.MONEY), "is_taken": row.taken == at}
            for at, bid in enumerate(row.bids, 1)
        ]
        items.append({
            "place": place, "what": row.what, "amount": typed_text(row.amount, FigureUnit.MONEY), "bids": bids, "next": len(bids) + 1,
            "cost": figure_text(row.cost, FigureUnit.MONEY), "is_own": row.taken is None,
        })  # fmt: skip
    year = found.findings.today.year
    systems = []
    for one in found.figures.building.systems:
        past, known = one.past_life(year), found.basis.system_years.get(one.kind)
        recorded = next((row for row in found.recorded.systems if row.kind == one.kind), None)
        word = Origin.YOURS if recorded and recorded.year != one.year else Origin.RECORDED if known else ""
        systems.append({
            "kind": str(one.kind), "label": one.usual.label, "year": typed_text(one.year, FigureUnit.YEAR), "origin": str(word),
            "said": known.said if known and word != Origin.YOURS else "", "life": one.usual.life, "is_replaced": one.is_replaced,
            "cost": typed_text(one.usual.cost if one.cost is None else one.cost, FigureUnit.MONEY),
            "standing": "not known" if past is None else f"{past} y past its life" if past > 0 else f"{-past} y left",
        })  # fmt: skip
    repairs = found.figures.sheet.repairs
    return {"items": items, "systems": systems, "total": figure_of(found, repairs), "by": str(found.figures.worksheet.repairs_by)}


def shown(found: Computed, asked: WorksheetView) -> dict[str, Any]:
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
        "by": str(found.figures.worksheet.by),
        "gross": {str(cell.key): figure_of(found, cell) for cell in _rolls(found)},
    }  # fmt: skip


def _rolls(found: Computed) -> list[Cell]:
    cells: Mapping[str, Cell] = found.figures.sheet.cells
    return [cells[key] for key in ("gross.today", "gross.market", "gross.subsidy", "gain", "gain.cost", "gain.months") if key in cells]
