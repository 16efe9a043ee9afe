"""What is done with worksheets: begun, changed and undone, kept as versions, put at a stage, put away and put back."""

from __future__ import annotations

from collections.abc import Callable

from django.db import transaction
from django.db.models import Max, QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.deals.inputs import InputError
from jaded_ledger.core.deals.worksheet import Worksheet as Content
from jaded_ledger.core.deals.worksheet import worksheet_from_json
from jaded_ledger.deals.acts import WORKSHEETS
from jaded_ledger.deals.models import Worksheet, WorksheetVersion
from jaded_ledger.deals.models.worksheets import Stage
from jaded_ledger.deals.worksheets.computed import Computed, computed
from jaded_ledger.deals.worksheets.snapshot import snapshot
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel

UNDONE = 50
"""So many changes can be undone."""
LONGEST_NAME = 80
LONGEST_NOTE = 200


def worksheets_of(scope: Scope) -> QuerySet[Worksheet]:
    """Return the worksheets of a team, the latest changed first."""
    return Worksheet.objects.filter(team=scope.team, deleted_at=None).select_related("parcel", "parcel__county", "made_by")


def begin(scope: Scope, parcel: Parcel, content: Content | None = None) -> Worksheet:
    """Begin a worksheet for a property. Raises PermissionDenied."""
    require(scope, WORKSHEETS)
    at, worksheet = now(), content or Content()
    return Worksheet.objects.create(
        team=scope.team, parcel=parcel, content=worksheet.to_json(), figures=snapshot(computed(worksheet, parcel, scope)),
        made_by=scope.user, made_at=at, changed_at=at,
    )  # fmt: skip


def remember_figures(worksheet: Worksheet, found: Computed) -> None:
    """Remember what a worksheet came to when it was changed, for the table of deals."""
    Worksheet.objects.filter(pk=worksheet.pk).update(figures=snapshot(found))


@transaction.atomic
def change(scope: Scope, pk: int, changed: Callable[[Content], Content]) -> Worksheet:
    """Change what a worksheet keeps. Raises InputError, PermissionDenied and Worksheet.DoesNotExist."""
    require(scope, WORKSHEETS)
    found = worksheets_of(scope).select_for_update(of=("self",)).get(pk=pk)
    content = changed(worksheet_from_json(found.content)).to_json()
    if content != found.content:
        found.before = [*found.before, found.content][-UNDONE:]
        found.content, found.changed_at = content, now()
        found.save(update_fields=["before", "content", "changed_at"])
    return found


@transaction.atomic
def undo(scope: Scope, pk: int) -> Worksheet:
    """Take the latest change back, if there is one. Raises PermissionDenied."""
    require(scope, WORKSHEETS)
    found = worksheets_of(scope).select_for_update(of=("self",)).get(pk=pk)
    if found.before:
        found.content = found.before.pop()
        found.changed_at = now()
        found.save(update_fields=["before", "content", "changed_at"])
    return found


@transaction.atomic
def keep_version(scope: Scope, worksheet: Worksheet, found: Computed, note: str = "") -> WorksheetVersion:
    """Keep a worksheet as it stands, with its figures. Raises InputError and PermissionDenied."""
    require(scope, WORKSHEETS)
    said = " ".join(note.replace("\x00", "").split())
    if len(said) > LONGEST_NOTE:
        raise InputError(f"a note has at most {LONGEST_NOTE} characters; this one has {len(said)}")
    locked = Worksheet.objects.select_for_update().get(pk=worksheet.pk)
    last = locked.versions.aggregate(last=Max("number"))["last"] or 0
    return WorksheetVersion.objects.create(
        worksheet=locked, number=last + 1, content=worksheet.content, figures=snapshot(found), note=said, kept_by=scope.user, kept_at=now()
    )


def go_back_to(scope: Scope, pk: int, number: int) -> Worksheet:
    """Have a worksheet be as a version of it was. Raises PermissionDenied and WorksheetVersion.DoesNotExist."""
    version = WorksheetVersion.objects.get(worksheet__in=worksheets_of(scope), worksheet=pk, number=number)
    return change(scope, pk, lambda content: worksheet_from_json(version.content))


def rename(scope: Scope, worksheet: Worksheet, name: str) -> None:
    """Name a worksheet; blank for the property's address. Raises InputError and PermissionDenied."""
    require(scope, WORKSHEETS)
    said = " ".join(name.replace("\x00", "").split())
    if len(said) > LONGEST_NAME:
        raise InputError(f"a name has at most {LONGEST_NAME} characters; this one has {len(said)}")
    Worksheet.objects.filter(pk=worksheet.pk).update(name=said)


def set_stage(scope: Scope, worksheet: Worksheet, stage: str) -> None:
    """Put a deal at a stage. Raises InputError and PermissionDenied."""
    require(scope, WORKSHEETS)
    if stage not in Stage.values:
        raise InputError(f"a deal is at one of {', '.join(str(label) for label in Stage.labels)}, not {stage[:30]}")
    Worksheet.objects.filter(pk=worksheet.pk).update(stage=stage)


def put_away(scope: Scope, worksheet: Worksheet) -> None:
    """Put a worksheet away; it can be put back. Raises PermissionDenied."""
    require(scope, WORKSHEETS)
    Worksheet.objects.filter(pk=worksheet.pk).update(deleted_at=now())


def put_back(scope: Scope, pk: int) -> None:
    """Put a worksheet back. Raises PermissionDenied."""
    require(scope, WORKSHEETS)
    Worksheet.objects.filter(pk=pk, team=scope.team).update(deleted_at=None)
