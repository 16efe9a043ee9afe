"""Find: the editor of one line, and what it asks for while it is open."""

from __future__ import annotations

from dataclasses import dataclass, replace

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import line_phrase
from jaded_ledger.core.criteria.search import AnyOf, Criterion, Line, Search
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.balance import count_matches
from jaded_ledger.find.by_a_hair import SHOWN, near_misses, near_misses_of_all
from jaded_ledger.find.compiler import compile, compiled_or_opening
from jaded_ledger.find.corrections import Offered, correction_in
from jaded_ledger.find.editor_fields import criterion_from, in_place_of
from jaded_ledger.find.edits import EditedPage, edited_page_of
from jaded_ledger.find.fill import fills
from jaded_ledger.find.histogram import histogram
from jaded_ledger.find.line_editor import Editor, date_presets, editor_of, editor_with, not_there, options_for
from jaded_ledger.find.pasted_lines import criterion_of, match_lines
from jaded_ledger.find.responses import book_response, error_response, page_or_empty, sent_query, trait_of
from jaded_ledger.find.rows_by_hand import is_by_hand, kept_in, rows_of
from jaded_ledger.find.said import LONGEST_TYPED, reading_of
from jaded_ledger.find.unrecorded_names import check_names
from jaded_ledger.find.value_counts import counts_of_matches
from jaded_ledger.records.trait_columns import FEW
from jaded_ledger.web.middleware import only_reads


@dataclass(frozen=True)
class _Edited:
    """Which line of a page is edited, or which member of a group; None for a new criterion about a trait."""

    page: EditedPage
    trait: Trait
    number: str
    member: str
    line: Line | None
    criterion: Criterion | None

    @property
    def others(self) -> Search:
        """The search without the line: what is counted in its editor."""
        if self.line is None:
            return self.page.search_page.search
        search = self.page.lines.search
        return search.without_line(self.page.lines.place_of(self.number))

    def with_criterion(self, criterion: Criterion) -> Line:
        """Return the line as it is with another criterion."""
        if isinstance(self.line, AnyOf):
            members = list(self.line.criteria)
            members[int(self.member)] = criterion
            return replace(self.line, criteria=tuple(members))
        return in_place_of(self.line, criterion)

    def put(self, criterion: Criterion) -> None:
        """Put a criterion in its place. Raises CriteriaError."""
        if self.line is None:
            self.page.lines.add(Search((), (criterion,)))
        else:
            self.page.lines.put(self.number, self.with_criterion(criterion))


def _edited(request: HttpRequest, page: EditedPage) -> _Edited:
    """Return what a request edits. Raises Http404 and CriteriaError."""
    number, member = sent_query(request).get("line", ""), sent_query(request).get("member", "")
    if not number:
        return _Edited(page, trait_of(request), "", "", None, None)
    line = page.lines.line(number)
    members = line.members()
    place = whole_number(member) if isinstance(line, AnyOf) else 0
    if place is None or place >= len(members):
        raise Http404("a group has an editor of its own")
    criterion = members[place]
    return _Edited(page, CATALOGUE[criterion.trait], number, member, line, criterion)


def _rendered(request: HttpRequest, editor: Editor) -> HttpResponse:
    return render(request, "find/_editor.html", {"editor": editor, "presets": date_presets(editor.trait)})


@require_http_methods(["GET", "POST"])
@only_reads
def edit(request: HttpRequest) -> HttpResponse:
    """The editor of a line or of a new criterion; with ``set`` its answer: the book, or the editor saying what is wrong."""
    scope = scope_of(request)
    try:
        edited = _edited(request, edited_page_of(sent_query(request), scope))
        others = compiled_or_opening(edited.others, scope)
        fill = fills(others.counties)[edited.trait.key]
    except CriteriaError as error:
        return error_response(request, scope, error)
    except KeyError:
        raise Http404("the chosen counties have no such trait") from None
    editor = editor_of(edited.trait, edited.criterion, edited.number, edited.member, others, fill)
    if not {"set", "preset", "as_text"} & sent_query(request).keys():
        return _rendered(request, editor)
    try:
        criterion = criterion_from(edited.trait, sent_query(request))
        edited.put(criterion)
        check_names(criterion, compile(Search(edited.page.lines.counties, (criterion,)), scope).counties, scope)
    except CriteriaError as error:
        response = _rendered(request, editor_with(sent_query(request), editor, others, error.message))
        response["HX-Retarget"], response["HX-Reswap"] = "#editor", "outerHTML"
        return response
    return book_response(request, edited.page.changed(), scope, correction=_correction(request, edited, scope))


