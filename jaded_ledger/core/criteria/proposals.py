"""Limits proposed for what a search asks, from how the values lie: round figures, as somebody would type them."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from jaded_ledger.core.criteria.search import FigureRange
from jaded_ledger.core.criteria.values import value_text

_DIGITS = 2


@dataclass(frozen=True)
class Share:
    """A limit that takes in about such a share of the values: the largest, or with ``is_most`` the smallest."""

    share: float
    is_most: bool = False

    @property
    def quantile(self) -> float:
        """Where among the values, from the least to the most, the limit lies: 0 to 1."""
        return self.share if self.is_most else 1 - self.share


def rounded(figure: Decimal) -> Decimal:
    """Return a figure with two digits that count; one below a hundred with none after the point.

    >>> rounded(Decimal("184300")), rounded(Decimal("57.4")), rounded(Decimal("0.4")), rounded(Decimal(-1450))
    (Decimal('180000'), Decimal('57'), Decimal('0'), Decimal('-1400'))
    """
    step = max(0, figure.adjusted() - _DIGITS + 1)
    return Decimal(int(figure.scaleb(-step).to_integral_value())).scaleb(step).quantize(Decimal(1))


def limit_text(limit: Decimal, share: Share) -> str:
    """Return a limit as it is typed.

    >>> limit_text(Decimal("57.4"), Share(0.25)), limit_text(Decimal("184300"), Share(0.25, is_most=True))
    ('57..', '..180000')
    """
    figure = rounded(limit)
    return value_text(FigureRange(None, figure) if share.is_most else FigureRange(figure, None))
