"""What is derived of a batch of parcels, as rows: read and computed, and nothing written, so that any process can do it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any, NamedTuple

from jaded_ledger.core.facts.columns import derive_columns
from jaded_ledger.core.facts.days_ahead import changes_on
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.record import CountyRules
from jaded_ledger.core.market.areas import AreaFigures
from jaded_ledger.records.reading import Batch, read

Row = dict[str, Any]


class Derived(NamedTuple):
    """What is derived of some parcels: facts, a row each, and the sales that their areas' figures are counted from, by parcel."""

    facts: list[Row]
    sales: dict[int, list[Row]]


def derived_rows(
    ids: Sequence[int], rules: CountyRules, areas: Mapping[int, AreaFigures], holdings: Mapping[int, int], today: date
) -> Derived:
    """Derive a county's parcels: rows in the order of their numbers, by column, texts as they are recorded.

    What only a writer can turn into columns stands beside a row: ``mailing_state`` by its letters, ``recorded_further`` as recorded.
    """
    batch = read(ids, rules, areas, holdings)
    # Rows are kept in the order of their numbers, so that a county's are read together.
    found = {pk: Findings(batch.records[pk], today) for pk in sorted(batch.records, key=batch.numbers.__getitem__)}
    return Derived([_row(pk, one, batch) for pk, one in found.items()], {pk: _sales(pk, one) for pk, one in found.items()})


def _row(pk: int, found: Findings, batch: Batch) -> Row:
    roll, columns = found.roll, derive_columns(found)
    columns["address_id"] = columns["address_id"] or batch.begun_at.get(pk)
    return {
        "parcel_id": pk,
        "county_id": found.county.id,
        "parcel_number": batch.numbers[pk],
        "changes_on": changes_on(found),
        "area_basis": found.area_basis.stored(),
        "mailing_state": roll.mailing.state if roll and roll.mailing else None,
        "recorded_further": batch.further.get(pk) or {},
        **columns,
    }


def _sales(pk: int, found: Findings) -> list[Row]:
    """Return a parcel's sales as its area's figures need them."""
    roll = found.roll
    resold = {flip.sold.key for flip in found.flips}
    return [
        {
            "parcel_id": pk,
            "county_id": found.county.id,
            "area_id": roll and (roll.neighborhood_id or roll.municipality_id),
            "sold_on": sale.sold_on,
            "recorded_on": sale.recorded_on,
            "price": sale.price,
            "property_class": found.property_class,
            "living_area": roll and roll.living_area,
            "dwellings": found.dwellings,
            "is_resale": sale.key in resold,
        }
        for sale in found.sales
        # A price of several parcels is no price of one: common practice leaves it out of an area's figures.
        if not sale.covered.others
    ]
