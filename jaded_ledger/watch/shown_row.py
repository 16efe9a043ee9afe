"""One row of the morning as it is shown: what the property is, the last that was recorded of it, its picture, what its remarks say."""

from __future__ import annotations

from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.hits import Hits, asked_phrases, hits_in
from jaded_ledger.plugins.entries import Happening
from jaded_ledger.properties.happenings import happenings_of
from jaded_ledger.properties.identity import Figure, facts_of, key_figures
from jaded_ledger.properties.record_kinds import PropertyRecord
from jaded_ledger.properties.statement import StatementLine, recorded_lines
from jaded_ledger.records.models import Parcel, ParcelFacts, Photograph
from jaded_ledger.searches.services import current_version, page_of
from jaded_ledger.watch.news import Item

_LINES, _DONE = 3, 3
_FIGURES = (
    "owner-name", "years-owned", "estimated-value", "equity", "urgency", "on-list", "tag", "stage", "status", "list-price",
    "cumulative-days", "last-sale",
)  # fmt: skip
_BUILT = ("class", "living-area", "beds", "baths", "year-built")


def _hits(item: Item, facts: ParcelFacts, scope: Scope) -> Hits:
    """Return which phrases of its search the remarks have."""
    try:
        phrases = asked_phrases(page_of(current_version(item.watch.search), scope).search)
    except CriteriaError:
        return Hits()
    # The row was read without its remarks, which most searches do not ask of.
    return hits_in(ParcelFacts.objects.select_related("remarks").get(pk=facts.pk).remarks, phrases) if phrases else Hits()


def _last_lines(record: PropertyRecord, scope: Scope) -> list[StatementLine]:
    """Return the last lines of a statement up to today, the latest first."""
    return [line for line in recorded_lines(record) if line.day <= scope.today][: -_LINES - 1 : -1]


def _of(figures: list[Figure], keys: tuple[str, ...]) -> list[Figure]:
    by_key = {figure.key: figure for figure in figures}
    return [by_key[key] for key in keys if key in by_key]


def done_with(item: Item, scope: Scope) -> list[Happening]:
    """Return what the team did last with a row."""
    return happenings_of(Parcel.objects.get(pk=item.parcel_id), scope)[:_DONE]


def row_context(item: Item, scope: Scope) -> dict[str, Any]:
    """Return what is shown of a row."""
    parcel = Parcel.objects.select_related("county").get(pk=item.parcel_id)
    facts, record = facts_of(parcel, scope), PropertyRecord(parcel)
    figures = key_figures(facts) if facts else []
    photographs: list[Photograph] = record.rows(Photograph)
    return {
        "item": item, "parcel": parcel, "facts": facts, "figures": _of(figures, _FIGURES),
        "stage": next((one.text for one in figures if one.key == "stage"), ""),
        "built": [one for one in _of(figures, _BUILT) if not one.is_unknown], "lines": _last_lines(record, scope),
        "photograph": photographs[0] if photographs else None, "hits": _hits(item, facts, scope) if facts else Hits(),
    }  # fmt: skip
