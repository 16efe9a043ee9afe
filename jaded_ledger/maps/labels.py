"""What the map writes on parcels."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.find.results import cell_text, value_of, with_values_alone
from jaded_ledger.maps.in_view import View, shapes_in
from jaded_ledger.records.models import ParcelFacts

MOST_LABELS = 3_000
"""More parcels than this have no room for words."""


@dataclass(frozen=True)
class Label:
    """Something to write on parcels: a trait's value as the table shows it."""

    key: str
    name: str
    trait: str


LABELS = (
    Label("address", "house number", "address"),
    Label("number", "parcel number", "parcel-number"),
    Label("owner", "owner", "owner-name"),
    Label("price", "last sale price", "last-sale-price"),
    Label("value", "estimated value", "estimated-value"),
)
BY_KEY: Mapping[str, Label] = {label.key: label for label in LABELS}


def labels_in(view: View, label: Label) -> dict[int, str]:
    """Return what to write on the parcels in a part of the map; nothing on those of which it is not known, nor where they are many."""
    trait = CATALOGUE[label.trait]
    ids = list(shapes_in(view.box).order_by().values_list("parcel", flat=True)[: MOST_LABELS + 1])
    if len(ids) > MOST_LABELS:
        return {}
    written = {}
    for facts in with_values_alone(ParcelFacts.objects.filter(pk__in=ids), [trait]):
        value = value_of(facts, trait)
        if value not in (None, ""):
            # A street is written once, along it.
            written[facts.pk] = facts.street_line.split(" ")[0] if trait.key == "address" else cell_text(facts, trait, value)
    return written