def _correction(request: HttpRequest, edited: _Edited, scope: Scope) -> Offered | None:
    """Return how an edit corrects the sentence that was typed right before it."""
    said = sent_query(request).get("said", "")[:LONGEST_TYPED]
    if not said or edited.line is None:
        return None
    counties = compiled_or_opening(edited.others, scope).counties
    return correction_in(reading_of(said, counties, scope), edited.line, edited.page.lines.line(edited.number))


@require_http_methods(["GET", "POST"])
@only_reads
def preview(request: HttpRequest) -> HttpResponse:
    """What the editor, as it is filled in, would leave: said beside its button, nothing is changed."""
    scope = scope_of(request)
    try:
        edited = _edited(request, edited_page_of(sent_query(request), scope))
        others = compiled_or_opening(edited.others, scope)
        line = edited.with_criterion(criterion_from(edited.trait, sent_query(request)))
        left = _count(edited.others, replace(line, struck=False), scope)
    except CriteriaError as error:
        return render(request, "find/_leaves.html", {"error": error})
    return render(request, "find/_leaves.html", {"left": left, "of": count_matches(others)})


def _count(others: Search, line: Line, scope: Scope) -> int:
    return count_matches(compile(others.with_line(line), scope))


@require_http_methods(["GET", "POST"])
@only_reads
def names(request: HttpRequest) -> HttpResponse:
    """Recorded names that fit what is typed in a name's editor, to be ticked; of several pasted, which are not there."""
    scope = scope_of(request)
    page = page_or_empty(request, scope)
    try:
        edited = _edited(request, page)
    except CriteriaError as error:
        return render(request, "find/_wrong.html", {"error": error})
    others = compiled_or_opening(edited.others, scope)
    words = sent_query(request).get("words", "")
    context = {
        "options": options_for(edited.trait, sent_query(request).getlist("tick"), words, others),
        "missing": not_there(edited.trait, words, sent_query(request).get("match", ""), others),
    }
    return render(request, "find/_options.html", context)


@require_GET
def picture(request: HttpRequest) -> HttpResponse:
    """What a trait means and how its values are spread over the matches: what the box shows of the marked suggestion."""
    scope = scope_of(request)
    trait = trait_of(request)
    compiled = compiled_or_opening(page_or_empty(request, scope).search_page.search, scope)
    context: dict[str, object] = {"trait": trait}
    if trait.is_range:
        context["picture"] = histogram(compiled, trait, None)
    elif trait.kind in FEW:
        context["values"] = counts_of_matches(compiled, trait).most_common(4)
    return render(request, "find/_picture.html", context)


@require_POST
@only_reads
def pasted(request: HttpRequest) -> HttpResponse:
    """A column that was pasted into the add box: what of it is on record; with ``set`` its parcels as a criterion."""
    scope = scope_of(request)
    text = request.POST.get("pasted", "")
    page = page_or_empty(request, scope)
    compiled = compiled_or_opening(page.search_page.search, scope)
    try:
        found = match_lines(text, compiled)
        if "set" in request.POST:
            page.lines.add(Search((), (criterion_of(found, compiled.counties),)))
            return book_response(request, page.changed(), scope)
    except CriteriaError as error:
        return error_response(request, scope, error)
    return render(request, "find/_pasted.html", {"found": found, "pasted": text})


@require_GET
def by_hand(request: HttpRequest) -> HttpResponse:
    """The rows that a line leaves out, or keeps, by hand: who did, when and why, and each to be put back."""
    scope = scope_of(request)
    lines = page_or_empty(request, scope).lines.search.lines
    place = whole_number(request.GET.get("line"))
    if place is None or place >= len(lines) or not is_by_hand(lines[place]):
        raise Http404("nothing of this line was done by hand")
    try:
        rows = rows_of(lines[place], scope.team)
    except CriteriaError as error:
        return error_response(request, scope, error)
    context = {"rows": rows, "place": place, "is_kept": kept_in(lines[place]) is not None}
    return render(request, "find/_by_hand.html", context)


@require_GET
def nearly(request: HttpRequest) -> HttpResponse:
    """What one line, or each of them, takes off by a hair."""
    scope = scope_of(request)
    search = page_or_empty(request, scope).lines.search
    place = whole_number(request.GET.get("line"))
    if place is not None and place >= len(search.lines):
        raise Http404("that line is no longer there")
    try:
        found = near_misses_of_all(search, scope) if place is None else near_misses(search, place, scope)
    except CriteriaError as error:
        return error_response(request, scope, error)
    lines = [(number, line_phrase(line)) for number, line in enumerate(search.lines) if line.is_applied]
    return render(request, "find/_nearly.html", {"found": found, "place": place, "lines": lines, "shown": SHOWN})
