"""What a worksheet comes to in a few sentences: which exits work at this price, which don't, and what would have to be true for them."""

from __future__ import annotations

from dataclasses import dataclass

from jaded_ledger.core.deals.expressions import Cell
from jaded_ledger.core.deals.figures import Figures, is_missed, price_needed, works
from jaded_ledger.core.deals.inputs import Exit
from jaded_ledger.core.deals.reading import by_period, figure_text, label_by, wanted_text, why_none
from jaded_ledger.core.deals.roll import Legality
from jaded_ledger.core.deals.sheet import ExitSheet

_NUMBERS = ("no", "one", "two", "three", "four", "five", "six")
_FALLS = frozenset({"assignment.fee"})
"""Inputs of which less is needed, not more."""


@dataclass(frozen=True)
class Verdict:
    """Whether an exit works (None where that is not known), in a sentence, and the price it needs where it does not."""

    exit: Exit
    works: bool | None
    said: str
    price: float | None


def judged(figures: Figures, exit_: ExitSheet) -> Verdict:
    """Return what is to be said of one exit."""
    label, found = exit_.exit.label, works(figures, exit_)
    if found:
        return Verdict(exit_.exit, True, f"{label}: {_good(figures, exit_)}.", None)
    if found is None:
        unknown = next(why_none(goal.gap, figures.values) for goal in exit_.goals if is_missed(figures, goal) is None)
        return Verdict(exit_.exit, None, f"{label} can’t be told; {unknown}.", None)
    price = price_needed(figures, exit_)
    wanted = " and ".join(
        f"{wanted_text(figures.number(goal.wanted), goal.wanted.unit)} {goal.words}" for goal in exit_.goals if is_missed(figures, goal)
    )
    ways = [f"a price of {figure_text(price, figures.sheet.input('price').unit)}" if price else "", *_other_ways(figures, exit_)]
    needs = ", or ".join(way for way in ways if way) or "more than another price or value can give"
    return Verdict(exit_.exit, False, f"{label} for {wanted} needs {needs}.", price)


def _good(figures: Figures, exit_: ExitSheet) -> str:
    by = figures.worksheet.by
    main = f"{label_by(exit_.main, by)} {figure_text(by_period(figures.number(exit_.main), exit_.main.unit, by), exit_.main.unit)}"
    earned = next((goal.result for goal in exit_.goals if goal.result.unit == "percent"), None)
    more = f", {earned.label} {figure_text(figures.number(earned), earned.unit)}" if earned else ""
    if exit_.exit is Exit.RESALE:
        value = figures.sheet.input("arv")
        return f"{main} if the sale reaches {figure_text(figures.number(value), value.unit)}"
    return main + more


def _other_ways(figures: Figures, exit_: ExitSheet) -> list[str]:
    """Return what, in the place of another price, would meet all that is missed; only what can be had at all."""
    missed = [goal for goal in exit_.goals if is_missed(figures, goal)]
    ways = []
    for other in missed[0].others:
        values = [figures.solved(goal.gap, other.key) for goal in missed if other in goal.others]
        known = [value for value in values if value is not None]
        if len(known) < len(missed):
            continue
        value = min(known) if other.key in _FALLS else max(known)
        ways.append(_way(other, value))
    return ways


def _way(other: Cell, value: float) -> str:
    if other.key == "rental.change":
        return f"rents {abs(value):.1f} % {'higher' if value >= 0 else 'lower'}"
    words = {"arv": "a value after repair of", "assignment.fee": "a fee of", "split.value-each": "lots at", "titles.value-each": "units at"}
    return f"{words[other.key]} {figure_text(value, other.unit)}"


def headline(figures: Figures, verdicts: list[Verdict]) -> str:
    """Return the first sentence: how many exits work at this price."""
    price = figures.number(figures.sheet.input("price"))
    if price is None:
        return "The price is not known: nothing can be said yet."
    count = sum(verdict.works is True for verdict in verdicts)
    work = "exit works" if count == 1 else "exits work"
    return f"At {figure_text(price, figures.sheet.input('price').unit)} {_NUMBERS[count]} {work}."


def cautions(figures: Figures) -> list[str]:
    """Return what whoever rests on the figures should know of the units."""
    found = []
    units = figures.building.units
    illegal = [unit.name or f"unit {place}" for place, unit in enumerate(units, 1) if unit.legality is Legality.NOT_LEGAL]
    if illegal:
        found.append(f"The rent of {' and '.join(illegal)} is counted, though it is not legal.")
    one_way_out = [unit.name or f"unit {place}" for place, unit in enumerate(units, 1) if unit.second_exit is False]
    if one_way_out:
        found.append(f"No second way out of {' and '.join(one_way_out)}.")
    return found
