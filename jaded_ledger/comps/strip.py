"""The strip of comps by dollars a square foot: where each stands, the range after adjustment, and the price asked."""

from __future__ import annotations

from typing import Any

from jaded_ledger.comps.valuation import Valuation
from jaded_ledger.core.charts.axes import Axis, ticks

_LEFT, _RIGHT = 12, 458
"""Between these pixels of 470 the axis runs."""
_HALF_TEXT = 100
"""Half as wide as what is written over the range, in pixels."""


def _bracket(low: float, high: float) -> dict[str, float]:
    """Return where a range begins and ends, and where what is written over it stands, which stays within the picture."""
    return {"low": low, "high": high, "middle": min(max((low + high) / 2, _HALF_TEXT), _LEFT + _RIGHT - _HALF_TEXT)}


def strip_of(found: Valuation) -> dict[str, Any] | None:
    """Return the strip of comps by dollars a square foot, the range after adjustment over it, and the price asked beneath."""
    size, is_land = found.subject.size, found.subject.is_land
    trait = "lot_sqft" if is_land else "living_area"
    points = [(comp, comp.price / comp.house.value(trait)) for comp in found.comps if comp.house.value(trait) > 0]
    if not points:
        return None
    values = [value for _, value in points]
    asked = found.subject.asking / size if found.subject.asking and size > 0 else None
    after = (found.range.low / size, found.range.high / size) if found.range and size > 0 else None
    every = [*values, *(after or ()), *([asked] if asked else [])]
    pad = max((max(every) - min(every)) * 0.05, 1.0 if not is_land else 0.05)
    axis = Axis(min(every) - pad, max(every) + pad, _RIGHT - _LEFT)

    def at(value: float) -> float:
        return round(_LEFT + axis.at(value), 1)

    return {
        "ticks": [(at(value), f"{value:,.10g}") for value in ticks(axis.low, axis.high, most=8)],
        "points": [
            {"x": at(value), "key": comp.key, "is_in": comp.share is not None, "told": f"{comp.address}: ${value:,.0f}"}
            for comp, value in points
        ],
        "after": _bracket(at(after[0]), at(after[1])) if after and found.range else None,
        "after_told": f"${found.range.low:,.0f} – ${found.range.high:,.0f} after adjustment" if found.range else "",
        "asked": {"x": at(asked), "told": f"asking {asked:,.0f}" if not is_land else f"asking {asked:,.2f}"} if asked else None,
    }  # fmt: skip
