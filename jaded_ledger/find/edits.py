"""Edits of a page of Find: one act, or several that followed fast upon each other, from the page as it was seen."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from django.http import Http404, QueryDict

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.acts import VERBS, Lines
from jaded_ledger.core.criteria.asking import answered, questions
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Line, Search
from jaded_ledger.core.criteria.set_members import Sense, takes_members, with_member
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.column_sets import columns_of_set
from jaded_ledger.find.columns import moved, shown_columns
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.rows_by_hand import is_taken_out, line_keeping, line_without
from jaded_ledger.find.search_page import SearchPage, columns_of, search_page_of
from jaded_ledger.find.suggestions import first_offered
from jaded_ledger.find.unrecorded_names import check_names

_MOST_ACTS = 100
"""More acts can't be waiting for their answer."""


class RefusedActError(CriteriaError):
    """An act that can't be done, of several: ``number`` says which, from 0."""

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
        """Where the page stood after each act but the last, for acts that came together: each is undone by itself."""
        self.opens = opens if opens in CATALOGUE else ""
        """The trait whose editor opens: it was taken by its name, and its value is still to be said."""

    @property
    def search_page(self) -> SearchPage:
        """Where the page stands after what was done to it; a changed search begins at its first page."""
        return self._place.with_search(self.lines.search) if self._is_changed else self._place

    def do(self, act: str, query: QueryDict) -> None:
        """Do one act: ``verb:argument``. Raises CriteriaError, and Http404 for what is no act."""
        verb, _, argument = act.partition(":")
        match verb:
            case "columns" | "show" | "hide" | "place" | "column-set":
                self._place = replace(self._place, columns=self._columns_after(verb, argument, query))
                return
            case "counties":
                self.lines.counties = tuple(query.getlist("county"))
            case "answer":
                self._answer(query)
            case "add":
                self._add(argument)
            case "take":
                self._take(argument)
            case "take-out" | "put-back":
                self._by_hand(verb, argument)
            case "keep" | "no-longer-keep":
                self._keep_by_hand(verb, argument, query)
            case Sense.INCLUDE | Sense.EXCLUDE | Sense.LEAVE:
                self._set_member(Sense(verb), *argument.partition(":")[::2])
            case "text":
                self.lines = Lines(parse(query.get("text", "")))
            case _ if verb in VERBS:
                number, _, other = argument.partition(":")
                self.lines.do(verb, number, other)
            case _:
                raise Http404(act)
        self._is_changed = True

    def _columns_after(self, verb: str, argument: str, query: QueryDict) -> tuple[str, ...] | None:
        """Return the columns after an act on them; None for the usual ones."""
        shown = shown_columns(self._place, self._scope)
        match verb:
            case "columns":
                ticked = dict.fromkeys(key for key in query.getlist("column") if key in CATALOGUE)
                # Those that were there keep their order.
                return tuple(dict.fromkeys([*(key for key in shown if key in ticked), *ticked]))
            case "show":
                return tuple(dict.fromkeys([*shown, *columns_of(argument)]))
            case "hide":
                return tuple(key for key in shown if key != argument)
            case "place":
                key, _, before = argument.partition(":")
                return moved(shown, key, before) if key in shown else shown
        return columns_of_set(argument, self._scope)

    def _answer(self, query: QueryDict) -> None:
        """Fill in what was answered of what the search asks; what is left blank goes on waiting."""
        search = self.lines.search
        for question, value in zip([one for one in questions(search) if one.waits], query.getlist("answer"), strict=False):
            if value.strip():
                search = answered(search, question, value)
        self.lines = Lines(search)

    def _add(self, text: str) -> None:
        added = parse(text)
        if not added.counties and not added.lines:
            raise CriteriaError("nothing is typed yet; write a trait, a value, a street or an owner")
        self._check_names(added)
        self.lines.add(added)

    def _check_names(self, added: Search) -> None:
        counties = compile(replace(added, counties=added.counties or self.lines.counties), self._scope).counties
        for criterion in added:
            check_names(criterion, counties, self._scope)

    def _take(self, typed: str) -> None:
        """Take what was typed in the box and sent without waiting for what it offers: what it would have offered first."""
        typed = typed.strip()
        if not typed or ":" in typed:
            self._add(typed)
            return
        if self.opens and self._is_value(typed):
            return
        first = first_offered(typed, self.lines.search, self._scope)
        if first.line:
            self._add(first.line)
        else:
            self.opens = first.trait.key

    def _set_member(self, sense: Sense, key: str, name: str) -> None:
        """Have the line about a set, such as the areas, include or exclude one more of it, or leave it out of the question."""
        trait = CATALOGUE.get(key)
        if trait is None or trait.kind is not Kind.SET:
            raise Http404(key)

        def fits(line: Line) -> bool:
            return takes_members(line, key)

        before = next(filter(fits, self.lines.search.lines), None)
        changed = with_member(before, key, name, sense)
        if changed:
            self._check_names(Search((), (changed,)))
        self.lines.put_in_place_of(fits, changed)

    def _by_hand(self, verb: str, ids: str) -> None:
        """Take rows out by hand, by the ids of their parcels, or put them back; a line of the search says so."""
        rows = [pk for part in ids.split(",") if (pk := whole_number(part)) is not None]
        line = next((line for line in self.lines.search.lines if is_taken_out(line)), None)
        if verb == "take-out":
            changed = line_without(self._scope, line, rows)
        else:
            changed = line_without(self._scope, line, (), rows) if line else None
        self.lines.put_in_place_of(is_taken_out, changed)

    def _keep_by_hand(self, verb: str, argument: str, query: QueryDict) -> None:
        """Keep a row that a line takes off, ``line:parcel``, with the reason that was typed, otherwise how it fails; or no longer."""
        number, _, ids = argument.partition(":")
        rows = [pk for part in ids.split(",") if (pk := whole_number(part)) is not None]
        more = {pk: query.get(f"reason-{pk}") or query.get(f"told-{pk}", "") for pk in rows} if verb == "keep" else {}
        self.lines.put(number, line_keeping(self._scope, self.lines.line(number), more, () if more else rows))

    def _is_value(self, typed: str) -> bool:
        """Add the criterion of the trait that was taken before, where what was typed is its value."""
        try:
            self._add(f"{self.opens}: {typed}")
        except CriteriaError:
            return False
        self.opens = ""
        return True

    def changed(self) -> SearchPage:
        """Return the place after its lines were changed otherwise than by an act."""
        self._is_changed = True
        return self.search_page


def edited_page_of(query: QueryDict, scope: Scope) -> EditedPage:
    """Return the page that a request is about: the one at its address, after the acts that still wait for their answer.

    Raises CriteriaError and Http404.
    """
    page = EditedPage(search_page_of(query, scope.team), scope, query.get("opens", ""))
    apply_edits(page, query.getlist("before"), query)
    return page


def apply_edits(page: EditedPage, acts: Iterable[str], query: QueryDict) -> None:
    """Do acts one after another. Raises CriteriaError and Http404."""
    for number, act in enumerate(acts):
        if number >= _MOST_ACTS:
            raise Http404("no hand is so quick")
        try:
            page.do(act, query)
            page.steps.append(page.search_page)
        except CriteriaError as error:
            raise RefusedActError(error, number) from error
