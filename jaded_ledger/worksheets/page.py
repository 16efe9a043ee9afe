"""What the page of a worksheet shows, as plain texts: so do its printed form and its versions."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from urllib.parse import urlencode

from jaded_ledger.comps.strip import strip_of
from jaded_ledger.core.deals.expressions import Cell
from jaded_ledger.core.deals.inputs import INPUTS, Exit
from jaded_ledger.core.deals.verdict import cautions, headline, judged
from jaded_ledger.worksheets.building_rows import repairs_of, units_of
from jaded_ledger.worksheets.computed import Computed
from jaded_ledger.worksheets.fields import field_of, figure_of
from jaded_ledger.worksheets.seller_rows import seller_of
from jaded_ledger.worksheets.shown_exits import shown_exit
from jaded_ledger.worksheets.what_if import WorksheetView, what_if
from jaded_ledger.worksheets.years import years_of


def _comps(found: Computed) -> dict[str, Any] | None:
    comps = found.comps
    if comps is None:
        return None
    out = sum(not comp.is_in for comp in comps.comps)
    strip = strip_of(comps)
    title = f"{len(comps.chosen)} included" + (f", {out} excluded" if out else "")
    pool = found.figures.worksheet.pool
    asked: dict[str, str] = {"set": comps.of_set} if comps.of_set == "repaired" else {}
    if pool is not None:
        asked["lines"] = "; ".join(map(str, comps.asked))
    return {
        "title": title, "strip": strip, "lines": ", ".join(map(str, comps.lines)), "is_own_pool": pool is not None,
        "query": f"?{urlencode(asked)}" if asked else "",
    }  # fmt: skip


def shown(found: Computed, asked: WorksheetView) -> dict[str, Any]:
    """Return all that the page of a worksheet shows of its figures."""
    verdicts = [judged(found.figures, one) for one in found.figures.exits]
    pairs = zip(found.figures.exits, verdicts, strict=True)
    return {
        "exits": [shown_exit(found, one, verdict) for one, verdict in pairs],
        "headline": headline(found.figures, verdicts), "verdicts": verdicts, "cautions": cautions(found.figures),
        "wrong": what_if(found, asked), "comps": _comps(found), "seller": seller_of(found), "units": units_of(found),
        "repairs": repairs_of(found), "rents": str(found.figures.worksheet.rents), "years": years_of(found),
        "hold": [field_of(found, INPUTS[key].cell) for key in INPUTS if key.startswith("hold.")],
        "addable": [(str(one), one.label) for one in Exit if one not in found.figures.worksheet.exits],
        "by": str(found.figures.worksheet.by),
        "gross": {str(cell.key): figure_of(found, cell) for cell in _rolls(found)},
    }  # fmt: skip


def _rolls(found: Computed) -> list[Cell]:
    cells: Mapping[str, Cell] = found.figures.sheet.cells
    return [cells[key] for key in ("gross.today", "gross.market", "gross.subsidy", "gain", "gain.cost", "gain.months") if key in cells]
