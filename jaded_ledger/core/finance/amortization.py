"""Level payments and what is left of a loan. Rates are fractions a year (0.06), amounts dollars, never rounded here."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

MONTHS = 12


def payment(principal: Decimal, rate: Decimal, months: int) -> Decimal:
    """Return the level payment a month: P·i / (1 − (1+i)^−n), and P/n at rate 0.

    Parameters
    ----------
    principal : dollars lent
    rate : fraction a year; a month's is its twelfth (nominal, as U.S. notes state it)
    months : the term

    Returns
    -------
    Dollars a month, not rounded.

    Raises
    ------
    ValueError
        For a term of no months.

    Source: the annuity formula; `numpy_financial.pmt` gives the same.

    >>> round(payment(Decimal(200_000), Decimal("0.06"), 360), 2)
    Decimal('1199.10')
    """
    if months < 1:
        raise ValueError(f"a loan is paid over at least one month, not {months}")
    if not rate:
        return principal / months
    monthly = rate / MONTHS
    return principal * monthly / (1 - (1 + monthly) ** -months)


def balance(principal: Decimal, rate: Decimal, months: int, paid: int) -> Decimal:
    """Return what is left after so many payments: P(1+i)^k − A((1+i)^k − 1)/i, and P(1 − k/n) at rate 0; 0 once all are made.

    Parameters
    ----------
    principal, rate, months : as for `payment`
    paid : how many payments were made; below 0 counts as none

    Returns
    -------
    Dollars, not rounded.

    Source: the retrospective formula; `numpy_financial.fv` gives the same.

    >>> round(balance(Decimal(200_000), Decimal("0.06"), 360, 60), 2)
    Decimal('186108.71')
    """
    if paid <= 0:
        return principal
    if paid >= months:
        return Decimal(0)
    if not rate:
        return principal * (1 - Decimal(paid) / months)
    monthly = rate / MONTHS
    grown = (1 + monthly) ** paid
    return principal * grown - payment(principal, rate, months) * (grown - 1) / monthly


def payments_due(first: date, day: date) -> int:
    """Return how many monthly payments have fallen due by a day, the first a month after the loan began.

    A payment of the 31st is due on the last day of a shorter month (common practice). Never below 0.

    >>> payments_due(date(2024, 1, 31), date(2024, 2, 29)), payments_due(date(2024, 1, 31), date(2024, 3, 30))
    (1, 1)
    """
    months = (day.year - first.year) * MONTHS + day.month - first.month
    return max(0, months if is_month_day_reached(first.day, day) else months - 1)


def is_month_day_reached(wanted: int, day: date) -> bool:
    """Return whether a day of the month (1 to 31), or the month's last where it is shorter, has come by a day."""
    return day.day >= wanted or (day.day >= 28 and (day + _ONE_DAY).month != day.month)


_ONE_DAY = date(2000, 1, 2) - date(2000, 1, 1)
