"""A worksheet's figures as plain data, for the command line and whoever reads it by program."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from jaded_ledger.core.deals.figures import Figures
from jaded_ledger.core.deals.reading import words_of
from jaded_ledger.core.deals.seller import SellerSheet
from jaded_ledger.core.deals.sheet import ExitSheet
from jaded_ledger.core.deals.signers import Signer
from jaded_ledger.core.deals.verdict import cautions, headline, judged


def _exit(figures: Figures, one: ExitSheet) -> dict[str, Any]:
    verdict = judged(figures, one)
    return {
        "label": one.exit.label, "works": verdict.works, "said": verdict.said, "price_needed": verdict.price,
        "lines": [
            {"label": words_of(line.parts, figures.values), "side": str(line.side), "amount": figures.number(line.cell)}
            for line in one.lines
        ],
        "results": {cell.key: figures.number(cell) for cell in (one.main, *one.results)},
        "solved": {
            goal.key: {
                "wanted": figures.number(goal.wanted), "price": figures.solved(goal.gap, "price"),
                **{other.key: figures.solved(goal.gap, other.key) for other in goal.others},
            }
            for goal in one.goals
        },
    }  # fmt: skip


def plain_figures(
    figures: Figures, seller: SellerSheet | None = None, signers: list[Signer] | None = None, doubts: Sequence[str] = ()
) -> dict[str, Any]:
    """Return every exit with its account, results and solved prices, the inputs with whose word they are, and the years.

    ``doubts`` are sentences about the value after repair.
    """
    verdicts = [judged(figures, one) for one in figures.exits]
    found: dict[str, Any] = {
        "said": headline(figures, verdicts), "cautions": [*doubts, *cautions(figures)],
        "inputs": {
            key: {"value": None if np.isnan(given.value) else float(given.value), "origin": str(given.origin), "from": given.said}
            for key, given in figures.given.items()
        },
        "exits": {str(one.exit): _exit(figures, one) for one in figures.exits},
        "years": {
            str(exit_): {
                "irr": figures.number(projection.rate), "npv": figures.number(projection.worth),
                "rows": {
                    label: [None if cell is None else figures.number(cell) for cell in cells] for label, cells in projection.rows
                },
            }
            for exit_, projection in figures.projections.items()
        },
    }  # fmt: skip
    if seller is not None:
        found["seller"] = {
            "net": seller.values.number(seller.net), "unknown": seller.unknown,
            "lines": [
                {"label": words_of(line.parts, seller.values), "side": str(line.side), "amount": seller.values.number(line.cell)}
                for line in seller.lines
            ],
        }  # fmt: skip
    if signers is not None:
        found["signers"] = [one._asdict() for one in signers]
    return found
