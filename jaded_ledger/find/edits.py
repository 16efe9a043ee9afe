"""Edits of a page of Find: one, or several that followed fast upon each other, done to the page as it was seen."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from django.http import Http404, QueryDict

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.acts import Lines
from jaded_ledger.core.criteria.asking import answered, questions
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Line, Search
from jaded_ledger.core.criteria.set_members import Sense, takes_members, with_member
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.find.column_sets import columns_of_set
from jaded_ledger.find.columns import moved, shown_columns
from jaded_ledger.find.edit_requests import COLUMN_VERBS, Edit, earlier_edits, parcels_in
from jaded_ledger.find.rows_by_hand import is_taken_out, line_keeping, line_without
from jaded_ledger.find.search_page import SearchPage, columns_of, search_page_of
from jaded_ledger.find.typed_criteria import check_recorded, criteria_of, meaning_of


class RefusedEditError(CriteriaError):
    """An edit that can't be done, of several: ``number`` says which, from 0."""

    def __init__(self, error: CriteriaError, number: int) -> None:
        super().__init__(error.message, line=error.line, word=error.word)
        self.number = number


class EditedPage:
    """A page of Find under the hand: its place, and its lines by the numbers under which they were seen."""

    def __init__(self, search_page: SearchPage, scope: Scope, opens: str = "") -> None:
        self._place = search_page
        self._scope = scope
        self.lines = Lines(search_page.search)
        self._is_changed = False
        self.steps: list[SearchPage] = []
        """Where the page stood after each edit but the last, for edits that came together: each is undone by itself."""
        self.opens = opens if opens in CATALOGUE else ""
        """The trait whose editor opens: it was taken by its name, and its value is still to be said."""

    @property
    def search_page(self) -> SearchPage:
        """Where the page stands after what was done to it; a changed search begins at its first page."""
        return self._place.with_search(self.lines.search) if self._is_changed else self._place

    def changed(self) -> SearchPage:
        """Return the place after its lines were changed otherwise than by an edit."""
        self._is_changed = True
        return self.search_page

    def do(self, edit: Edit) -> None:
        """Do one edit. Raises CriteriaError, and Http404 for a trait that there isn't."""
        if edit.verb in COLUMN_VERBS:
            self._place = replace(self._place, columns=self._columns_after(edit))
            return
        before = self.lines.search
        if added := self._lines_after(edit):
            check_recorded(added, before, self._scope)
        self._is_changed = True

    def _lines_after(self, edit: Edit) -> Search | None:
        """Change the lines, and return the criteria that were said anew: whether any record has their names is still to be checked."""
        match edit.verb:
            case "counties":
                self.lines.counties = tuple(edit.fields.getlist("county"))
            case "answer":
                self.lines = Lines(_with_answers(self.lines.search, edit.fields))
            case "add":
                return self._added(criteria_of(edit.argument))
            case "take":
                typed = meaning_of(edit.argument, self.lines.search, self._scope, self.opens)
                self.opens = typed.opens
                return self._added(typed.criteria) if typed.criteria else None
            case "take-out" | "put-back":
                self._take_out_by_hand(edit)
            case "keep" | "no-longer-keep":
                self._keep_by_hand(edit)
            case Sense.INCLUDE | Sense.EXCLUDE | Sense.LEAVE:
                return self._set_member(Sense(edit.verb), *edit.parts)
            case "text":
                self.lines = Lines(parse(edit.fields.get("text", "")))
            case verb:
                self.lines.do(verb, *edit.parts)
        return None

    def _added(self, criteria: Search) -> Search:
        self.lines.add(criteria)
        return criteria

    def _columns_after(self, edit: Edit) -> tuple[str, ...] | None:
        """Return the columns after an edit of them; None for the usual ones."""
        shown = shown_columns(self._place, self._scope)
        match edit.verb:
            case "columns":
                ticked = dict.fromkeys(key for key in edit.fields.getlist("column") if key in CATALOGUE)
                # Those that were there keep their order.
                return tuple(dict.fromkeys([*(key for key in shown if key in ticked), *ticked]))
            case "show":
                return tuple(dict.fromkeys([*shown, *columns_of(edit.argument)]))
            case "hide":
                return tuple(key for key in shown if key != edit.argument)
            case "place":
                key, before = edit.parts
                return moved(shown, key, before) if key in shown else shown
        return columns_of_set(edit.argument, self._scope)

    def _set_member(self, sense: Sense, key: str, name: str) -> Search | None:
        """Have the line about a set, such as the areas, include or exclude one more of it, or leave it out of the question."""
        trait = CATALOGUE.get(key)
        if trait is None or trait.kind is not Kind.SET:
            raise Http404(key)

        def fits(line: Line) -> bool:
            return takes_members(line, key)

        before = next(filter(fits, self.lines.search.lines), None)
        changed = with_member(before, key, name, sense)
        self.lines.put_in_place_of(fits, changed)
        return Search((), (changed,)) if changed else None

    def _take_out_by_hand(self, edit: Edit) -> None:
        """Take rows out by hand, by the ids of their parcels, or put them back; a line of the search says so."""
        rows = parcels_in(edit.argument)
        line = next((line for line in self.lines.search.lines if is_taken_out(line)), None)
        if edit.verb == "take-out":
            changed = line_without(self._scope, line, rows)
        else:
            changed = line_without(self._scope, line, (), rows) if line else None
        self.lines.put_in_place_of(is_taken_out, changed)

    def _keep_by_hand(self, edit: Edit) -> None:
        """Keep a row that a line takes off, ``line:parcel``, with the reason that was typed, otherwise how it fails; or no longer."""
        number, ids = edit.parts
        rows = parcels_in(ids)
        reasons = {pk: edit.fields.get(f"reason-{pk}") or edit.fields.get(f"told-{pk}", "") for pk in rows}
        more = reasons if edit.verb == "keep" else {}
        self.lines.put(number, line_keeping(self._scope, self.lines.line(number), more, () if more else rows))


def _with_answers(search: Search, fields: QueryDict) -> Search:
    """Fill in what was answered of what a search asks; what is left blank goes on waiting."""
    for question, value in zip([one for one in questions(search) if one.waits], fields.getlist("answer"), strict=False):
        if value.strip():
            search = answered(search, question, value)
    return search


def edited_page_of(query: QueryDict, scope: Scope) -> EditedPage:
    """Return the page that a request is about: the one at its address, after the edits that still wait for their answer.

    Raises CriteriaError and Http404.
    """
    page = EditedPage(search_page_of(query, scope.team), scope, query.get("opens", ""))
    _do_in_order(page, earlier_edits(query))
    return page


def _do_in_order(page: EditedPage, edits: Iterable[Edit]) -> None:
    for number, edit in enumerate(edits):
        try:
            page.do(edit)
            page.steps.append(page.search_page)
        except CriteriaError as error:
            raise RefusedEditError(error, number) from error
