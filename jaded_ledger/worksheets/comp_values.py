"""Values by comps on a record: those of a page of comps for one property, and those that were calculated for lists for many."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.models import CompRange
from jaded_ledger.comps.valuation import Valuation
from jaded_ledger.core.deals.known import Recorded
from jaded_ledger.records.bulk import among_ids

_COLUMNS = ("repaired_value", "repaired_count", "value", "count")
_FIELDS = ("repaired_value", "repaired_comps", "as_is_value", "as_is_comps")


def with_comps(record: Recorded, comps: Valuation | None) -> Recorded:
    """Return a property's record with the values of its comps, in whole dollars."""
    if comps is None:
        return record
    values: dict[str, float] = {}
    for name, found in (("repaired", comps.ranges["repaired"]), ("as_is", comps.ranges["as-is"])):
        if found is not None:
            values |= {f"{name}_value": float(round(found.value)), f"{name}_comps": float(found.count)}
    return replace(record, **values)


def with_calculated_comps(record: Recorded, ids: Sequence[int], scope: Scope) -> Recorded:
    """Return the records of properties, in the order of their ids, with the values by comps that the team had calculated for lists."""
    rows = CompRange.objects.filter(team=scope.team, parcel_id__in=among_ids(ids)).values_list("parcel_id", *_COLUMNS)
    known = {parcel: values for parcel, *values in rows}
    columns = np.array([known.get(pk, [None] * len(_COLUMNS)) for pk in ids], dtype=np.float64).reshape(len(ids), len(_COLUMNS))
    return replace(record, **dict(zip(_FIELDS, columns.T, strict=True)))
