"""What a line of comps lets in, as people say it: under 1,350, before 1965, over 5,000, 205k to 260k."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jaded_ledger.core.arithmetic import result_of
from jaded_ledger.core.comps.sales import Mask, Numbers
from jaded_ledger.core.criteria.bounds import bounds_of


@dataclass(frozen=True)
class Limits:
    """The least and the most of a figure; None where one is not limited. Without ``has_low`` or ``has_high`` the end itself is left out."""

    low: float | None = None
    high: float | None = None
    has_low: bool = True
    has_high: bool = True

    def hold(self, values: Numbers) -> Mask:
        """Return which values lie within; one that is unknown does not."""
        found: Mask = ~np.isnan(values)
        if self.low is not None:
            found &= values >= self.low if self.has_low else values > self.low
        if self.high is not None:
            found &= values <= self.high if self.has_high else values < self.high
        return found

    def written(self, *, is_year: bool = False) -> str:
        """Return the limits as they are read again: "under 1,350", "before 1965"."""
        low, high = (None if end is None else f"{end:.0f}" if is_year else f"{end:,.10g}" for end in (self.low, self.high))
        below, above = ("before", "after") if is_year else ("under", "over")
        if low is not None and high is not None:
            return f"{low} to {high}"
        if high is not None:
            return f"at most {high}" if self.has_high else f"{below} {high}"
        return f"at least {low}" if self.has_low else f"{above} {low}"


def limits_of(text: str) -> Limits | None:
    """Return the limits that a text says; None where it says a value alone. Raises ValueError for what bounds no number.

    >>> limits_of("under 1350"), limits_of("205k to 260k"), limits_of("20")
    (Limits(low=None, high=1350.0, has_low=True, has_high=False), Limits(low=205000.0, high=260000.0, has_low=True, has_high=True), None)
    """
    said = bounds_of(text)
    if said.value or not any((said.low, said.above, said.high, said.below)):
        return None
    low, high = (_number(end) for end in (said.low or said.above, said.high or said.below))
    if low is not None and high is not None and low > high:
        raise ValueError("the lower end stands above the upper")
    return Limits(low, high, has_low=not said.above, has_high=not said.below)


def _number(text: str) -> float | None:
    """Return an end of a range: "$205k", "1,350 sq ft"; None where it is not said. Raises ValueError."""
    if not text:
        return None
    plain = text.casefold().replace("$", "").replace(",", "").strip()
    for unit in ("sq ft", "sqft", "square feet", "feet", "ft"):
        plain = plain.removesuffix(unit).strip()
    try:
        return result_of(plain.replace(" ", ""))
    except ZeroDivisionError as error:
        raise ValueError(text) from error
