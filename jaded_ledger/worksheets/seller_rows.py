"""The seller's account as it is shown."""

from __future__ import annotations

from typing import Any

from jaded_ledger.core.deals.expressions import Cell, FigureUnit
from jaded_ledger.core.deals.inputs import INPUTS
from jaded_ledger.core.deals.known import Origin
from jaded_ledger.core.deals.reading import figure_text, typed_text, why_none
from jaded_ledger.worksheets.computed import Computed
from jaded_ledger.worksheets.fields import Field, field_of


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
