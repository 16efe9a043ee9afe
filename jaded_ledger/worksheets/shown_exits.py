"""An exit of a worksheet as it is shown: its account, its results, and what is assumed beside them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from jaded_ledger.core.deals.expressions import Cell, FigureUnit, cells_of
from jaded_ledger.core.deals.figures import HELD, is_missed
from jaded_ledger.core.deals.inputs import INPUTS, LOANS
from jaded_ledger.core.deals.known import Origin, rent_today
from jaded_ledger.core.deals.reading import figure_text, interest_only_words, wanted_text
from jaded_ledger.core.deals.sheet import ExitSheet, Goal, Line, Side
from jaded_ledger.core.deals.verdict import Verdict
from jaded_ledger.worksheets.computed import Computed
from jaded_ledger.worksheets.fields import VALUE, Field, Figure, field_of, figure_of

_LEAST_CERTAIN = (Origin.RECORDED, Origin.LISTING, Origin.ESTIMATED, Origin.ASSUMED, Origin.YOURS)
"""Whose word a line rests on where its fields differ: the last of these, so that an assumption never passes for a record."""
GOAL = "price-for:"
"""Begins the key of a solved price."""
_DISCOUNT = "-25k or -12 %"


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
