"""How Find's views read a request and answer it."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any
from urllib.parse import quote, urlencode

from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError, format
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.find.acts import PHRASE_BOOKS
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.corrections import Offered
from jaded_ledger.find.edits import EditedPage, edited_page_of
from jaded_ledger.find.faces import face_shown, faces, layout_of, parts_of
from jaded_ledger.find.ledger import ledger_context
from jaded_ledger.find.search_page import SearchPage, search_text
from jaded_ledger.plugins import hooks, in_order


def sent_query(request: HttpRequest) -> QueryDict:
    """Return what a request asks: in its address, or in its body where that may be long."""
    return request.POST if request.method == "POST" else request.GET


def page_context(request: HttpRequest, answer: Answer) -> dict[str, Any]:
    """Return what the templates of Find need: the ledger's context, and that of the face of the results that is shown."""
    context = ledger_context(answer)
    layout = layout_of(answer.scope.user)
    face = face_shown(sent_query(request), layout)
    parts = parts_of(face)
    if "error" not in context:
        context |= {name: value for part in parts for name, value in part.context(answer).items()}
    context["beneath"] = in_order(hooks.beneath_ledger(answer=answer))
    return context | {"face": face, "parts": parts, "faces": faces(), "layout": layout}


def book_response(
    request: HttpRequest,
    search_page: SearchPage,
    scope: Scope,
    *,
    opens: str = "",
    steps: Sequence[SearchPage] = (),
    said: str = "",
    correction: Offered | None = None,
) -> HttpResponse:
    """Answer with the search and what its answer changes, or for a browser without scripts with the address it stands at.

    ``opens`` is the key of a trait whose editor opens with it; ``steps`` is where the page stood in between, of acts that came together.
    ``said`` is what was typed in the box; an edit that follows at once may correct how it was read, as ``correction`` does.
    """
    if not request.htmx:  # type: ignore[attr-defined]
        return redirect(search_page.address(scope.team))
    passed = [[format(step.search), urlencode(step.query(scope.team), quote_via=quote)] for step in steps]
    context = page_context(request, Answer(search_page, scope)) | {"opens": opens, "steps": json.dumps(passed) if passed else ""}
    context |= {"said": said, "correction": correction if may(scope, PHRASE_BOOKS) else None}
    response = render(request, "find/_answer.html", context)
    response["HX-Push-Url"] = search_page.address(scope.team)
    return response


def error_response(request: HttpRequest, scope: Scope, error: CriteriaError) -> HttpResponse:
    """Say what is wrong where it was typed; the page stays as it is."""
    if not request.htmx:  # type: ignore[attr-defined]
        context = page_context(request, Answer(SearchPage(Search()), scope))
        context |= {"as_text": sent_query(request).get("text") or search_text(sent_query(request), scope.team), "text_error": error}
        return render(request, "find/find.html", context)
    is_text = sent_query(request).get("do") == "text"
    response = render(request, "find/_wrong.html", {"error": error})
    response["HX-Retarget"] = "#text-wrong" if is_text else "#add-wrong"
    response["HX-Reswap"] = "innerHTML"
    return response


def page_or_empty(request: HttpRequest, scope: Scope) -> EditedPage:
    """Return the page that a request is about; an empty one when its search can't be read."""
    try:
        return edited_page_of(sent_query(request), scope)
    except CriteriaError:
        return EditedPage(SearchPage(Search()), scope)


def trait_of(request: HttpRequest) -> Trait:
    """Return the trait that a request names. Raises Http404."""
    trait = CATALOGUE.get(sent_query(request).get("trait", ""))
    if trait is None or trait.key == "county":
        raise Http404("there is no such trait")
    return trait
