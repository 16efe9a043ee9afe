"""A team's own judgment of a neighborhood."""

from __future__ import annotations

from django.db import transaction

from jaded_ledger.accounts.audit import AuditKind, note
from jaded_ledger.accounts.models import AreaGrade
from jaded_ledger.accounts.roles import Act, require
from jaded_ledger.accounts.scope import Scope

GRADES = Act("grades", "grade neighborhoods", "it grades no areas")


def grade_of(scope: Scope, area_id: int | None) -> str:
    """Return the team's grade of an area; blank when it has given none."""
    return AreaGrade.objects.filter(team=scope.team, area=area_id).values_list("grade", flat=True).first() or ""


def set_grade(scope: Scope, area_id: int, grade: str) -> None:
    """Grade an area for the team, or with a blank take its grade back. Raises PermissionDenied and ValueError."""
    require(scope, GRADES)
    if grade and grade not in AreaGrade.Grade.values:
        raise ValueError(f"{grade} is none of {', '.join(AreaGrade.Grade.values)}")
    with transaction.atomic():
        if grade:
            AreaGrade.objects.update_or_create(team=scope.team, area_id=area_id, defaults={"grade": grade})
        else:
            AreaGrade.objects.filter(team=scope.team, area=area_id).delete()
        scope.team.put_up_version()
        note(scope, AuditKind.SETTING, f"grade of neighborhood {area_id}: {grade or 'none'}")
