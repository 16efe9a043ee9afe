"""Find: the ledger of criteria and its matches. Every search is an address; every edit leads to another one."""

from __future__ import annotations

from dataclasses import replace
from urllib.parse import urlencode

from django.db.models import Count
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import AnyOf, Criterion, Search
from jaded_ledger.core.criteria.text import CriteriaError, format, parse
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.find import selections
from jaded_ledger.find.addresses import Place, columns_of, place_of, search_text
from jaded_ledger.find.compiling import Compiled, compile
from jaded_ledger.find.editing import (
    DATE_PRESETS,
    Editor,
    criterion_from,
    editor_of,
    editor_with,
    group_from,
    group_text,
    options_for,
    replaced,
)
from jaded_ledger.find.fill import fills
from jaded_ledger.find.page import context_of
from jaded_ledger.find.suggesting import browse, suggest

FORWARD = {"labels": "outreach:labels", "contacts": "outreach:contacts"}
"""Where a selection can be sent on to."""


def _book(request: HttpRequest, place: Place, scope: Scope, *, push: bool = True) -> HttpResponse:
    """Answer with the open book, or for a browser without scripts with the address it stands at."""
    if not request.htmx:
        return redirect(place.address(scope.team))
    response = render(request, "find/_book.html", context_of(place, scope))
    if push:
        response["HX-Push-Url"] = place.address(scope.team)
    return response


@require_GET
def find(request: HttpRequest) -> HttpResponse:
    """The page itself. A text that can't be read comes back in the text editor, with what is wrong."""
    scope = scope_of(request)
    try:
        place = place_of(request.GET, scope.team)
    except CriteriaError as error:
        context = context_of(Place(Search()), scope)
        return render(
            request,
            "find/find.html",
            context | {"as_text": search_text(request.GET, scope.team), "text_error": error},
        )
    if request.htmx and request.htmx.target == "book":
        return _book(request, place, scope)
    return render(request, "find/find.html", context_of(place, scope))


def _line_number(text: str, search: Search) -> int:
    if not text.isdecimal() or int(text) >= len(search.lines):
        raise CriteriaError("that line is no longer there; the search was changed in the meantime")
    return int(text)


def _with_unknowns(search: Search, number: int) -> Search:
    line = search.lines[number]
    return search.with_line_at(number, replace(line, unknown=True)) if isinstance(line, Criterion) else search


def _edited(place: Place, act: str, query: QueryDict) -> Place:
    """Return the place after one act of the ledger. Raises CriteriaError."""
    verb, _, argument = act.partition(":")
    search = place.search
    if verb == "counties":
        return place.with_search(replace(search, counties=tuple(query.getlist("county"))))
    if verb == "columns":
        return replace(place, columns=tuple(key for key in query.getlist("column") if key in CATALOGUE))
    if verb == "show":
        return replace(place, columns=tuple(dict.fromkeys([*place.columns, *columns_of(argument)])))
    if verb == "add":
        added = parse(argument)
        if not added.counties and not added.lines:
            raise CriteriaError("nothing is typed yet; write a trait, a value, a street or an owner")
        counties = added.counties or search.counties
        return place.with_search(replace(search, counties=counties, lines=(*search.lines, *added.lines)))
    if verb == "text":
        return place.with_search(parse(query.get("text", "")))
    number = _line_number(argument, search)
    acts = {
        "strike": lambda: search.with_struck(number, True),
        "apply": lambda: search.with_struck(number, False),
        "remove": lambda: search.without_line(number),
        "up": lambda: search.with_moved(number, -1),
        "down": lambda: search.with_moved(number, 1),
        "unknowns": lambda: _with_unknowns(search, number),
    }
    if verb not in acts:
        raise Http404(act)
    return place.with_search(acts[verb]())


@require_GET
def change(request: HttpRequest) -> HttpResponse:
    """Do one act to a search and answer with the book as it is then."""
    scope = scope_of(request)
    try:
        place = place_of(request.GET, scope.team)
        # What was typed in the add box and sent without choosing a suggestion.
        act = request.GET.get("do") or f"add:{request.GET.get('typed', '')}"
        place = _edited(place, act, request.GET)
    except CriteriaError as error:
        return _refused(request, scope, error)
    return _book(request, place, scope)


def _refused(request: HttpRequest, scope: Scope, error: CriteriaError) -> HttpResponse:
    """Say what is wrong where it was typed; the page stays as it is."""
    if not request.htmx:
        context = context_of(Place(Search()), scope)
        context |= {"as_text": request.GET.get("text") or search_text(request.GET, scope.team), "text_error": error}
        return render(request, "find/find.html", context)
    is_text = request.GET.get("do") == "text"
    response = render(request, "find/_wrong.html", {"error": error})
    response["HX-Retarget"] = "#text-wrong" if is_text else "#add-wrong"
    response["HX-Reswap"] = "innerHTML"
    return response


@require_GET
def as_text(request: HttpRequest) -> HttpResponse:
    """The ledger as its text, to be edited."""
    scope = scope_of(request)
    try:
        place = place_of(request.GET, scope.team)
        text = format(place.search)
    except CriteriaError:
        place, text = Place(Search()), search_text(request.GET, scope.team)
    return render(request, "find/_text.html", {"as_text": text, "state": place.query(scope.team)})


def _askable(place: Place, scope: Scope) -> Compiled:
    """Return the search compiled, or when it can't be asked, its counties alone."""
    try:
        return compile(place.search, scope)
    except CriteriaError:
        return compile(Search(), scope)


