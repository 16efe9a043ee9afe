"""What comps add to the program."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from jaded_ledger.accounts.deletion import Deletion
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.acts import ACTS, COMPS
from jaded_ledger.comps.acts_on_property import ACTS_ON_PROPERTY
from jaded_ledger.comps.kept import kept_of
from jaded_ledger.comps.list_ranges import COMPUTE, waiting
from jaded_ledger.comps.models import CompDecision, CompedList, CompPool, CompRange, ConditionGrade, KeptComps
from jaded_ledger.comps.section import section_context
from jaded_ledger.comps.traits import TEAM_TRAITS
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.lists.cached_counts import cached_count
from jaded_ledger.lists.counts import current
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Happening, PagePart, PropertyAct, PropertySection, SelectionAct
from jaded_ledger.records.jobs import Waiting
from jaded_ledger.records.joined_parcels import move_rows
from jaded_ledger.records.models import Parcel
from jaded_ledger.web.templatetags.ledger import page_url


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def deletions() -> list[Deletion]:
    return [Deletion(KeptComps, COMPS, lambda kept: page_url("deals"), name=lambda kept: f"Comps of {kept.content['subject']['address']}")]


@hookimpl
def selection_acts() -> list[SelectionAct]:
    return [SelectionAct("comps", "Comps", "comps:screening", 70)]


@hookimpl
def property_acts() -> Sequence[PropertyAct]:
    return ACTS_ON_PROPERTY


@hookimpl
def property_sections() -> list[PropertySection]:
    return [PropertySection("comps", "Comps", "comps/_section.html", section_context, 20)]


@hookimpl
def team_traits() -> Sequence[TeamTrait]:
    return TEAM_TRAITS


@hookimpl
def about_list(which: ParcelList, scope: Scope) -> Iterator[PagePart]:
    def counts() -> tuple[int, int]:
        rows = current([which])
        return CompRange.objects.filter(team=scope.team, parcel__in=rows.values("parcel")).count(), rows.count()

    computed, count = cached_count(scope.team.pk, f"comps:{which.pk}", counts)
    comped = CompedList.objects.filter(list=which).first()
    yield PagePart("comps/_list.html", {"comped": comped, "list": which, "computed": computed, "count": count}, 20)


@hookimpl
def waiting_rows() -> list[Waiting]:
    return [Waiting(COMPUTE, "list_id", waiting)]


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    for kept in kept_of(scope).filter(parcel=parcel):
        value = "unknown" if kept.value is None else f"${kept.value:,}"
        yield Happening(kept.kept_at, f"comps kept: {value}", kept.kept_by.display_name if kept.kept_by else "")


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    KeptComps.objects.filter(parcel=before).update(parcel=after)
    move_rows(CompPool, "subject", ("team",), before, after)
    move_rows(CompDecision, "subject", ("team", "comp", "sold_on"), before, after)
    move_rows(CompDecision, "comp", ("team", "subject", "sold_on"), before, after)
    move_rows(CompRange, "parcel", ("team",), before, after)
    move_rows(ConditionGrade, "parcel", ("team", "sold_on"), before, after)
