"""A worksheet's figures as they were on a day, and what has changed since."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from jaded_ledger.core.deals.inputs import INPUTS
from jaded_ledger.core.deals.known import Origin
from jaded_ledger.core.deals.reading import exact_text, figure_text
from jaded_ledger.core.deals.sheet import ExitSheet
from jaded_ledger.worksheets.computed import Computed


def results_of(found: Computed) -> dict[str, float | None]:
    """Return the results of all exits, and what the seller keeps, by their keys."""
    cells = {cell.key: found.figures.number(cell) for one in found.figures.exits for cell in (one.main, *one.results)}
    for projection in found.figures.projections.values():
        cells |= {cell.key: found.figures.number(cell) for cell in (projection.rate, projection.worth)}
    return cells | {"seller.net": found.seller.values.number(found.seller.net)}


def labels_of(found: Computed) -> list[tuple[str, str, str]]:
    """Return the key of each result, what it is called, and in what it is counted, in the order of the page."""
    labels = []
    for one in found.figures.exits:
        labels += [(cell.key, f"{one.exit.label}: {cell.label}", str(cell.unit)) for cell in (one.main, *one.results)]
    for exit_, projection in found.figures.projections.items():
        labels += [(cell.key, f"{exit_.label}: {cell.label}", str(cell.unit)) for cell in (projection.rate, projection.worth)]
    return [*labels, ("seller.net", "net to seller", "money")]


def snapshot(found: Computed) -> dict[str, Any]:
    """Return what a version keeps of a worksheet's figures: inputs with whose word they were, results, and the comps by their sales."""
    inputs = {
        key: [None if np.isnan(given.value) else float(given.value), str(given.origin), given.said]
        for key, given in found.figures.given.items()
    }
    comps = [] if found.comps is None else [[comp.key, comp.address] for comp in found.comps.chosen]
    return {"inputs": inputs, "results": results_of(found), "labels": labels_of(found), "comps": comps, "units": _units(found)}


def _units(found: Computed) -> list[list[float | None]]:
    return [[unit.rent, unit.market] for unit in found.figures.building.units]


@dataclass(frozen=True)
class Change:
    """Something that is not as it was when a version was kept. ``key`` is an input's or a result's; blank for comps."""

    key: str
    label: str
    then: str
    now: str


def _differs(then: float | None, now: float | None) -> bool:
    if then is None or now is None:
        return then is not now
    return abs(then - now) > 0.005 * max(1.0, abs(then) / 1e4)


def changed_inputs(kept: Mapping[str, Any], found: Computed) -> Iterator[Change]:
    """Yield what of the record, the comps and the team's assumptions has changed since; what the user set is not among it."""
    for key, (then, origin, _) in kept["inputs"].items():
        given = found.figures.given.get(key)
        if given is None or Origin.YOURS in (origin, given.origin):
            continue
        now = None if np.isnan(given.value) else float(given.value)
        if _differs(then, now):
            unit = INPUTS[key].unit
            yield Change(key, INPUTS[key].label, exact_text(then, unit), exact_text(now, unit))
    before = dict(kept["comps"])
    after = {} if found.comps is None else {comp.key: comp.address for comp in found.comps.chosen}
    for key in after.keys() - before.keys():
        yield Change("", "comp", "", f"{after[key]} is new")
    for key in before.keys() - after.keys():
        yield Change("", "comp", f"{before[key]}", "no longer in")
    if found.figures.worksheet.units is None and kept["units"] != _units(found):
        yield Change("", "rents", _rents(kept["units"]), _rents(_units(found)))


def _rents(units: list[list[float | None]]) -> str:
    rents = [rent for rent, _ in units]
    return "not known" if None in rents else f"${sum(rent for rent in rents if rent is not None):,.0f} a month"


def changed_results(kept: Mapping[str, Any], found: Computed) -> Iterator[Change]:
    """Yield the figures that count, then and now, where they differ: each exit's own, with what is wanted of it."""
    for one in found.figures.exits:
        for cell in _telling(one):
            then, now = kept["results"].get(cell.key), found.figures.number(cell)
            if cell.key in kept["results"] and _differs(then, now):
                yield Change(cell.key, f"{one.exit.label}: {cell.label}", figure_text(then, cell.unit), figure_text(now, cell.unit))


def _telling(one: ExitSheet) -> list[Any]:
    wanted = {goal.result.key: goal.result for goal in one.goals}
    return list({one.main.key: one.main, **wanted}.values())
