"""The box of columns: which there are, and the sets that are kept under a name."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.column_sets import ColumnSetError, keep_set, remove_set
from jaded_ledger.find.columns import shown_columns
from jaded_ledger.find.responses import page_or_empty
from jaded_ledger.find.search_page import columns_of
from jaded_ledger.find.table import columns_context, sets_context


@require_GET
def columns(request: HttpRequest) -> HttpResponse:
    """The box in which columns are chosen; asked for when it is opened."""
    scope = scope_of(request)
    answer = Answer(page_or_empty(request, scope).search_page, scope)
    return render(request, "find/_columns.html", columns_context(answer))


@require_POST
def column_sets(request: HttpRequest) -> HttpResponse:
    """Keep the shown columns under a name, remove a set, or put back one that was removed."""
    scope, sent = scope_of(request), request.POST
    said: dict[str, Any] = {}
    try:
        if key := sent.get("remove"):
            said["removed"] = remove_set(scope, key)
        elif sent.get("put_back"):
            said["saved"] = keep_set(
                scope, sent.get("its_name", ""), columns_of(sent.get("its_columns", "")),
                of_team=bool(sent.get("its_team")), is_default=bool(sent.get("its_default")),
            )  # fmt: skip
        else:
            shown = shown_columns(page_or_empty(request, scope).search_page, scope)
            said["saved"] = keep_set(
                scope, sent.get("name", ""), shown, of_team=bool(sent.get("of_team")), is_default=bool(sent.get("is_default"))
            )
    except (ColumnSetError, CriteriaError) as error:
        said = {"set_error": error, "set_name": sent.get("name", "")}
    return render(request, "find/_column_sets.html", sets_context(scope) | said)
