"""What lists, tags, stages and urgency add to the program."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from datetime import date, datetime

from jaded_ledger.accounts.audit import Audited, AuditKind
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.results import RowMark
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.lists import row_marks as marks
from jaded_ledger.lists import traits
from jaded_ledger.lists.acts import ACTS
from jaded_ledger.lists.acts_on_property import ACTS_ON_PROPERTY
from jaded_ledger.lists.auctions_ahead import auctions_ahead
from jaded_ledger.lists.history import acts_on
from jaded_ledger.lists.joined_parcels import join_parcel
from jaded_ledger.lists.listings_ahead import listings_ahead
from jaded_ledger.lists.models import Activity
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Due, Happening, NavigationPlace, PropertyAct, SelectionAct
from jaded_ledger.records.models import Parcel


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("lists", "Lists", "stack", "lists:all", 20)]


@hookimpl
def audited(scope: Scope, begins: datetime, ends: datetime) -> Iterator[Audited]:
    for one in Activity.objects.filter(team=scope.team, at__gte=begins, at__lt=ends).select_related("user"):
        what = f"{one.get_verb_display()}: {one.about}{', undone' if one.undone_at else ''}"
        yield Audited(one.at, one.user.username if one.user else "", AuditKind.BULK_ACT, what, one.rows)


@hookimpl
def selection_acts() -> list[SelectionAct]:
    return [SelectionAct("keep", "Add to list…", "lists:keep", 10)]


@hookimpl
def property_acts() -> Sequence[PropertyAct]:
    return ACTS_ON_PROPERTY


@hookimpl
def row_marks(parcel_ids: Collection[int], scope: Scope) -> Mapping[int, Sequence[RowMark]]:
    return marks.list_marks(parcel_ids, scope)


@hookimpl
def team_traits() -> Sequence[TeamTrait]:
    return traits.TEAM_TRAITS


@hookimpl
def due(scope: Scope, until: date) -> Iterator[Due]:
    yield from auctions_ahead(scope, until)
    yield from listings_ahead(scope, until)


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    for act in acts_on(parcel, scope):
        yield Happening(act.at, f"{act.get_verb_display()}: {act.about}", act.user.display_name if act.user else "")


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    join_parcel(before, after)
