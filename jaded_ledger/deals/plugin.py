"""What deals add to the program."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.deals.acts import ACTS
from jaded_ledger.deals.kept import kept_of
from jaded_ledger.deals.list_ranges import COMPUTE, waiting
from jaded_ledger.deals.models import (
    CompDecision,
    CompedList,
    CompRange,
    ConditionGrade,
    DealFile,
    KeptComps,
    ScreenedList,
    ScreenedParcel,
    Worksheet,
)
from jaded_ledger.deals.section import deals_context, section_context
from jaded_ledger.deals.traits import TEAM_TRAITS
from jaded_ledger.deals.worksheets import screened
from jaded_ledger.deals.worksheets.services import worksheets_of
from jaded_ledger.deals.worksheets.traits import TEAM_TRAITS as SCREENING_TRAITS
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.lists.cached_counts import cached_count
from jaded_ledger.lists.counts import current
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Happening, NavigationPlace, PagePart, PropertySection, SelectionAct
from jaded_ledger.records.jobs import Waiting
from jaded_ledger.records.models import Parcel


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("deals", "Deals", "calculator", "deals:deals", 30)]


@hookimpl
def selection_acts() -> list[SelectionAct]:
    return [SelectionAct("comps", "Comps", "deals:screening", 70)]


@hookimpl
def property_sections() -> list[PropertySection]:
    return [
        PropertySection("comps", "Comps", "deals/_section.html", section_context, 20),
        PropertySection("worksheets", "Worksheets and files", "deals/_deals_section.html", deals_context, 21),
    ]


@hookimpl
def team_traits() -> Sequence[TeamTrait]:
    return (*TEAM_TRAITS, *SCREENING_TRAITS)


@hookimpl
def about_list(which: ParcelList, scope: Scope) -> Iterator[PagePart]:
    def counts() -> tuple[int, int]:
        rows = current([which])
        return CompRange.objects.filter(team=scope.team, parcel__in=rows.values("parcel")).count(), rows.count()

    computed, count = cached_count(scope.team.pk, f"comps:{which.pk}", counts)
    comped = CompedList.objects.filter(list=which).first()
    is_screened = ScreenedList.objects.filter(list=which).exists()
    context = {"comped": comped, "list": which, "computed": computed, "count": count, "is_screened": is_screened}
    yield PagePart("deals/_list.html", context, 20)


@hookimpl
def waiting_rows() -> list[Waiting]:
    return [Waiting(COMPUTE, "list_id", waiting), Waiting(screened.SCREEN, "team_id", screened.waiting)]


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    for kept in kept_of(scope).filter(parcel=parcel):
        told = "unknown" if kept.value is None else f"${kept.value:,}"
        yield Happening(kept.kept_at, f"comps kept: {told}", kept.kept_by.display_name if kept.kept_by else "")

    for worksheet in worksheets_of(scope).filter(parcel=parcel):
        by = worksheet.made_by.display_name if worksheet.made_by else ""
        yield Happening(worksheet.made_at, f"worksheet begun: {worksheet.get_stage_display()}", by)


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    Worksheet.objects.filter(parcel=before).update(parcel=after)
    DealFile.objects.filter(parcel=before).update(parcel=after)
    _move(ScreenedParcel, "parcel", ("team",), before, after)
    KeptComps.objects.filter(parcel=before).update(parcel=after)
    _move(CompDecision, "subject", ("team", "comp", "sold_on"), before, after)
    _move(CompDecision, "comp", ("team", "subject", "sold_on"), before, after)
    _move(CompRange, "parcel", ("team",), before, after)
    _move(ConditionGrade, "parcel", ("team", "sold_on"), before, after)


def _move(
    model: type[CompDecision] | type[CompRange] | type[ConditionGrade] | type[ScreenedParcel],
    name: str,
    beside: tuple[str, ...],
    before: int,
    after: int,
) -> None:
    """Have rows be of another parcel; where that has such a row already, its own stands."""
    taken = set(model.objects.filter(**{name: after}).values_list(*beside))
    for row in model.objects.filter(**{name: before}).values_list("pk", *beside):
        rows = model.objects.filter(pk=row[0])
        if row[1:] in taken:
            rows.delete()
        else:
            rows.update(**{name: after})
