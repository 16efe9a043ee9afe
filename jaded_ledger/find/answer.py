"""What a page of Find answers: everything that is shown of a search, each part computed once, when it is first asked for."""

from __future__ import annotations

from math import ceil

from django.db.models import QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.lazy_property import lazy_property
from jaded_ledger.find.alternatives import Alternative, alternatives
from jaded_ledger.find.balance import Balance, balance, count_owners
from jaded_ledger.find.by_owner import MOST_BENEATH, OwnerRow, owner_rows, parcels_of_owner
from jaded_ledger.find.columns import shown_columns
from jaded_ledger.find.compiler import Compiled, chosen_counties, compile
from jaded_ledger.find.hits import AskedPhrase, asked_phrases
from jaded_ledger.find.reading_copy import answered
from jaded_ledger.find.results import PAGE, Row, page_of, rows
from jaded_ledger.find.row_marks import with_marks
from jaded_ledger.find.search_page import BY_OWNER, SearchPage
from jaded_ledger.find.sorting import in_order
from jaded_ledger.records.models import County, ParcelFacts


class Answer:
    """The answer to ``asked`` (search, columns, order, page) for ``scope`` (team, user, day).

    A page, the pager of a property's page, charts, maps and files take what they need of it. What needs the search to be askable
    raises CriteriaError.
    """

    def __init__(self, asked: SearchPage, scope: Scope) -> None:
        self.asked = asked
        self.scope = scope

    @lazy_property
    def counties(self) -> tuple[County, ...]:
        """The chosen counties, all of them where none is named."""
        return chosen_counties(self.asked.search)

    @lazy_property
    def compiled(self) -> Compiled:
        return compile(self.asked.search, self.scope)

    @lazy_property
    def phrases(self) -> tuple[AskedPhrase, ...]:
        """The phrases that its lines look for in remarks."""
        return asked_phrases(self.asked.search)

    @property
    def matches(self) -> QuerySet[ParcelFacts]:
        return self.compiled.matches

    @property
    def ordered(self) -> QuerySet[ParcelFacts]:
        """The matches in the order asked for."""
        return in_order(self.matches, self.asked.sort, self.phrases)

    @lazy_property
    def balance(self) -> Balance:
        """What each line takes off, and how many are left."""
        return balance(self.compiled)

    @lazy_property
    def owners(self) -> int:
        return count_owners(self.compiled)

    @lazy_property
    def columns(self) -> tuple[str, ...]:
        """The columns of its rows."""
        return shown_columns(self.asked, self.scope)

    @lazy_property
    def rows_there(self) -> int:
        """How many rows there are on all pages: the matches, or their owners and what is nobody's."""
        if self.asked.by != BY_OWNER:
            return self.balance.matches
        return self.owners + answered(self.compiled, lambda asked: parcels_of_owner(asked.matches, None).exists())

    @property
    def pages(self) -> int:
        return max(1, ceil(self.rows_there / PAGE))

    @property
    def page(self) -> int:
        """The page shown: the one asked for, or the last where there are not so many."""
        return min(self.asked.page, self.pages)

    @lazy_property
    def rows(self) -> list[Row]:
        """The rows of the page, with their marks."""
        if not self.balance.matches or self.asked.by == BY_OWNER:
            return []
        return with_marks(page_of(self.compiled, self.columns, self.asked.sort, self.page, self.phrases), self.scope)

    @lazy_property
    def owner_rows(self) -> list[OwnerRow]:
        """The owners of the page."""
        return owner_rows(self.compiled, self.columns, self.asked.sort, self.page) if self.balance.matches else []

    def rows_of_owner(self, owner: int | None) -> list[Row]:
        """Return the rows of one owner's parcels, at most two hundred of them; with None those that are nobody's."""
        theirs = parcels_of_owner(self.matches, owner)
        return with_marks(rows(theirs, self.columns, self.asked.sort, 1, self.phrases, MOST_BENEATH), self.scope)

    @lazy_property
    def alternatives(self) -> list[Alternative]:
        """What would not be empty, in place of the line that left nothing."""
        emptied_by = self.balance.emptied_by
        return [] if emptied_by is None else alternatives(self.asked.search, emptied_by, self.scope)
