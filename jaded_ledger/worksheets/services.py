"""What is done with worksheets: begun, changed and undone, kept as versions, put at a stage."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import count

from django.db import transaction
from django.db.models import Max, QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.valuation import addresses_of
from jaded_ledger.core.comps.lines import PoolLine
from jaded_ledger.core.deals.inputs import InputError
from jaded_ledger.core.deals.worksheet import Worksheet as Content
from jaded_ledger.core.deals.worksheet import worksheet_from_json
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel
from jaded_ledger.worksheets.acts import WORKSHEETS
from jaded_ledger.worksheets.computed import Computed, computed
from jaded_ledger.worksheets.models import Worksheet, WorksheetVersion
from jaded_ledger.worksheets.models.worksheets import Stage
from jaded_ledger.worksheets.snapshot import snapshot

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


def open_worksheet(scope: Scope, parcel: Parcel, pool: tuple[PoolLine, ...] | None = None, *, is_another: bool = False) -> Worksheet:
    """Return the property's worksheet that was changed last, or a new one; ``is_another``: a new one with a name of its own.

    ``pool`` are the lines of the comps that it comes from; they replace those of the worksheet that is there. Raises PermissionDenied.
    """
    require(scope, WORKSHEETS)
    text = None if pool is None else "; ".join(map(str, pool))
    # Two presses at once must not begin two.
    with transaction.atomic():
        Parcel.objects.select_for_update(of=("self",)).get(pk=parcel.pk)
        there = worksheets_of(scope).filter(parcel=parcel)
        last = there.first()
        if last is None or is_another:
            made = begin(scope, parcel, Content(pool=text))
            if last is not None:
                rename(scope, made, _free_name(parcel, set(there.values_list("name", flat=True))))
            return made
        if pool is None:
            return last
        changed = change(scope, last.pk, lambda content: replace(content, pool=text))
        remember_figures(changed, computed(worksheet_from_json(changed.content), parcel, scope))
        return changed


def _free_name(parcel: Parcel, taken: set[str]) -> str:
    address = addresses_of([parcel.pk]).get(parcel.pk, (parcel.number, ""))[0][: LONGEST_NAME - 6]
    return next(name for number in count(2) if (name := f"{address} ({number})") not in taken)


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


def title_of(row: Worksheet) -> str:
    """Return what a worksheet is called: its name, or the property's address."""
    return row.name or addresses_of([row.parcel_id]).get(row.parcel_id, (row.parcel.number, ""))[0]
