"""A size step: a living area at which an area's dollars a square foot break, beyond what a steady fall with size explains."""

from __future__ import annotations

import numpy as np

from jaded_ledger.core.comps.sales import Numbers

ENOUGH = 40
"""Fewer sales show no step."""
_LEAST_SHARE = 0.15
_CRITICAL = 12.35
"""Andrews, *Econometrica* 61(4), 1993, table 1: the 1 % critical value of the largest Wald statistic of one break in one parameter,
15 % of the sales left at either side; given from memory."""
_LEAST_BREAK = 0.05
_ROUNDED_TO = 10


def size_step(areas: Numbers, unit_prices: Numbers) -> float | None:
    """Return the living area, in square feet, at which dollars a square foot break; None where the sales show no such step.

    A line is fitted to the logs of dollars a square foot over the logs of living areas, once plain and once with a step at each place in
    turn: the place where the step explains most stands if it explains more than chance would, and 5 % or more of the price.
    """
    known = ~np.isnan(areas) & ~np.isnan(unit_prices) & (areas > 0) & (unit_prices > 0)
    if known.sum() < ENOUGH:
        return None
    order = np.argsort(areas[known], kind="stable")
    sizes, logs = areas[known][order], np.log(unit_prices[known][order])
    count = len(sizes)
    plain = np.column_stack([np.ones(count), np.log(sizes)])
    # What the line explains is taken from the prices and from each step alike, so that one product gives what a step explains.
    basis, _ = np.linalg.qr(plain)
    left = logs - basis @ (basis.T @ logs)
    total = float(left @ left)
    best, at = 0.0, None
    for cut in range(int(np.ceil(_LEAST_SHARE * count)), int(count * (1 - _LEAST_SHARE)) + 1):
        if sizes[cut - 1] == sizes[cut]:
            continue
        step = np.zeros(count)
        step[cut:] = 1
        step -= basis @ (basis.T @ step)
        norm = float(step @ step)
        if norm < 1e-9:
            continue
        size = float(step @ left) / norm
        explained = size * size * norm
        statistic = (count - 3) * explained / max(total - explained, 1e-12)
        if statistic > best and abs(size) >= _LEAST_BREAK:
            best, at = statistic, (sizes[cut - 1] + sizes[cut]) / 2
    return float(round(at / _ROUNDED_TO) * _ROUNDED_TO) if at is not None and best > _CRITICAL else None