@require_GET
def suggestions(request: HttpRequest) -> HttpResponse:
    """What the add box offers for what is typed; all traits by section when nothing is."""
    scope = scope_of(request)
    compiled = _askable(_place_or_empty(request, scope), scope)
    known = fills(compiled.counties)
    typed = request.GET.get("typed", "").strip()[:200]
    context = {"typed": typed, "found": suggest(typed, compiled, known, scope)} if typed else {"sections": browse(known)}
    return render(request, "find/_suggestions.html", context)


def _place_or_empty(request: HttpRequest, scope: Scope) -> Place:
    try:
        return place_of(request.GET, scope.team)
    except CriteriaError:
        return Place(Search())


def _editor(request: HttpRequest, place: Place, scope: Scope) -> tuple[Editor, Compiled]:
    """Return the editor that a request names by line or by trait. Raises Http404 and CriteriaError."""
    compiled = _askable(place, scope)
    known = fills(compiled.counties)
    if line := request.GET.get("line", ""):
        number = _line_number(line, place.search)
        criterion = place.search.lines[number]
        if not isinstance(criterion, Criterion):
            raise Http404("a group has an editor of its own")
        return editor_of(CATALOGUE[criterion.trait], criterion, number, compiled, known), compiled
    return editor_of(_trait(request), None, None, compiled, known), compiled


def _trait(request: HttpRequest) -> Trait:
    trait = CATALOGUE.get(request.GET.get("trait", ""))
    if trait is None or trait.key == "county":
        raise Http404("there is no such trait")
    return trait


@require_GET
def edit(request: HttpRequest) -> HttpResponse:
    """The editor of a line or of a new criterion; with ``set`` its answer: the book, or the editor saying what is wrong."""
    scope = scope_of(request)
    try:
        place = place_of(request.GET, scope.team)
        editor, compiled = _editor(request, place, scope)
    except CriteriaError as error:
        return _refused(request, scope, error)
    if "set" not in request.GET and "preset" not in request.GET and "as_text" not in request.GET:
        return render(request, "find/_editor.html", {"editor": editor, "presets": DATE_PRESETS})
    try:
        criterion = criterion_from(editor.trait, request.GET)
        search = replaced(place.search, editor.place, criterion)
        compile(Search(place.search.counties, (criterion,)), scope)
    except CriteriaError as error:
        filled = editor_with(request.GET, editor, compiled, error.message)
        response = render(request, "find/_editor.html", {"editor": filled, "presets": DATE_PRESETS})
        response["HX-Retarget"], response["HX-Reswap"] = "#editor", "outerHTML"
        return response
    return _book(request, place.with_search(search), scope)


@require_GET
def edit_group(request: HttpRequest) -> HttpResponse:
    """The editor of an any-of group, its members one a line; with ``set`` its answer."""
    scope = scope_of(request)
    try:
        place = place_of(request.GET, scope.team)
        number = _line_number(request.GET["line"], place.search) if request.GET.get("line") else None
    except CriteriaError as error:
        return _refused(request, scope, error)
    line = place.search.lines[number] if number is not None else AnyOf(())
    if not isinstance(line, AnyOf):
        raise Http404("that line is not a group")
    context = {"place": number, "members": request.GET.get("members", group_text(line))}
    if "set" not in request.GET:
        return render(request, "find/_group_editor.html", context)
    try:
        group = group_from(context["members"])
        compile(Search(place.search.counties, (group,)), scope)
    except CriteriaError as error:
        response = render(request, "find/_group_editor.html", context | {"error": error})
        response["HX-Retarget"], response["HX-Reswap"] = "#editor", "outerHTML"
        return response
    return _book(request, place.with_search(replaced(place.search, number, group)), scope)


@require_GET
def names(request: HttpRequest) -> HttpResponse:
    """Recorded names that fit what is typed in a name's editor, to be ticked."""
    scope = scope_of(request)
    trait = _trait(request)
    compiled = _askable(_place_or_empty(request, scope), scope)
    options = options_for(trait, request.GET.getlist("tick"), request.GET.get("words", ""), compiled, fills(compiled.counties)[trait.key])
    return render(request, "find/_options.html", {"options": options})


def _chosen_ids(text: str) -> list[int]:
    return [int(part) for part in text.split(",") if part.isdecimal() and len(part) < 19]


@require_POST
def chosen(request: HttpRequest) -> JsonResponse:
    """How many owners the chosen rows have."""
    scope = scope_of(request)
    ids, is_all = _chosen_ids(request.POST.get("ids", "")), bool(request.POST.get("all"))
    try:
        parcels = selections.chosen_from(place_of(request.POST, scope.team).search, scope, ids, is_all=is_all)
    except CriteriaError as error:
        return JsonResponse({"error": str(error)}, status=400)
    return JsonResponse(parcels.aggregate(owners=Count("owner", distinct=True)))


@require_POST
def keep_selection(request: HttpRequest) -> HttpResponse:
    """Keep what is chosen and go on to what shall be done with it."""
    scope = scope_of(request)
    try:
        place = place_of(request.POST, scope.team)
    except CriteriaError:
        # The page says what is wrong with the search, and nothing of it is lost.
        return redirect(f"{reverse('find:find')}?{urlencode({'q': request.POST.get('q', '')})}")
    ids = _chosen_ids(request.POST.get("ids", ""))
    target = FORWARD.get(request.POST.get("then", ""))
    if target is None:
        raise Http404("there is no such thing to do")
    try:
        selection = selections.keep(scope, place, ids, is_all=bool(request.POST.get("all")))
    except ValueError:
        return redirect(place.address(scope.team))
    return redirect(reverse(target, args=[selection.key]))
