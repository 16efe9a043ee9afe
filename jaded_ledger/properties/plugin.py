"""What a property's page adds to the program: what the team did with the property."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import chain
from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins import hookimpl, hooks
from jaded_ledger.plugins.entries import Happening, PropertySection
from jaded_ledger.properties.models import ContactView
from jaded_ledger.records.models import Parcel

SHOWN = 40


@hookimpl
def pages() -> dict[str, str]:
    return {"property": "properties:property", "explained figure": "properties:explained"}


@hookimpl
def property_sections() -> list[PropertySection]:
    return [PropertySection("happened", "What your team did", "properties/_happened.html", _happened, 90)]


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    for view in ContactView.objects.filter(team=scope.team, parcel=parcel).select_related("user"):
        yield Happening(view.seen_at, "telephone and e-mail looked at", view.user.display_name)


def _happened(parcel: Parcel, scope: Scope) -> Mapping[str, Any]:
    every = sorted(chain.from_iterable(hooks.happened(parcel=parcel, scope=scope)), key=lambda happening: happening.at, reverse=True)
    return {"happenings": every[:SHOWN], "count": len(every)}


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    ContactView.objects.filter(parcel=before).update(parcel=after)
