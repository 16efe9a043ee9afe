"""How one parcel's value of a trait came about, and the recorded rows that it was read from."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.facts import explanations
from jaded_ledger.core.facts.explanations import Entry, Explanation, Source
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.find.compiler import values_of_search
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.results import value_of, with_values
from jaded_ledger.find.team_traits import team_traits
from jaded_ledger.records import models
from jaded_ledger.records.models import Filed, Parcel
from jaded_ledger.records.reading import record_of

ROWS: dict[str, type[Filed]] = {
    "roll": models.RollEntry, "building": models.Building, "project": models.Project, "deed": models.Transfer, "loan": models.Loan,
    "loan-event": models.LoanEvent, "lien": models.Lien, "tax-year": models.TaxYear, "exemption": models.Exemption,
    "case": models.CourtCase, "foreclosure": models.ForeclosureStep, "auction": models.Auction, "permit": models.Permit,
    "violation": models.Violation, "vacancy": models.Vacancy, "rental": models.Rental, "listing": models.Listing,
    "listing-event": models.ListingEvent,
}  # fmt: skip
"""The model of each kind of row that an explanation names."""


_NOTHING = Search()


class NotDerivedError(Exception):
    """Nothing is derived of a parcel: it is retired."""


@dataclass(frozen=True)
class ExplanationLine:
    """One line of an explanation with the recorded rows behind it."""

    entry: Entry
    rows: tuple[Filed, ...]


@dataclass(frozen=True)
class Explained:
    """An explanation as it is shown: the value in words, and its lines with their rows."""

    trait: Trait
    value: str
    rule: str
    lines: tuple[ExplanationLine, ...]
    is_unknown: bool
    closing: str = ""
    """What is said of the value itself, where the lines add up to it."""


def _rows(entries: Iterable[Entry]) -> dict[Source, Filed]:
    wanted: dict[str, set[int]] = {}
    for entry in entries:
        for source in entry.sources:
            wanted.setdefault(source.kind, set()).add(source.key)
    rows = {}
    for kind, keys in wanted.items():
        for row in ROWS[kind]._default_manager.filter(pk__in=keys).select_related("source_file"):
            rows[Source(kind, row.pk)] = row
    return rows


def _explanation(parcel: Parcel, trait: Trait, scope: Scope, search: Search) -> Explanation:
    asked = parcels(scope).alias(**values_of_search(search, scope)).filter(parcel=parcel)
    facts = with_values(asked.select_related("county", "parcel"), [trait]).first()
    if facts is None:
        raise NotDerivedError(f"{parcel.number} is retired: the county no longer has a parcel of this number")
    found, value = Findings(record_of(parcel, by_zip=trait.key == "zip-population"), scope.today), value_of(facts, trait)
    if declared := team_traits().get(trait.key):
        entries = declared.explain(parcel, found, scope)
        if declared.explain_in and trait.key in search.traits():
            entries = declared.explain_in(parcel, search, scope)
        return Explanation(trait, value, trait.rule or "as your team keeps it", tuple(entries))
    return explanations.explain(found, trait, value)


def explained(parcel: Parcel, trait: Trait, scope: Scope, search: Search = _NOTHING) -> Explained:
    """Return how a parcel's value of a trait came about, in the table of a search where it rests on that.

    Raises NotDerivedError for a retired parcel.
    """
    found = _explanation(parcel, trait, scope, search)
    rows = _rows(found.entries)
    lines = tuple(ExplanationLine(entry, tuple(rows[source] for source in entry.sources if source in rows)) for entry in found.entries)
    value, closing = shown(trait, found.value), ""
    if len(lines) > 1 and lines[-1].entry.is_sum and lines[-1].entry.text == value:
        closing, lines = lines[-1].entry.note, lines[:-1]
    unit = f" {trait.unit}" if trait.unit and found.value is not None and trait.unit not in trait.label else ""
    return Explained(trait, f"{value}{unit}", found.rule, lines, found.value is None, closing)
