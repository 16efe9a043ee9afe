"""By how much a line of a search would have to be narrower for fewer new matches."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal


def bound_leaving(values: Sequence[Decimal], most: int, *, is_low: bool) -> Decimal | None:
    """Return the bound nearest to the others' end that leaves at most so many of some values; None where no bound leaves any.

    ``is_low`` is of a bound from which on values are asked for; a high one is the last that is.

    >>> values = [Decimal(one) for one in (1, 2, 2, 3, 9)]
    >>> bound_leaving(values, 2, is_low=True), bound_leaving(values, 3, is_low=False), bound_leaving(values, 0, is_low=True)
    (Decimal('3'), Decimal('2'), None)
    """
    for bound in sorted(set(values), reverse=not is_low):
        left = sum(one >= bound if is_low else one <= bound for one in values)
        if left <= most:
            return bound
    return None
