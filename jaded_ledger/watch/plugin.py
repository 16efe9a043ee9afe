"""What the morning adds to the program."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Happening, NavigationPlace, PagePart, PropertyAct
from jaded_ledger.records.models import Parcel
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.watch.acts import ACTS
from jaded_ledger.watch.acts_on_property import ACTS_ON_PROPERTY
from jaded_ledger.watch.models import Mark, PropertyNote
from jaded_ledger.watch.watch_views import watch_context


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("morning", "Morning", "sunrise", "watch:morning", 60)]


@hookimpl
def pages() -> dict[str, str]:
    return {"morning": "watch:morning"}


@hookimpl
def property_acts() -> Sequence[PropertyAct]:
    return ACTS_ON_PROPERTY


@hookimpl
def about_search(saved: SavedSearch, scope: Scope) -> Iterator[PagePart]:
    if scope.user is not None:
        yield PagePart("watch/_watch.html", watch_context(saved, scope), 10)


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    for note in PropertyNote.objects.filter(team=scope.team, parcel=parcel).select_related("user"):
        yield Happening(note.at, f"noted: {note.text}", note.user.display_name if note.user else "")


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    for model in (Mark, PropertyNote):
        model._default_manager.filter(parcel=before).update(parcel=after)
