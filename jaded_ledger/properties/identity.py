"""What tells a property at a glance: its key figures, its neighbors, and what else its owner holds."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.gis.geos import MultiPolygon, Polygon

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE, shown
from jaded_ledger.core.outlines import Ground, ground_at
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.results import cell_text, value_of, with_values_alone
from jaded_ledger.records.models import Parcel, ParcelFacts, ParcelShape

KEY_TRAITS = (
    "owner-name", "owner-not-on-deed", "owner-kind", "years-owned", "owner-occupied", "mailing-address", "estimated-value",
    "loan-balance", "blanket-loan", "seller-financed", "equity", "equity-pct", "urgency", "on-list", "tag", "stage", "signals",
    "class", "beds", "baths", "living-area", "lot-sqft", "lot-acres", "year-built", "last-sale", "last-sale-price", "status",
    "list-price", "cumulative-days", "parcels-owned", "acquired", "assessed-value", "tax-bill",
)  # fmt: skip
JUDGMENTS = frozenset({"urgency", "on-list", "tag", "stage"})
"""What the team itself thinks of a property: a printed record leaves it out unless asked."""
CAUTIONS = frozenset({"owner-not-on-deed", "seller-financed", "blanket-loan"})
"""Flags that are told only of a property that has them: by each, the figure above it means something else."""
_ACRES_FROM = 43_560
NEAR = 300
"""How far the list of neighbors reaches, in feet."""
_MOST, _LOOKED_AT = 20, 400


@dataclass(frozen=True)
class Figure:
    """One line at the left of the page."""

    key: str
    label: str
    text: str
    meaning: str
    is_unknown: bool
    is_caution: bool = False


@dataclass(frozen=True)
class Other:
    """Another property, in a list of neighbors or holdings."""

    parcel_id: int
    address: str
    number: str
    kind: str
    owner: str
    feet: float | None = None


def facts_of(parcel: Parcel, scope: Scope) -> ParcelFacts | None:
    """Return a parcel's searchable row with all that its traits are read from; None for a retired parcel."""
    traits = [CATALOGUE[key] for key in (*KEY_TRAITS, "address", "city", "zip", "county", "parcel-number")]
    return with_values_alone(parcels(scope).filter(parcel=parcel), traits, ("owner",)).first()


def key_figures(facts: ParcelFacts) -> list[Figure]:
    """Return the key figures. The lot is given in acres where it is an acre or more; what was never listed has no listing's figures."""
    in_acres = facts.lot_sqft is not None and facts.lot_sqft >= _ACRES_FROM
    found = []
    for key in KEY_TRAITS:
        if key == ("lot-sqft" if in_acres else "lot-acres"):
            continue
        trait = CATALOGUE[key]
        value = value_of(facts, trait)
        if key in CAUTIONS and not value:
            continue
        if (value == NONE and trait.event) or (trait.of_team and value == ()):
            continue
        unit = f" {trait.unit}" if trait.unit and value is not None and trait.unit not in trait.label else ""
        found.append(Figure(key, trait.label, f"{cell_text(facts, trait, value)}{unit}", trait.meaning, value is None, key in CAUTIONS))
    return found


def _other(facts: ParcelFacts, feet: float | None = None) -> Other:
    traits = (CATALOGUE["class"], CATALOGUE["owner-name"])
    kind, owner = (shown(trait, value_of(facts, trait)) for trait in traits)
    return Other(facts.parcel_id, facts.street_line or "no address on record", facts.parcel.number, kind, owner, feet)


_OTHERS = [CATALOGUE[key] for key in ("address", "class", "parcel-number", "owner-name")]


def _in_feet(outline: MultiPolygon, ground: Ground) -> MultiPolygon:
    return MultiPolygon([Polygon(*([ground.point(at) for at in ring] for ring in part)) for part in outline.coords])


def nearby(parcel: Parcel, shape: ParcelShape) -> list[Other]:
    """Return the parcels around, nearest first, with their distance in feet from border to border.

    A condominium is one of them, by the ground it stands on.
    """
    ground = ground_at((shape.outline.centroid.x, shape.outline.centroid.y))
    west, south, east, north = shape.outline.extent
    window = Polygon.from_bbox(
        (west - NEAR / ground.east, south - NEAR / ground.north, east + NEAR / ground.east, north + NEAR / ground.north)
    )
    around = ParcelShape.objects.filter(superseded_at=None, outline__bboverlaps=window, parcel__retired_on=None, parcel__parent=None)
    here = _in_feet(shape.outline, ground)
    away = {one.parcel_id: here.distance(_in_feet(one.outline, ground)) for one in around.exclude(parcel=parcel)[:_LOOKED_AT]}
    nearest = sorted((feet, pk) for pk, feet in away.items() if feet <= NEAR)[:_MOST]
    beside = ParcelFacts.objects.filter(parcel__in=[pk for _, pk in nearest])
    found = {facts.parcel_id: facts for facts in with_values_alone(beside, _OTHERS)}
    return [_other(found[pk], feet) for feet, pk in nearest if pk in found]


def holdings(facts: ParcelFacts) -> tuple[list[Other], int]:
    """Return what else the owner has, and how many parcels that is in all."""
    if facts.owner_id is None:
        return [], 0
    others = ParcelFacts.objects.filter(owner=facts.owner_id).exclude(pk=facts.pk)
    found = with_values_alone(others, _OTHERS).order_by("county", "parcel_number")
    return [_other(one) for one in found[:_MOST]], others.count()
