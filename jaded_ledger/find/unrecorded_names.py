"""A name that is typed and that no record has: said at once, with the nearest, before the line empties the search.

Only where a line is added or edited by hand. A search that was kept stays as it is when its last such parcel is gone.
"""

from __future__ import annotations

from collections.abc import Sequence

from django.contrib.postgres.search import TrigramWordSimilarity
from django.db.models import QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.criteria.search import Criterion, Named
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.words import words_of
from jaded_ledger.find.compiler import condition
from jaded_ledger.find.parcels import parcels
from jaded_ledger.records.models import County, ParcelFacts
from jaded_ledger.records.trait_columns import table_of

_LOOKED_AT = 50


def check_names(criterion: Criterion, counties: Sequence[County], scope: Scope) -> None:
    """Raise CriteriaError for names of which no parcel of some counties has any."""
    trait = CATALOGUE[criterion.trait]
    names = [value for value in criterion.accepts if isinstance(value, Named)]
    if trait.kind is not Kind.NAME or trait.is_own or criterion.unknown or not names or len(names) < len(criterion.accepts):
        return
    here = parcels(scope).filter(county__in=counties)
    asked = Criterion(criterion.trait, criterion.accepts)
    if not here.exists() or here.filter(condition(asked, tuple(counties), scope)).exists():
        return
    typed = names[0].text
    near = _nearest(trait, typed, here)
    said = f"“{typed}”" if len(names) == 1 else f"any of the {len(names)} names"
    hint = f"; the nearest is {shown(trait, near)}" if near else ""
    raise CriteriaError(f"no {trait.label} on record here is called {said}{hint}", word=typed)


def _nearest(trait: Trait, typed: str, here: QuerySet[ParcelFacts]) -> str | None:
    """Return the recorded name of some parcels that is most like a typed one, if any is."""
    words = " ".join(words_of(typed))
    alike = (
        table_of(trait)
        ._default_manager.filter(words__trigram_word_similar=words)
        .annotate(alike=TrigramWordSimilarity(words, "words"))
        .order_by("-alike", "pk")
        .values_list("id", "text")[:_LOOKED_AT]
    )
    texts = dict(alike) if words else {}
    used = set(here.filter(**{f"{trait.fact}__in": list(texts)}).values_list(trait.fact, flat=True))
    return next((text for pk, text in texts.items() if pk in used), None)
