"""What mailings and contact files add to the program."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, datetime

from django.db.models import Func, Value

from jaded_ledger.accounts.audit import Audited, Kind
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.made_files.kinds import FileKind
from jaded_ledger.outreach.acts import ACTS
from jaded_ledger.outreach.file_kinds import FILE_KINDS
from jaded_ledger.outreach.models import ContactExport, MailPiece
from jaded_ledger.outreach.replies import pieces_of
from jaded_ledger.outreach.series import due_mailings
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Due, Happening, NavigationPlace, SelectionAct
from jaded_ledger.records.models import Parcel


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("outreach", "Outreach", "envelope-paper", "outreach:mailings", 40)]


@hookimpl
def selection_acts() -> list[SelectionAct]:
    return [
        SelectionAct("contacts", "Export", "outreach:contacts", 80),
        SelectionAct("mail", "Mail", "outreach:begin", 90, is_main=True),
    ]


@hookimpl
def file_kinds() -> tuple[FileKind, ...]:
    return FILE_KINDS


@hookimpl
def due(scope: Scope, until: date) -> Iterator[Due]:
    return due_mailings(scope, until)


@hookimpl
def audited(scope: Scope, begins: datetime, ends: datetime) -> Iterator[Audited]:
    exports = ContactExport.objects.filter(team=scope.team, made_at__gte=begins, made_at__lt=ends).select_related("user")
    for one in exports.defer("parcel_ids"):
        what = f"{one.get_form_display()}, from {one.search.replace(chr(10), '; ') or 'all parcels'}"
        yield Audited(one.made_at, one.user.username if one.user else "", Kind.TAKEN_OUT, what, one.count)


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    exports = ContactExport.objects.filter(team=scope.team, parcel_ids__contains=[parcel.pk]).select_related("user").defer("parcel_ids")
    for export in exports.exclude(details__has_key="mailing"):
        what = "printed on a label" if export.form == ContactExport.Form.LABELS else "written to a contact file"
        yield Happening(export.made_at, f"{what}, one of {export.count:,}", export.user.display_name if export.user else "")
    for piece in pieces_of(scope).filter(parcels__contains=[parcel.pk]).select_related("mailing__user").prefetch_related("outcomes__user"):
        mailing, code = piece.mailing, f"{piece.mailing.code}-{piece.number}"
        yield Happening(mailing.made_at, f"mailed: {mailing.name}, piece {code}", mailing.user.display_name if mailing.user else "")
        for outcome in piece.outcomes.all():
            if outcome.undone_at is None:
                said = f"{code}: {outcome.get_kind_display()}{f' ({outcome.note})' if outcome.note else ''}"
                yield Happening(outcome.noted_at, said, outcome.user.display_name if outcome.user else "")


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    exports = ContactExport.objects.filter(parcel_ids__contains=[before])
    exports.update(parcel_ids=Func("parcel_ids", Value(before), Value(after), function="array_replace"))
    MailPiece.objects.filter(parcel=before).update(parcel=after)
    told = MailPiece.objects.filter(parcels__contains=[before])
    told.update(parcels=Func("parcels", Value(before), Value(after), function="array_replace"))
