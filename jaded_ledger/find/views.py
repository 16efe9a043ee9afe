"""Find: the ledger of criteria and its matches. Every search is an address; every edit leads to another one."""

from __future__ import annotations

from typing import Any
from urllib.parse import quote, urlencode

from django.db.models import Count
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import AnyOf, Search
from jaded_ledger.core.criteria.text import CriteriaError, format
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find import selections
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.compiler import compile, compiled_or_opening
from jaded_ledger.find.edit_requests import asked_edit, parcels_in
from jaded_ledger.find.editor_fields import group_from, group_text, in_place_of
from jaded_ledger.find.edits import RefusedEditError, edited_page_of
from jaded_ledger.find.faces import keep_layout
from jaded_ledger.find.fill import fills
from jaded_ledger.find.reading_views import counted, reading_view
from jaded_ledger.find.responses import book_response, error_response, page_context, page_or_empty, sent_query
from jaded_ledger.find.said import LONGEST_TYPED, is_sentence, reading_of
from jaded_ledger.find.search_page import SearchPage, search_page_of, search_text
from jaded_ledger.find.selections import selection_acts
from jaded_ledger.find.suggestions import browse, offered
from jaded_ledger.find.totals import totals, totals_of_matches
from jaded_ledger.web.middleware import only_reads


@require_GET
def find(request: HttpRequest) -> HttpResponse:
    """The page itself. A text that can't be read comes back in the text editor, with what is wrong."""
    scope = scope_of(request)
    try:
        search_page = edited_page_of(sent_query(request), scope).search_page
    except CriteriaError as error:
        said = {"as_text": search_text(sent_query(request), scope.team), "text_error": error}
        return render(request, "find/find.html", page_context(request, Answer(SearchPage(Search()), scope)) | said)
    if request.htmx and request.htmx.target == "search":  # type: ignore[attr-defined]
        return book_response(request, search_page, scope)
    return render(request, "find/find.html", page_context(request, Answer(search_page, scope)))


@require_GET
def face(request: HttpRequest) -> HttpResponse:
    """A face of the results alone, as it is when it is turned to."""
    scope = scope_of(request)
    try:
        search_page = edited_page_of(sent_query(request), scope).search_page
    except CriteriaError as error:
        return error_response(request, scope, error)
    context = page_context(request, Answer(search_page, scope))
    return render(request, "find/_faces.html", context)


@require_POST
def layout(request: HttpRequest) -> HttpResponse:
    """Keep how the user has Find laid out."""
    keep_layout(request.user, request.POST)  # type: ignore[arg-type]
    return HttpResponse(status=204)


@require_http_methods(["GET", "POST"])
@only_reads
def change(request: HttpRequest) -> HttpResponse:
    """Do one act to a search and answer with the book as it is then."""
    scope, query = scope_of(request), sent_query(request)
    before = query.getlist("before")
    try:
        page = edited_page_of(query, scope)
        edit = asked_edit(query)
        page.do(edit)
    except CriteriaError as error:
        response = error_response(request, scope, error)
        response["Refused-Act"] = str(error.number if isinstance(error, RefusedEditError) else len(before))
        return response
    typed = _typed(request) if edit.verb in ("add", "take") else ""
    said = typed if ":" not in typed and is_sentence(typed) else ""
    return book_response(request, page.search_page, scope, opens=page.opens, steps=page.steps, said=said)


@require_GET
def as_text(request: HttpRequest) -> HttpResponse:
    """The ledger as its text, to be edited."""
    scope = scope_of(request)
    try:
        search_page = edited_page_of(sent_query(request), scope).search_page
        text = format(search_page.search)
    except CriteriaError:
        search_page, text = SearchPage(Search()), search_text(sent_query(request), scope.team)
    return render(request, "find/_text.html", {"as_text": text, "state": search_page.query(scope.team)})


@require_GET
def suggestions(request: HttpRequest) -> HttpResponse:
    """What the add box offers for what is typed; all traits by section when nothing is."""
    scope = scope_of(request)
    search = page_or_empty(request, scope).search_page.search
    if typed := _typed(request):
        offer = offered(typed, search, scope)
        read = reading_view(typed, offer.reading) if offer.reading else None
        return render(request, "find/_suggestions.html", {"typed": typed, "found": offer.found, "reading": read})
    return render(request, "find/_suggestions.html", {"sections": browse(fills(compiled_or_opening(search, scope).counties))})


def _typed(request: HttpRequest) -> str:
    return sent_query(request).get("typed", "").strip()[:LONGEST_TYPED]


