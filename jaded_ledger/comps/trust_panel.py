"""What is shown of how far a range can be trusted."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

from jaded_ledger.comps.trust_here import TrustHere
from jaded_ledger.core.comps.trust import ENOUGH, METHOD, Miss


def _miss(miss: Miss) -> dict[str, Any]:
    return {"way": miss.way, "median": f"± {miss.median:.1f} %", "count": miss.count}


def panel_of(found: TrustHere) -> dict[str, Any]:
    """Return the panel's texts; ``method`` is None where too few past sales were told, and ``count`` says how many."""
    method, steps = found.trust.method, found.trust.steps
    return {
        "method": None if method is None else _miss(method) | {"close": f"{method.close:.0f} of 100"},
        "steps": [_miss(step) for step in steps if step.way != METHOD] if method else [],
        "count": found.trust.sales,
        "enough": ENOUGH,
        "where": f"in this {found.area}" if found.area else "in this county",
        "helped": _helped(steps) if method else "",
    }


def _helped(steps: tuple[Miss, ...]) -> str:
    """Return which step of the method took off most of the miss."""
    gains = [(before.median - after.median, after.way) for before, after in pairwise(steps)]
    most, way = max(gains, default=(0.0, ""))
    words = {
        "median $/sq ft of the pool": "narrowing the pool", "median of the adjusted comps": "adjusting each comp",
        METHOD: "having the likest count most",
    }  # fmt: skip
    return f"{words[way]} helped most: {most:.1f} points" if most > 0.05 else "no step helped here; a plain median does as well"
