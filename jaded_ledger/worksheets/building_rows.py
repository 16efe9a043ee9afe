"""What a worksheet knows of the building, as it is shown: its rent roll, its repairs with their bids, its systems."""

from __future__ import annotations

from typing import Any

from jaded_ledger.core.deals.expressions import FigureUnit
from jaded_ledger.core.deals.known import Origin
from jaded_ledger.core.deals.reading import figure_text, typed_text
from jaded_ledger.core.deals.roll import RentedUnit
from jaded_ledger.core.deals.worksheet import Period
from jaded_ledger.worksheets.computed import Computed
from jaded_ledger.worksheets.fields import Field, figure_of


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