@require_GET
def reading(request: HttpRequest) -> HttpResponse:
    """How the box reads a sentence, with how many parcels are left after each part of it."""
    scope, typed = scope_of(request), _typed(request)
    search = page_or_empty(request, scope).search_page.search
    counties = compiled_or_opening(search, scope).counties
    read = reading_of(typed, counties, scope)
    return render(request, "find/_reading.html", {"reading": counted(reading_view(typed, read), search, scope)})


@require_http_methods(["GET", "POST"])
@only_reads
def edit_group(request: HttpRequest) -> HttpResponse:
    """The editor of an any-of group, its members one a line; with ``set`` its answer."""
    scope = scope_of(request)
    number = sent_query(request).get("line", "")
    try:
        page = edited_page_of(sent_query(request), scope)
        line = page.lines.line(number) if number else None
    except CriteriaError as error:
        return error_response(request, scope, error)
    if line is not None and not isinstance(line, AnyOf):
        raise Http404("that line is not a group")
    context: dict[str, Any] = {"line": number, "members": sent_query(request).get("members", group_text(line or AnyOf(())))}
    if "set" not in sent_query(request):
        return render(request, "find/_group_editor.html", context)
    try:
        group = group_from(context["members"])
        compile(Search(page.lines.counties, (group,)), scope)
    except CriteriaError as error:
        response = render(request, "find/_group_editor.html", context | {"error": error})
        response["HX-Retarget"], response["HX-Reswap"] = "#editor", "outerHTML"
        return response
    if line is None:
        page.lines.add(Search((), (group,)))
    else:
        page.lines.put(number, in_place_of(line, group))
    return book_response(request, page.changed(), scope)


@require_POST
@only_reads
def chosen(request: HttpRequest) -> JsonResponse:
    """How many owners the chosen rows have."""
    scope = scope_of(request)
    ids, is_all = parcels_in(request.POST.get("ids", "")), bool(request.POST.get("all"))
    try:
        parcels = selections.chosen_from(search_page_of(request.POST, scope.team).search, scope, ids, is_all=is_all)
    except CriteriaError as error:
        return JsonResponse({"error": str(error)}, status=400)
    return JsonResponse(parcels.aggregate(owners=Count("owner", distinct=True)))


@require_GET
def parcels_of_owner(request: HttpRequest) -> HttpResponse:
    """The matches of one owner, as rows beneath that owner's."""
    scope = scope_of(request)
    try:
        answer = Answer(search_page_of(request.GET, scope.team), scope)
        owner = whole_number(request.GET.get("owner"))
        context = {"rows": answer.rows_of_owner(owner), "phrases": answer.phrases}
    except CriteriaError as error:
        return HttpResponse(str(error), status=400, content_type="text/plain")
    state = answer.asked.query(scope.team)
    return render(request, "find/_rows.html", context | {"state_query": urlencode(state, quote_via=quote), "beneath": owner or "none"})


@require_POST
@only_reads
def column_totals(request: HttpRequest) -> HttpResponse:
    """What the columns come to, for all matches and for those chosen: the foot of the table."""
    scope = scope_of(request)
    ids, is_all = parcels_in(request.POST.get("ids", "")), bool(request.POST.get("all"))
    try:
        answer = Answer(search_page_of(request.POST, scope.team), scope)
        traits = [CATALOGUE[key] for key in answer.columns]
        feet = [("all", totals_of_matches(answer.compiled, traits))]
        if ids:
            feet.append(("chosen", totals(selections.chosen_from(answer.asked.search, scope, ids, is_all=is_all), traits)))
    except CriteriaError as error:
        return HttpResponse(str(error), status=400, content_type="text/plain")
    return render(request, "find/_totals.html", {"feet": feet, "phrases": answer.phrases})


@require_POST
def keep_selection(request: HttpRequest) -> HttpResponse:
    """Keep what is chosen and go on to what shall be done with it."""
    scope = scope_of(request)
    try:
        search_page = search_page_of(request.POST, scope.team)
    except CriteriaError:
        # The page says what is wrong with the search, and nothing of it is lost.
        return redirect(f"{reverse('find:find')}?{urlencode({'q': request.POST.get('q', '')})}")
    ids = parcels_in(request.POST.get("ids", ""))
    act = next((act for act in selection_acts() if act.key == request.POST.get("then")), None)
    if act is None:
        raise Http404("there is no such thing to do")
    try:
        selection = selections.keep(scope, search_page, ids, is_all=bool(request.POST.get("all")))
    except ValueError:
        return redirect(search_page.address(scope.team))
    return redirect(reverse(act.url_name, args=[selection.key]))
