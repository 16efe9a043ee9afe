"""Every place where an app adds itself. Each function says what a place is for and what an app gives to it.

The program's own features stand in the same places: look for the same name in the apps' ``plugin`` modules.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING

from jaded_ledger.plugins import hookspec

if TYPE_CHECKING:
    from datetime import date, datetime

    from jaded_ledger.accounts.audit import Audited
    from jaded_ledger.accounts.deletion import Deletion
    from jaded_ledger.accounts.roles import Act
    from jaded_ledger.accounts.scope import Scope
    from jaded_ledger.find.answer import Answer
    from jaded_ledger.find.results import RowMark
    from jaded_ledger.find.search_page import SearchPage
    from jaded_ledger.find.team_traits import TeamTrait
    from jaded_ledger.lists.models import ParcelList
    from jaded_ledger.made_files.kinds import FileKind
    from jaded_ledger.mailings.mail_houses import MailHouse
    from jaded_ledger.plugins.entries import (
        Due,
        Face,
        FindOutput,
        Happening,
        InnerPlace,
        NavigationPlace,
        PagePart,
        PropertyAct,
        PropertySection,
        SelectionAct,
    )
    from jaded_ledger.records.jobs import Waiting
    from jaded_ledger.records.models import Parcel
    from jaded_ledger.searches.models import SavedSearch


@hookspec
def navigation() -> Iterable[NavigationPlace]:
    """Return the app's places in the navigation at the left of every page."""


@hookspec
def inner_places() -> Iterable[InnerPlace]:
    """Return the app's pages within a place of the navigation, which stand in a row at the top of each of them."""


@hookspec(firstresult=True)
def named_search(name: str, scope: Scope) -> SearchPage | None:
    """Return the page of Find that is kept under a name, for commands. Raises CriteriaError for a name that nothing is kept under."""


@hookspec
def find_outputs() -> Iterable[FindOutput]:
    """Return what ``bin/manage find`` can do with the matches of a search, beside telling how many there are."""


@hookspec
def pages() -> Mapping[str, str]:
    """Return the app's pages that templates of other apps link to: by a word, the name of its address."""


@hookspec
def acts() -> Iterable[Act]:
    """Return what in the app not everybody may do, by role."""


@hookspec
def deletions() -> Iterable[Deletion]:
    """Return which of the app's rows are deleted so that they can be undeleted, and how."""


@hookspec
def audited(scope: Scope, begins: datetime, ends: datetime) -> Iterable[Audited]:
    """Return what the team's people did between two moments, as the app's own log has it, in any order: for the team's owner."""


@hookspec
def faces() -> Iterable[Face]:
    """Return ways to see the matches of a search in Find. Of several, the user turns from one to the other."""


@hookspec
def beneath_ledger(answer: Answer) -> Iterable[PagePart]:
    """Return what stands beneath the ledger of a search in Find, for its answer. It is asked with every edit, so it has to be quick."""


@hookspec
def first_visit(scope: Scope) -> Iterable[PagePart]:
    """Return what Find offers, in the place of rows, to somebody who has asked nothing yet."""


@hookspec
def proposed_answers(answer: Answer) -> Mapping[tuple[int, int], str]:
    """Return the values, as they are typed, that are proposed for what a search asks: by its line and which member of it asks."""


@hookspec
def selection_acts() -> Iterable[SelectionAct]:
    """Return what can be done with rows chosen in Find: the buttons at the foot of the results."""


@hookspec
def file_kinds() -> Iterable[FileKind]:
    """Return the kinds of files that the app makes for users: a large one is made by the worker."""


@hookspec
def mail_houses() -> Iterable[MailHouse]:
    """Return the mail houses that print and post mailings: what each charges, and how it is given one and asked about it."""


@hookspec
def row_marks(parcel_ids: Collection[int], scope: Scope) -> Mapping[int, Sequence[RowMark]]:
    """Return the marks that rows of Find's table wear, by parcel: what the app has to say of a parcel at a glance."""


@hookspec
def team_traits() -> Iterable[TeamTrait]:
    """Return the traits whose values each team has of its own: each declared with how it is asked, shown, sorted and explained."""


@hookspec
def property_sections() -> Iterable[PropertySection]:
    """Return sections of a property's page that are not recorded rows."""


@hookspec
def property_acts() -> Iterable[PropertyAct]:
    """Return what can be done to a property on its page."""


@hookspec
def about_list(which: ParcelList, scope: Scope) -> Iterable[PagePart]:
    """Return what the app has to say of a list: it stands above its rows, on its own page."""


@hookspec
def about_search(saved: SavedSearch, scope: Scope) -> Iterable[PagePart]:
    """Return what the app has to say of a saved search: it stands beside what is said of it, on its own page."""


@hookspec
def due(scope: Scope, until: date) -> Iterable[Due]:
    """Return what wants the team's attention from today to a day, the day included, in any order (``bin/manage due``)."""


@hookspec
def happened(parcel: Parcel, scope: Scope) -> Iterable[Happening]:
    """Return what the team has done with a property in the app, in any order; its page shows it with that of the other apps."""


@hookspec
def parcel_joined(before: int, after: int) -> None:
    """Have what the app keeps of a parcel be of another from now on: it was begun at its address, and its number has become known."""


@hookspec
def values_calculated(scope: Scope) -> None:
    """Have what rests on a team's values by comps be computed anew: those of a list were calculated."""


@hookspec
def waiting_rows() -> Iterable[Waiting]:
    """Return the kinds of rows that a job of the worker is done for, so that none of them waits without one."""
