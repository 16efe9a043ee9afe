"""What a team assumes in its worksheets: in general, by its grades of neighborhoods, and in one neighborhood."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from django.db import transaction

from jaded_ledger.accounts.audit import Kind, note
from jaded_ledger.accounts.grades import grade_of
from jaded_ledger.accounts.models import AreaGrade
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.deals.expressions import Numbers
from jaded_ledger.core.deals.inputs import INPUTS, checked, read_number
from jaded_ledger.core.deals.known import Defaults
from jaded_ledger.deals.acts import WORKSHEETS
from jaded_ledger.deals.models import WorksheetDefaults
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Area


def defaults_of(scope: Scope, neighborhood_id: int | None) -> Defaults:
    """Return what a team assumes of a property in a neighborhood: in general, by its grade, and there itself."""
    grade = grade_of(scope, neighborhood_id)
    rows = {(row.grade, row.area_id): row for row in WorksheetDefaults.objects.filter(team=scope.team).select_related("area")}
    layers = []
    if row := rows.get(("", None)):
        layers.append(("your team", row.values))
    if grade and (row := rows.get((grade, None))):
        layers.append((f"grade {grade}", row.values))
    if neighborhood_id is not None and (row := rows.get(("", neighborhood_id))) and row.area:
        layers.append((row.area.text, row.values))
    return Defaults(tuple(layers))


def defaults_of_many(scope: Scope, neighborhoods: Sequence[int | None]) -> Defaults:
    """Return what a team assumes of many properties, by their neighborhoods: the same layers, with an array for each input."""
    grades = dict(AreaGrade.objects.filter(team=scope.team).values_list("area_id", "grade"))
    layers: list[tuple[str, Mapping[str, Numbers]]] = []
    by_grade: dict[str, Mapping[str, float]] = {}
    by_area: dict[int | None, Mapping[str, float]] = {}
    for row in WorksheetDefaults.objects.filter(team=scope.team):
        if row.grade:
            by_grade[row.grade] = row.values
        elif row.area_id is not None:
            by_area[row.area_id] = row.values
        else:
            layers.append(("your team", row.values))
    layers.append(("grade", _arrays([by_grade.get(grades.get(area, ""), {}) for area in neighborhoods])))
    layers.append(("area", _arrays([by_area.get(area, {}) for area in neighborhoods])))
    return Defaults(tuple(layers))


def _arrays(rows: Sequence[Mapping[str, float]]) -> dict[str, Numbers]:
    keys = {key for row in rows for key in row}
    return {key: np.array([row.get(key, np.nan) for row in rows], dtype=np.float64) for key in keys}


def read_values(typed: Mapping[str, str]) -> dict[str, float]:
    """Return the assumptions that were typed, by their keys; blank ones are not set. Raises InputError."""
    found = {}
    for key, one in INPUTS.items():
        text = typed.get(key, "").strip()
        if text and one.can_default:
            found[key] = checked(one, read_number(text, one.label))
    return found


@transaction.atomic
def set_defaults(scope: Scope, values: Mapping[str, float], *, grade: str = "", area: Area | None = None) -> None:
    """Set what a team assumes: in general, by a grade, or in a neighborhood. Raises PermissionDenied."""
    require(scope, WORKSHEETS)
    WorksheetDefaults.objects.update_or_create(
        team=scope.team, grade=grade, area=area,
        defaults={"values": dict(values), "changed_by": scope.user, "changed_at": now()},
    )  # fmt: skip
    note(scope, Kind.SETTING, f"what worksheets assume{f' of {area.text}' if area else f' of grade {grade}' if grade else ''}")
