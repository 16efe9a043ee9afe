"""The lines that a team chose for the comps of a property: saved, so that worksheets, reports and lists use the same pool."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.acts import COMPS
from jaded_ledger.comps.models import CompPool
from jaded_ledger.core.comps.lines import LineKind, PoolLine, parse_lines
from jaded_ledger.core.words import folded
from jaded_ledger.maps.areas import areas_of
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel

Lines = tuple[PoolLine, ...]


def pools_of(scope: Scope, parcel_ids: Sequence[int]) -> Mapping[int, Lines]:
    """Return the lines of the properties for which the team chose some, by parcel."""
    rows = CompPool.objects.filter(team=scope.team, subject_id__in=among_ids(parcel_ids)).values_list("subject_id", "lines")
    return {pk: with_known_areas(scope, parse_lines(lines)) for pk, lines in rows}


def pool_of(scope: Scope, parcel: Parcel) -> Lines | None:
    """Return the lines that the team chose for a property; None where it chose none."""
    return pools_of(scope, [parcel.pk]).get(parcel.pk)


def with_known_areas(scope: Scope, lines: Sequence[PoolLine]) -> Lines:
    """Return saved lines without those whose drawn area has been deleted since."""
    if not any(line.kind in (LineKind.INSIDE, LineKind.OUTSIDE) for line in lines):
        return tuple(lines)
    areas = set(areas_of(scope.team).values_list("folded", flat=True))
    return tuple(line for line in lines if line.kind not in (LineKind.INSIDE, LineKind.OUTSIDE) or folded(line.name) in areas)


def save_pool(scope: Scope, parcel: Parcel, lines: Sequence[PoolLine]) -> None:
    """Save the lines of a property's pool. Raises PermissionDenied."""
    require(scope, COMPS)
    CompPool.objects.update_or_create(
        team=scope.team, subject=parcel, defaults={"lines": "; ".join(map(str, lines)), "changed_by": scope.user, "changed_at": now()}
    )


def delete_pool(scope: Scope, parcel: Parcel) -> None:
    """Have a property's pool begin with its county's lines again. Raises PermissionDenied."""
    require(scope, COMPS)
    CompPool.objects.filter(team=scope.team, subject=parcel).delete()
