"""What the map writes on parcels."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from django.db.models import F, FloatField, Func

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.find.results import cell_text, value_of, with_values_alone
from jaded_ledger.maps.in_view import View, shapes_in
from jaded_ledger.records.models import ParcelFacts

MOST_LABELS = 3_000
"""So many are written at once: the largest lots."""
ROOM = (36, 14)
"""How wide and high a lot is on the map where words fit in it, in pixels."""


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


def _side(axis: str) -> Func:
    """Return the length of an outline's box along an axis, in meters of web mercator."""
    return Func(F("drawn"), template=f"ST_{axis}Max(%(expressions)s) - ST_{axis}Min(%(expressions)s)", output_field=FloatField())


def labels_in(view: View, label: Label) -> dict[int, str]:
    """Return what to write on the parcels in a part of the map that are large enough for it; nothing on those of which it is unknown."""
    trait = CATALOGUE[label.trait]
    wide, high = (pixels * view.meters_per_pixel for pixels in ROOM)
    large = shapes_in(view.box).annotate(wide=_side("X"), high=_side("Y")).filter(wide__gte=wide, high__gte=high)
    ids = list(large.order_by((F("wide") * F("high")).desc()).values_list("parcel", flat=True)[:MOST_LABELS])
    written = {}
    for facts in with_values_alone(ParcelFacts.objects.filter(pk__in=ids), [trait]):
        value = value_of(facts, trait)
        if value not in (None, ""):
            # A street is written once, along it.
            written[facts.pk] = facts.street_line.split(" ")[0] if trait.key == "address" else cell_text(facts, trait, value)
    return written
