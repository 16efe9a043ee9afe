"""What charts add to the program."""

from __future__ import annotations

from typing import Any

from jaded_ledger.charts.asked import KINDS
from jaded_ledger.charts.by_area import AREAS
from jaded_ledger.charts.distribution import may_be_distributed
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.find.answer import Answer
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Face
from jaded_ledger.records.own_columns import traits_of


def _context(answer: Answer) -> dict[str, Any]:
    return {
        "kinds": KINDS,
        "areas": [CATALOGUE[key] for key in AREAS],
        "charted": [trait for trait in traits_of(answer.counties) if may_be_distributed(trait)],
    }


@hookimpl
def faces() -> list[Face]:
    return [Face("charts", "Charts", "charts/face.html", _context, 40)]
