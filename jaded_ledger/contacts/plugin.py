"""What contact files, the log of what left and *do not contact* add to the program."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime

from django.db.models import Func, Value
from django.urls import reverse

from jaded_ledger.accounts.audit import Audited, AuditKind
from jaded_ledger.accounts.deletion import Deletion
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import ACTS, CONTACTS
from jaded_ledger.contacts.acts_on_property import ACTS_ON_PROPERTY
from jaded_ledger.contacts.file_kinds import FILE_KINDS
from jaded_ledger.contacts.find_output import ContactFileOutput
from jaded_ledger.contacts.models import ContactExport, FileColumns
from jaded_ledger.made_files.kinds import FileKind
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import FindOutput, Happening, InnerPlace, PropertyAct, SelectionAct
from jaded_ledger.records.models import Parcel


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def deletions() -> list[Deletion]:
    return [Deletion(FileColumns, CONTACTS, lambda columns: reverse("contacts:sent"))]


@hookimpl
def inner_places() -> list[InnerPlace]:
    return [
        InnerPlace("outreach", "do-not-contact", "Do not contact", "contacts:do-not-contact", 50),
        InnerPlace("outreach", "sent", "Taken out", "contacts:sent", 60),
    ]


@hookimpl
def selection_acts() -> list[SelectionAct]:
    return [SelectionAct("contacts", "Export", "contacts:contacts", 80)]


@hookimpl
def property_acts() -> Sequence[PropertyAct]:
    return ACTS_ON_PROPERTY


@hookimpl
def file_kinds() -> tuple[FileKind, ...]:
    return FILE_KINDS


@hookimpl
def find_outputs() -> list[FindOutput]:
    return [ContactFileOutput()]


@hookimpl
def audited(scope: Scope, begins: datetime, ends: datetime) -> Iterator[Audited]:
    exports = ContactExport.objects.filter(team=scope.team, made_at__gte=begins, made_at__lt=ends).select_related("user")
    for one in exports.defer("parcel_ids"):
        what = f"{one.get_form_display()}, from {one.search.replace(chr(10), '; ') or 'all parcels'}"
        yield Audited(one.made_at, one.user.username if one.user else "", AuditKind.TAKEN_OUT, what, one.count)


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    exports = ContactExport.objects.filter(team=scope.team, parcel_ids__contains=[parcel.pk]).select_related("user").defer("parcel_ids")
    for export in exports.exclude(details__has_key="mailing"):
        what = "printed on a label" if export.form == ContactExport.Form.LABELS else "written to a contact file"
        yield Happening(export.made_at, f"{what}, one of {export.count:,}", export.user.display_name if export.user else "")


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    exports = ContactExport.objects.filter(parcel_ids__contains=[before])
    exports.update(parcel_ids=Func("parcel_ids", Value(before), Value(after), function="array_replace"))
