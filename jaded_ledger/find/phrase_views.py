"""Find: the phrase book, and the hits of a search's phrases in one listing's remarks."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.deletion import delete, delete_and_say
from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import line_phrase
from jaded_ledger.core.criteria.search import Criterion, Members, Quantity, Search
from jaded_ledger.core.criteria.text import line_text
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.acts import PHRASE_BOOKS
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.compiler import condition
from jaded_ledger.find.corrections import CorrectionError, save_correction
from jaded_ledger.find.hits import asked_phrases, hits_in, left_without, marked
from jaded_ledger.find.models import PhraseCorrection
from jaded_ledger.find.named_things import current_text, search_from
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.phrase_books import PhraseBookError, book_of, changes_of, entry_of, restore, save, take_out, taken_out, undo
from jaded_ledger.find.responses import page_or_empty
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.suggestions import group_criterion

_REMARKS = CATALOGUE["remarks"].key
CORRECTIONS = "corrections"
"""The page of the phrase book that has the team's corrections, where a group's key is asked for."""


@require_http_methods(["GET", "POST"])
def phrase_book(request: HttpRequest) -> HttpResponse:
    """The phrase book: its groups, one of them opened to be read, counted and changed."""
    scope = scope_of(request)
    key, error = request.GET.get("group", ""), ""
    if key == CORRECTIONS:
        return _corrections(request, scope)
    if request.method == "POST":
        key = request.POST.get("key", "")
        try:
            key = _done(request, scope, key)
            return redirect(f"{reverse('find:phrases')}?group={key}" if key else reverse("find:phrases"))
        except PhraseBookError as wrong:
            error = str(wrong)
    entries = book_of(scope.team)
    opened = entry_of(entries, key)
    is_new = key == "new" or (request.method == "POST" and not key)
    if opened is None and not is_new and entries:
        opened = entries[0]
    context: dict[str, Any] = {
        "place": "find",
        "entries": entries,
        "opened": opened,
        "is_new": is_new,
        "out": taken_out(scope.team),
        "error": error,
    }
    context |= {"changes": changes_of(scope.team), "may_change": may(scope, PHRASE_BOOKS)}
    if error:
        context["typed"] = request.POST
    elif opened:
        everything = Answer(SearchPage(Search()), scope).compiled

        def counted(phrase: str) -> int:
            asked = Criterion(_REMARKS, (Members(Quantity.ANY, (phrase,)),))
            return everything.opening.filter(condition(asked, everything.counties, scope)).count()

        group = opened.group
        context |= {
            "phrases": [(phrase, counted(phrase)) for phrase in group.phrases],
            "refused": [(phrase, counted(phrase)) for phrase in group.refused],
            "line": line_text(group_criterion(group)),
            "left": Answer(SearchPage(Search((), (group_criterion(group),))), scope).matches.count(),
        }
    return render(request, "find/phrases.html", context)


def _corrections(request: HttpRequest, scope: Scope) -> HttpResponse:
    """What the team's words mean in the box: shown, added, edited and deleted."""
    here = f"{reverse('find:phrases')}?group={CORRECTIONS}"
    sent, error = request.POST, ""
    if request.method == "POST" and sent.get("do") == "delete":
        delete_and_say(request, scope, _correction(scope, sent.get("correction")))
        return redirect(here)
    if request.method == "POST":
        try:
            row = _correction(scope, sent["correction"]) if sent.get("correction") else None
            saved = save_correction(scope, row.phrase if row else sent.get("phrase", ""), sent.get("criteria", ""))
            messages.success(request, f"“{saved.phrase}” saved.")
            return redirect(here)
        except CorrectionError as wrong:
            error = str(wrong)
    rows = [
        (row, current_text(row.criteria, scope.team))
        for row in PhraseCorrection.objects.filter(team=scope.team, deleted_at=None).select_related("user")
    ]
    context = {"place": "find", "entries": book_of(scope.team), "corrections": rows, "error": error, "typed": sent}
    return render(request, "find/corrections.html", context | {"may_change": may(scope, PHRASE_BOOKS)})


def _correction(scope: Scope, pk: str | None) -> PhraseCorrection:
    return get_object_or_404(PhraseCorrection, team=scope.team, deleted_at=None, pk=whole_number(pk) or 0)


@require_POST
def correct(request: HttpRequest) -> HttpResponse:
    """Save the correction that an edit right after a sentence made, and say so beside the box; or delete it again."""
    scope = scope_of(request)
    if request.POST.get("correction"):
        delete(scope, _correction(scope, request.POST["correction"]))
        return HttpResponse()
    try:
        saved = save_correction(scope, request.POST.get("phrase", ""), request.POST.get("criteria", ""))
    except CorrectionError:
        # Nobody asked for it: what can't be saved is not worth a message.
        return HttpResponse()
    meaning = ", ".join(map(line_phrase, search_from(saved.criteria, scope.team).lines))
    return render(request, "find/_learned.html", {"saved": saved, "meaning": meaning})


def _done(request: HttpRequest, scope: Scope, key: str) -> str:
    """Do what a form of the phrase book asks; return the key of the group to open. Raises PhraseBookError and Http404."""
    sent = request.POST
    match sent.get("do"):
        case "save":
            return save(scope, key, sent.get("name", ""), sent.get("purpose", ""), sent.get("phrases", ""), sent.get("refused", ""))
        case "restore":
            restore(scope, key)
            return key
        case "take-out":
            take_out(scope, key)
            return ""
        case "undo":
            return undo(scope, whole_number(sent.get("change")) or 0).key
    raise Http404("there is no such thing to do")


@require_GET
def hits(request: HttpRequest, parcel: int) -> HttpResponse:
    """A listing's remarks with the search's hits in their sentences, and what can be refused where one means something else."""
    scope = scope_of(request)
    search = page_or_empty(request, scope).search_page.search
    phrases = asked_phrases(search)
    facts = get_object_or_404(parcels(scope).select_related("remarks", "address", "parcel"), pk=parcel)
    address = facts.street_line or facts.parcel.number
    found = hits_in(facts.remarks, phrases)
    left = left_without(search, [(excerpt.asked.line, phrase) for excerpt in found.excerpts for phrase in excerpt.wider], scope)
    offers = [(excerpt, [(phrase, left[excerpt.asked.line, phrase]) for phrase in excerpt.wider]) for excerpt in found.excerpts]
    fields = zip(CATALOGUE[_REMARKS].fields, facts.remarks.fields, strict=True) if facts.remarks else ()
    texts = [(name, list(marked(text, [one.phrase for one in phrases]))) for name, text in fields if text]
    return render(request, "find/_hits.html", {"address": address, "offers": offers, "more": found.more, "texts": texts})
