"""Contact files from a selection, and the record of what was taken out."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.roles import may, require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.contacts import contact_file, file_columns
from jaded_ledger.contacts.acts import CONTACTS
from jaded_ledger.contacts.contact_columns import CONTACT_COLUMNS, ContactColumn
from jaded_ledger.contacts.do_not_contact import may_be_contacted
from jaded_ledger.contacts.export_limits import limit_of
from jaded_ledger.contacts.file_columns import FileColumnsError
from jaded_ledger.contacts.file_kinds import CONTACT_FILE
from jaded_ledger.contacts.forms import ContactFileForm
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.core.phone_numbers import Dialing
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.models import Selection
from jaded_ledger.find.named_things import current_text, search_from
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import has_aged, parcels_of
from jaded_ledger.made_files.kinds import MakingError
from jaded_ledger.made_files.responses import answer
from jaded_ledger.made_files.services import ask
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import County
from jaded_ledger.records.own_columns import traits_of
from jaded_ledger.web.sentences import sentence_of

CHOSEN = "chosen"
_REMEMBERED = "file_columns"
"""Where a session has what the last file was made of."""


def _selection(key: str, scope: Scope) -> Selection:
    return get_object_or_404(Selection, key=key, team=scope.team)


def _back(selection: Selection, scope: Scope) -> str:
    """Return the address of the search a selection was made from."""
    try:
        search_page = SearchPage(search_from(selection.search, scope.team), tuple(selection.columns) or None, selection.sort)
    except CriteriaError:
        return "/"
    return search_page.address(scope.team)


def _context(selection: Selection, scope: Scope) -> dict[str, Any]:
    return {
        "place": "outreach",
        "selection": selection,
        "has_aged": has_aged(selection),
        "back": _back(selection, scope),
        "may_take_out": may(scope, CONTACTS),
    }


def _sections(traits: list[Trait], ticked: list[str]) -> list[tuple[str, list[Trait | ContactColumn]]]:
    """Return what a file can hold, in the sections in which it is offered: what is chosen first, then what mail needs."""
    by_key: dict[str, Trait | ContactColumn] = {trait.key: trait for trait in traits} | CONTACT_COLUMNS
    found: dict[str, list[Trait | ContactColumn]] = {CHOSEN: [by_key[key] for key in ticked if key in by_key]}
    every: list[Trait | ContactColumn] = [*CONTACT_COLUMNS.values(), *traits]
    for column in every:
        if column.key not in ticked:
            found.setdefault(str(column.group if isinstance(column, ContactColumn) else column.section), []).append(column)
    return list(found.items())


def _columns_changed(request: HttpRequest, scope: Scope) -> HttpResponseBase:
    """Keep the ticked columns under a name, or take a name away, and show the page again."""
    given = request.POST
    if given["do"] == "remove-columns":
        kept = get_object_or_404(file_columns.kept_columns(scope), pk=whole_number(given.get("kept", "")) or 0)
        delete_and_say(request, scope, kept)
        return redirect(request.path)
    form = ContactFileForm(given)
    try:
        if not form.is_valid() and "columns" in form.errors:
            raise FileColumnsError(str(form.errors["columns"][0]))
        kept = file_columns.keep(scope, given.get("keep_as", ""), form.cleaned_data["columns"])
    except FileColumnsError as error:
        messages.error(request, sentence_of(error))
        return redirect(request.path)
    messages.success(request, f"Kept as “{kept}”.")
    return redirect(f"{request.path}?set=file-{kept.pk}")


@require_http_methods(["GET", "POST"])
def contacts(request: HttpRequest, key: str) -> HttpResponseBase:
    """What the file shall hold; posted, the file."""
    scope = scope_of(request)
    selection = _selection(key, scope)
    offered = traits_of(County.objects.all())
    if request.method == "POST" and request.POST.get("do"):
        return _columns_changed(request, scope)
    sets = file_columns.offered(scope, request.session.get(_REMEMBERED))
    chosen_set = sets.get(request.GET.get("set", file_columns.LAST))
    usual = chosen_set.columns if chosen_set else (*contact_file.DEFAULT_COLUMNS, *selection.columns)
    ticked = request.POST.getlist("columns") or list(dict.fromkeys(usual))
    form = ContactFileForm(request.POST if request.method == "POST" else None, initial=dict(chosen_set.begins) if chosen_set else None)
    context = _context(selection, scope) | {
        "form": form,
        "file_forms": list(contact_file.FileForm),
        "dialings": list(Dialing),
        "sections": _sections(offered, ticked),
        "sets": sets.values(),
        "chosen_set": chosen_set,
    }
    try:
        parcels = parcels_of(selection, scope)
        may = may_be_contacted(parcels, scope)
        chosen, rows = parcels.count(), may.count()
        context |= {"chosen": chosen, "rows": rows, "refused": chosen - rows, "reason": Reason.DO_NOT_MAIL.words}
        context["pers"] = [
            (one, count, rows - count if one is contact_file.Per.OWNER else 0)
            for one in contact_file.Per
            for count in (contact_file.rows_in(may, one, scope),)
        ]
        context["limit"] = limit_of(scope)
    except CriteriaError as error:
        return render(request, "contacts/contacts.html", context | {"error": error})
    if not form.is_valid():
        return render(request, "contacts/contacts.html", context, status=400 if form.is_bound else 200)
    require(scope, CONTACTS)
    if not rows:
        messages.error(request, "Nothing was written: every owner among the chosen asked not to be contacted.")
        return redirect(request.path)
    written = contact_file.FileForm(form.cleaned_data["form"] or contact_file.FileForm.CSV)
    layout = asdict(contact_file.layout_for(form.layout, written))
    rows = contact_file.rows_in(may_be_contacted(parcels, scope), form.layout.per, scope)
    if not rows:
        messages.error(request, "Nothing was written: none of the owners has a telephone number that may be called.")
        return redirect(request.path)
    try:
        file = ask(
            scope, CONTACT_FILE, {"selection": selection.key, "columns": layout.pop("columns"), "layout": layout, "form": written},
            name=f"owners-{now():%Y-%m-%d}.{written}", content_type=written.content_type, rows=rows, about=f"{rows:,} rows of owners",
        )  # fmt: skip
    except MakingError as error:
        messages.error(request, sentence_of(error))
        return redirect(request.path)
    request.session[_REMEMBERED] = file_columns.used(form.cleaned_data["columns"], form.cleaned_data)
    return answer(scope, file)


@require_GET
def sent(request: HttpRequest) -> HttpResponseBase:
    """What the team took out: who, when, from which search, how many."""
    scope = scope_of(request)
    exports = ContactExport.objects.filter(team=scope.team).select_related("user").defer("parcel_ids")
    page = Paginator(exports, 50).get_page(request.GET.get("page"))
    for export in page:
        export.search = current_text(export.search, scope.team)
    return render(request, "contacts/sent.html", {"place": "outreach", "view": "sent", "page": page})
