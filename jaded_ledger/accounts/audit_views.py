"""The pages of a team's owner: who did what; and for everybody, what each role may."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from datetime import date, timedelta
from io import StringIO

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.audit import AUDIT, Audited, AuditFilter, AuditKind, audited
from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.roles import STAFF, every_act, require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.spreadsheets import guarded

_DAYS, _SHOWN, _MOST_DAYS = 30, 100, 3660


def _day(text: str, otherwise: date) -> date:
    return date.fromisoformat(text) if text else otherwise


def _asked(request: HttpRequest, scope: Scope) -> AuditFilter:
    """Return what is asked for. Raises ValueError where a day is none, or there are too many of them."""
    until = _day(request.GET.get("until", ""), scope.today)
    since = _day(request.GET.get("since", ""), until - timedelta(days=_DAYS))
    if since > until or (until - since).days > _MOST_DAYS or until.year > 9000:
        raise ValueError("a span is from an earlier day to a later one, ten years at most")
    kind = request.GET.get("kind", "")
    return AuditFilter(since, until, kind if kind in list(AuditKind) else "", request.GET.get("who", "")[:150])


def _lines(rows: list[Audited]) -> Iterator[str]:
    out = StringIO()
    write = csv.writer(out)
    write.writerow(["at", "who", "kind", "what", "count", "address"])
    for one in rows:
        cells = [one.who, one.kind, one.what, "" if one.count is None else one.count, one.address]
        write.writerow([one.at.isoformat(timespec="seconds"), *(guarded(str(cell)) for cell in cells)])
        yield out.getvalue()
        out.seek(0)
        out.truncate()


@require_GET
def audit(request: HttpRequest) -> HttpResponseBase:
    """What the team's people did, by kind, user and day; as a page or a CSV file."""
    scope = scope_of(request)
    require(scope, AUDIT)
    try:
        asked = _asked(request, scope)
    except (ValueError, OverflowError):
        messages.error(request, "Those days can’t be read. Write a day as 2026-11-24, the earlier one first, ten years at most.")
        asked = AuditFilter(scope.today - timedelta(days=_DAYS), scope.today)
    rows = audited(scope, asked)
    if request.GET.get("form") == "csv":
        name = f"audit-{asked.since}-{asked.until}.csv"
        return StreamingHttpResponse(
            _lines(rows), content_type="text/csv; charset=utf-8", headers={"Content-Disposition": f'attachment; filename="{name}"'}
        )
    query = request.GET.copy()
    query.pop("page", None)
    context = {
        "place": "you", "page": Paginator(rows, _SHOWN).get_page(request.GET.get("page")), "asked": asked, "kinds": list(AuditKind),
        "people": User.objects.filter(team=scope.team).order_by("username"), "count": len(rows), "query": query.urlencode(),
    }  # fmt: skip
    return render(request, "accounts/audit.html", context)


@require_GET
def roles(request: HttpRequest) -> HttpResponse:
    """What each role may do."""
    rows = [(act.label, [role in act.allowed for role in (*User.Role.values, STAFF)]) for act in every_act()]
    return render(request, "accounts/roles.html", {"place": "you", "acts": rows, "heads": [*User.Role.labels, "Staff"]})
