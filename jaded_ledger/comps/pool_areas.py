"""Which sales lie in the areas that a pool's lines name, and on the subject's side of barriers."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.circumstances import crossed_barriers
from jaded_ledger.core.comps.lines import LineKind, PoolError, PoolLine
from jaded_ledger.core.comps.pool import Inside
from jaded_ledger.core.comps.sales import House, Sales
from jaded_ledger.core.words import folded
from jaded_ledger.maps.areas import areas_of
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.models import ParcelFacts


def inside_of(sales: Sales, house: House, lines: Sequence[PoolLine], scope: Scope) -> Inside:
    """Return by the name of each area in some lines which sales lie in it; under a blank name, which lie on the subject's side of barriers.

    Raises PoolError for an area that the team does not have.
    """
    found = {}
    if any(line.kind is LineKind.SIDE for line in lines):
        crossed = crossed_barriers(sales, house)
        found[""] = np.array([row not in crossed for row in sales], dtype=bool)
    for name in {line.name for line in lines if line.kind in (LineKind.INSIDE, LineKind.OUTSIDE)}:
        area = areas_of(scope.team).filter(folded=folded(name)).first()
        if area is None:
            raise PoolError(f"there is no area “{name}”; draw it on the map and give it that name")
        inside = ParcelFacts.objects.filter(place__coveredby=area.geometry, parcel_id__in=among_ids(set(sales.parcel.tolist())))
        found[name] = np.isin(sales.parcel, np.fromiter(inside.values_list("parcel_id", flat=True), dtype=np.int64))
    return found
