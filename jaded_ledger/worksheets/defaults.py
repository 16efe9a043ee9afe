"""What a team assumes in its worksheets: in general, in a county or a city, by its grades of neighborhoods, and in one neighborhood."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
from django.db import transaction

from jaded_ledger.accounts.audit import AuditKind, note
from jaded_ledger.accounts.grades import grade_of
from jaded_ledger.accounts.models import AreaGrade
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.deals.expressions import Numbers
from jaded_ledger.core.deals.inputs import INPUTS, checked, read_number
from jaded_ledger.core.deals.known import Defaults
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Area
from jaded_ledger.worksheets.acts import WORKSHEETS
from jaded_ledger.worksheets.models import WorksheetDefaults


class Places(NamedTuple):
    """Where a property is, as far as that is known: ids of its neighborhood and city (areas) and of its county."""

    neighborhood: int | None = None
    city: int | None = None
    county: int | None = None


MARKETS = (Area.AreaKind.COUNTY, Area.AreaKind.CITY)
"""The areas by which a team assumes something before it looks at a neighborhood's grade."""


def defaults_of(scope: Scope, places: Places) -> Defaults:
    """Return what a team assumes of a property: in general, in its county, in its city, by its neighborhood's grade, and there itself."""
    grade = grade_of(scope, places.neighborhood)
    layers = {key: layer for key, layer in _layers(scope).items() if key in _keys(places, grade)}
    return Defaults(tuple(layers[key] for key in _keys(places, grade) if key in layers))


Key = tuple[str, int | str]


def _keys(places: Places, grade: str) -> list[Key]:
    """Return by what a property's assumptions are kept, the broadest first."""
    known: list[tuple[str, int | str | None]] = [
        ("team", 0), ("county", places.county), ("area", places.city), ("grade", grade), ("area", places.neighborhood)
    ]  # fmt: skip
    return [(kind, which) for kind, which in known if which is not None and which != ""]


def _layers(scope: Scope) -> dict[Key, tuple[str, Mapping[str, float]]]:
    """Return all that a team assumes, each with its name for a reader."""
    found: dict[Key, tuple[str, Mapping[str, float]]] = {}
    for row in WorksheetDefaults.objects.filter(team=scope.team).select_related("area"):
        if row.grade:
            found["grade", row.grade] = f"grade {row.grade}", row.values
        elif row.area is None:
            found["team", 0] = "your team", row.values
        elif row.area.kind == Area.AreaKind.COUNTY:
            assert row.area.county_id is not None
            found["county", row.area.county_id] = f"{row.area.text} County", row.values
        else:
            found["area", row.area.pk] = row.area.text, row.values
    return found


def defaults_of_many(scope: Scope, places: Sequence[Places]) -> Defaults:
    """Return what a team assumes of many properties, by where they are: the same layers, with an array for each input."""
    grades = dict(AreaGrade.objects.filter(team=scope.team).values_list("area_id", "grade"))
    found = {key: values for key, (_, values) in _layers(scope).items()}
    layers: list[tuple[str, Mapping[str, Numbers]]] = [("your team", found.get(("team", 0), {}))]
    by: tuple[tuple[str, Sequence[Key | None]], ...] = (
        ("county", [("county", one.county) if one.county else None for one in places]),
        ("city", [("area", one.city) if one.city else None for one in places]),
        ("grade", [("grade", grades.get(one.neighborhood or 0, "")) for one in places]),
        ("area", [("area", one.neighborhood) if one.neighborhood else None for one in places]),
    )  # fmt: skip
    layers += [(name, _arrays([found.get(key, {}) if key else {} for key in keys])) for name, keys in by]
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
    """Set what a team assumes: in general, by a grade, or in a county, a city or a neighborhood. Raises PermissionDenied."""
    require(scope, WORKSHEETS)
    WorksheetDefaults.objects.update_or_create(
        team=scope.team, grade=grade, area=area,
        defaults={"values": dict(values), "changed_by": scope.user, "changed_at": now()},
    )  # fmt: skip
    note(scope, AuditKind.SETTING, f"what worksheets assume{f' of {area.text}' if area else f' of grade {grade}' if grade else ''}")
