"""What a property's page adds to the program: what the team did with the property."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any

from jaded_ledger.accounts.audit import Audited, AuditKind
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Happening, PropertySection
from jaded_ledger.properties.acts import ACTS
from jaded_ledger.properties.happenings import happenings_of
from jaded_ledger.properties.models import ContactView
from jaded_ledger.records.models import Parcel

SHOWN = 40


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def pages() -> dict[str, str]:
    return {"property": "properties:property", "explained figure": "properties:explained"}


@hookimpl
def property_sections() -> list[PropertySection]:
    return [PropertySection("happened", "Team activity", "properties/_happened.html", _happened, 90)]


@hookimpl
def audited(scope: Scope, begins: datetime, ends: datetime) -> Iterator[Audited]:
    seen = ContactView.objects.filter(team=scope.team, seen_at__gte=begins, seen_at__lt=ends).select_related("user", "parcel")
    for one in seen:
        yield Audited(one.seen_at, one.user.username, AuditKind.CONTACTS_SEEN, f"of parcel {one.parcel.number}", one.count)


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    for view in ContactView.objects.filter(team=scope.team, parcel=parcel).select_related("user"):
        yield Happening(view.seen_at, "telephone and e-mail looked at", view.user.display_name)


def _happened(parcel: Parcel, scope: Scope) -> Mapping[str, Any]:
    every = happenings_of(parcel, scope)
    return {"happenings": every[:SHOWN], "count": len(every)}


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    ContactView.objects.filter(parcel=before).update(parcel=after)
