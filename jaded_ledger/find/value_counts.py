"""How often each value of a trait is there among some parcels: what an editor offers is counted under the search's other lines."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from django.db.models import Count, F, Func, Q, QuerySet
from django.db.models.fields.json import KeyTextTransform

from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.words import folded
from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.reading_copy import answered
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import column_of, table_of


class _Members(Func):
    """Each member of a set, a row of its own."""

    function = "UNNEST"

    @property
    def output_field(self):  # type: ignore[no-untyped-def]
        return self.source_expressions[0].output_field.base_field  # type: ignore[attr-defined]


def value_counts(parcels: QuerySet[ParcelFacts], trait: Trait) -> Counter[str]:
    """Return the count of parcels by value, as it is typed, for a trait of few values: a choice, yes or no, a place, a set."""
    if trait.is_own:
        of: KeyTextTransform | F | _Members = KeyTextTransform(trait.fact.removeprefix("further__"), "further")
    else:
        column = F(column_of(trait))
        of = _Members(column) if trait.kind is Kind.SET else column
    counted = parcels.annotate(of=of).values("of").annotate(parcels=Count("pk")).order_by()
    found = {value: count for value, count in counted.values_list("of", "parcels") if value is not None}
    if trait.kind is Kind.PLACE:
        text = "name" if trait.key == "county" else "text"
        texts = dict(table_of(trait)._default_manager.filter(pk__in=found).values_list("pk", text))
        return _summed((texts[pk], count) for pk, count in found.items())
    return _summed((_typed(trait, value), count) for value, count in found.items())


def counts_of_matches(compiled: Compiled, trait: Trait) -> Counter[str]:
    """Return ``value_counts`` of a search's matches."""
    return answered(compiled, lambda asked: value_counts(asked.matches, trait), [column_of(trait)])


def _summed(pairs: Iterable[tuple[str, int]]) -> Counter[str]:
    found: Counter[str] = Counter()
    # Those that are equally common stand in one order, whichever way the database found them.
    for value, count in sorted(pairs):
        found[value] += count
    return found


def _typed(trait: Trait, stored: object) -> str:
    if isinstance(stored, bool) or stored in ("true", "false"):
        return "yes" if stored in (True, "true") else "no"
    return trait.choice_by_code(int(str(stored))).key if trait.choices else str(stored)


def commonest_names(parcels: QuerySet[ParcelFacts], trait: Trait, most: int) -> list[tuple[str, int]]:
    """Return the recorded names that most of some parcels have, with their counts."""
    if trait.is_own:
        of: KeyTextTransform | F = KeyTextTransform(trait.fact.removeprefix("further__"), "further")
        counted = parcels.annotate(of=of).values("of").annotate(parcels=Count("pk")).order_by("-parcels", "of")
        return [(text, count) for text, count in counted.values_list("of", "parcels")[: most + 1] if text is not None][:most]
    ids = (
        parcels.filter(**{f"{trait.fact}__isnull": False}).values(trait.fact).annotate(parcels=Count("pk")).order_by("-parcels", trait.fact)
    )
    counts = dict(ids.values_list(trait.fact, "parcels")[:most])
    texts = dict(table_of(trait)._default_manager.filter(pk__in=counts).values_list("pk", "text"))
    return [(texts[pk], count) for pk, count in counts.items()]


def counts_of_names(parcels: QuerySet[ParcelFacts], trait: Trait, names: Iterable[str]) -> Counter[str]:
    """Return by folded name how many parcels have exactly that name as recorded."""
    wanted = {folded(name) for name in names}
    if trait.is_own:
        rows = value_counts(parcels, trait).items()
        return _summed((folded(text), count) for text, count in rows if folded(text) in wanted)
    counted = parcels.annotate(of=F(f"{trait.fact}__folded")).filter(of__in=wanted).values("of").annotate(parcels=Count("pk")).order_by()
    return Counter(dict(counted.values_list("of", "parcels")))


def tally_of_absence(parcels: QuerySet[ParcelFacts], trait: Trait, unknown: Q) -> dict[str, int]:
    """Return how many parcels have no known value, which ``unknown`` asks, and, for what an event tells of, of how many there was none."""
    counts = {"unknown": Count("pk", filter=unknown), "all": Count("pk")}
    if trait.event:
        counts["none"] = Count("pk", filter=Q(**{trait.event: False}))
    elif trait.kind is Kind.SET:
        counts["none"] = Count("pk", filter=Q(**{f"{trait.fact}__len": 0}))
    found: dict[str, int] = parcels.aggregate(**counts)
    return found
