"""Help: what a trait means, found by typing."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.words import folded

_SHOWN = 12


def traits_called(typed: str) -> list[Trait]:
    """Return the traits that have every word typed in their name, what else they are called, or what they mean; names first."""
    words = folded(typed).split()
    if not words:
        return []

    def rank(trait: Trait) -> int | None:
        name, called = folded(f"{trait.label} {trait.key}"), folded(" ".join(trait.synonyms))
        for place, text in enumerate((name, f"{name} {called}", f"{name} {called} {folded(trait.meaning)}")):
            if all(word in text for word in words):
                return place
        return None

    found = [(place, trait) for trait in CATALOGUE if (place := rank(trait)) is not None]
    return [trait for _, trait in sorted(found, key=lambda pair: (pair[0], pair[1].label))][:_SHOWN]


@require_GET
def meanings(request: HttpRequest) -> HttpResponse:
    """What the traits mean that are called as it is typed."""
    scope_of(request)
    typed = request.GET.get("typed", "")[:100]
    return render(request, "find/_meanings.html", {"typed": typed.strip(), "traits": traits_called(typed)})
