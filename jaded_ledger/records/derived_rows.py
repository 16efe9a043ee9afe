"""What is derived of a batch of parcels, as rows: read and computed, and nothing written, so that any process can do it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from jaded_ledger.core.facts.columns import derive_columns
from jaded_ledger.core.facts.days_ahead import changes_on
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.record import CountyRules, RecordedParcel
from jaded_ledger.core.market.areas import AreaFigures
from jaded_ledger.records.models import County
from jaded_ledger.records.reading import Batch, read, read_titles

Row = dict[str, Any]


def facts_rows(ids: Sequence[int], rules: CountyRules, areas: Mapping[int, AreaFigures], today: date) -> list[Row]:
    """Return the facts of a county's parcels by column, in the order of their numbers, texts as they are recorded.

    What only a writer can turn into columns stands beside them: ``mailing_state`` by its letters, ``recorded_further`` as recorded.
    """
    batch = read(ids, rules, areas)
    # Rows are kept in the order of their numbers, so that a county's are read together.
    return [_row(pk, batch, today) for pk in sorted(batch.records, key=batch.numbers.__getitem__)]


def _row(pk: int, batch: Batch, today: date) -> Row:
    record = batch.records[pk]
    found, roll = Findings(record, today), record.roll
    columns = derive_columns(found)
    columns["address_id"] = columns["address_id"] or batch.begun_at.get(pk)
    return {
        "parcel_id": pk,
        "county_id": record.county.id,
        "parcel_number": batch.numbers[pk],
        "changes_on": changes_on(found),
        "area_basis": found.area_basis.stored(),
        "mailing_state": roll.mailing.state if roll and roll.mailing else None,
        "recorded_further": batch.further.get(pk) or {},
        **columns,
    }


def sales_rows(ids: Sequence[int], county: int, today: date) -> dict[int, list[Row]]:
    """Return a county's parcels' sales, by parcel."""
    titles = read_titles(ids, County.objects.get(pk=county))
    return {pk: _sales(pk, record, today) for pk, record in titles.items()}


def _sales(pk: int, record: RecordedParcel, today: date) -> list[dict[str, Any]]:
    """Return a parcel's sales as its area's figures need them."""
    found, roll = Findings(record, today), record.roll
    resold = {flip.sold.key for flip in found.flips}
    return [
        {
            "parcel_id": pk,
            "county_id": record.county.id,
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
