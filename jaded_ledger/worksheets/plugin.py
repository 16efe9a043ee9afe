"""What worksheets and a property's files add to the program."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from django.urls import reverse

from jaded_ledger.accounts.deletion import Deletion
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Happening, NavigationPlace, PagePart, PropertyAct, PropertySection
from jaded_ledger.records.jobs import Waiting
from jaded_ledger.records.joined_parcels import move_rows
from jaded_ledger.records.models import Parcel
from jaded_ledger.worksheets import screened
from jaded_ledger.worksheets.acts import ACTS, FILES, WORKSHEETS
from jaded_ledger.worksheets.acts_on_property import ACTS_ON_PROPERTY
from jaded_ledger.worksheets.models import DealFile, ScreenedList, ScreenedParcel, Worksheet
from jaded_ledger.worksheets.section import section_context
from jaded_ledger.worksheets.services import title_of, worksheets_of
from jaded_ledger.worksheets.traits import TEAM_TRAITS


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def deletions() -> list[Deletion]:
    def page_of_file(file: DealFile) -> str:
        if file.worksheet_id:
            return reverse("worksheets:worksheet", args=[file.worksheet_id]) + "#files"
        return reverse("properties:property", args=[file.parcel_id]) + "#worksheets"

    return [
        Deletion(Worksheet, WORKSHEETS, lambda worksheet: reverse("worksheets:deals"), name=title_of),
        Deletion(DealFile, FILES, page_of_file),
    ]


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("deals", "Deals", "calculator", "worksheets:deals", 30)]


@hookimpl
def pages() -> dict[str, str]:
    return {"deals": "worksheets:deals", "new worksheet": "worksheets:begin-worksheet"}


@hookimpl
def property_acts() -> Sequence[PropertyAct]:
    return ACTS_ON_PROPERTY


@hookimpl
def property_sections() -> list[PropertySection]:
    return [PropertySection("worksheets", "Worksheets and files", "worksheets/_section.html", section_context, 21)]


@hookimpl
def team_traits() -> Sequence[TeamTrait]:
    return TEAM_TRAITS


@hookimpl
def about_list(which: ParcelList, scope: Scope) -> Iterator[PagePart]:
    is_screened = ScreenedList.objects.filter(list=which).exists()
    yield PagePart("worksheets/_list.html", {"list": which, "is_screened": is_screened}, 21)


@hookimpl
def values_calculated(scope: Scope) -> None:
    screened.ask_to_screen(scope)


@hookimpl
def waiting_rows() -> list[Waiting]:
    return [Waiting(screened.SCREEN, "team_id", screened.waiting)]


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    for worksheet in worksheets_of(scope).filter(parcel=parcel):
        by = worksheet.made_by.display_name if worksheet.made_by else ""
        yield Happening(worksheet.made_at, f"worksheet begun: {worksheet.get_stage_display()}", by)


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    Worksheet.objects.filter(parcel=before).update(parcel=after)
    DealFile.objects.filter(parcel=before).update(parcel=after)
    move_rows(ScreenedParcel, "parcel", ("team",), before, after)
