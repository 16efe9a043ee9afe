"""From what was recorded to the searchable facts: in batches, writing only what changed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from itertools import islice

from django.contrib.postgres.fields import ArrayField
from django.db.models import Aggregate, Count

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.facts import RecordedParcel, derive_facts
from jaded_ledger.core.market.sales import DeedType, Transfer
from jaded_ledger.core.ownership.names import are_related
from jaded_ledger.records.bulk import copy_in
from jaded_ledger.records.models import Area, County, FillRate, Parcel, ParcelFacts, RollEntry, TransferParcel

BATCH = 2000
_AS_RECORDED = (
    "municipality_id", "city_id", "zip_id", "subdivision_id", "street_id", "owner_id", "owner_name_id",
    "mailing_address_id", "house_number", "living_area", "lot_sqft", "baths", "property_class", "beds", "year_built",
)  # fmt: skip
_COLUMNS = tuple(field.attname for field in ParcelFacts._meta.concrete_fields)


def _transfers(parcel_ids: list[int]) -> dict[int, list[Transfer]]:
    found: dict[int, list[Transfer]] = defaultdict(list)
    rows = TransferParcel.objects.filter(parcel_id__in=parcel_ids, transfer__superseded_at=None).values_list(
        "parcel_id",
        "transfer__sold_on",
        "transfer__deed",
        "transfer__price",
        "transfer__grantor__surnames",
        "transfer__grantee__surnames",
    )
    for parcel_id, sold_on, deed, price, grantor, grantee in rows:
        found[parcel_id].append(Transfer(sold_on, DeedType(deed), price, is_related=are_related(grantor or (), grantee or ())))
    return found


class _States:
    """States as areas by their two letters, made when first seen."""

    def __init__(self) -> None:
        self._ids = dict(Area.objects.filter(kind=Area.AreaKind.STATE).values_list("text", "id"))

    def id(self, state: str) -> int | None:
        if not state:
            return None
        if state not in self._ids:
            area, _ = Area.objects.get_or_create(
                kind=Area.AreaKind.STATE, county=None, folded=state.casefold(), defaults=Area.search_forms(state)
            )
            self._ids[state] = area.pk
        return self._ids[state]


def _facts_of(parcel: Parcel, entry: RollEntry | None, transfers: list[Transfer], states: _States) -> ParcelFacts:
    facts = ParcelFacts(parcel_id=parcel.pk, county_id=parcel.county_id, parcel_number=parcel.number_key)
    mailing = entry.mailing_address.address if entry and entry.mailing_address else None
    recorded = RecordedParcel(
        property_class=entry.property_class if entry else None,
        house_number=entry.house_number if entry else None,
        lot_sqft=entry.lot_sqft if entry else None,
        land_value=entry.land_value if entry else None,
        improvement_value=entry.improvement_value if entry else None,
        homestead=entry.homestead if entry else None,
        owner_kind=entry.owner_name.kind if entry and entry.owner_name else None,
        situs=entry.situs.address if entry and entry.situs else None,
        mailing=mailing,
        transfers=transfers,
    )
    if entry:
        for column in _AS_RECORDED:
            setattr(facts, column, getattr(entry, column))
        facts.address_id = entry.situs_id
    facts.mailing_state_id = states.id(mailing.state) if mailing else None
    for column, value in derive_facts(recorded).items():
        setattr(facts, column, value)
    return facts


def derive(parcel_ids: Iterable[int]) -> int:
    """Derive the facts of parcels; return how many rows were written."""
    states, written, remaining = _States(), 0, iter(sorted(parcel_ids))
    while batch := list(islice(remaining, BATCH)):
        entries = {
            entry.parcel_id: entry
            for entry in RollEntry.objects.filter(parcel_id__in=batch, superseded_at=None).select_related(
                "situs", "mailing_address", "owner_name"
            )
        }
        transfers = _transfers(batch)
        before = {row[0]: row for row in ParcelFacts.objects.filter(parcel_id__in=batch).values_list(*_COLUMNS)}
        changed = []
        for parcel in Parcel.objects.filter(id__in=batch, retired_on=None).order_by("county_id", "number_key"):
            facts = _facts_of(parcel, entries.get(parcel.pk), transfers[parcel.pk], states)
            if before.get(parcel.pk) != tuple(getattr(facts, column) for column in _COLUMNS):
                changed.append(facts)
        ParcelFacts.objects.filter(parcel_id__in=[facts.parcel_id for facts in changed if facts.parcel_id in before]).delete()
        copy_in(changed)
        written += len(changed)
    return written


_SPREAD = (0.05, 0.5, 0.95)
_MOST_KEPT = 60


def _commonest(county: County, trait: Trait) -> list[list[object]]:
    """Return the commonest values of a trait that has few, as stored, with their counts."""
    column = f"{trait.fact}__text" if trait.kind is Kind.PLACE else trait.fact
    rows = (
        ParcelFacts.objects.filter(county=county, **{f"{trait.fact}__isnull": False})
        .values(column)
        .annotate(parcels=Count("*"))
        .order_by("-parcels", column)
        .values_list(column, "parcels")[:_MOST_KEPT]
    )
    return [[value, parcels] for value, parcels in rows]


class _Percentiles(Aggregate):
    function = "PERCENTILE_DISC"
    template = "%(function)s(ARRAY[%(fractions)s]) WITHIN GROUP (ORDER BY %(expressions)s)"

    def __init__(self, column: str) -> None:
        field = ParcelFacts._meta.get_field(column)
        super().__init__(column, fractions=", ".join(map(str, _SPREAD)), output_field=ArrayField(type(field)(null=True)))


def measure_fill(county: County) -> None:
    """Count how many of a county's parcels have a value for each trait, and what the values are like."""
    held = ParcelFacts.objects.filter(county=county)
    counted = held.aggregate(all_parcels=Count("parcel_id"), **{trait.key: Count(trait.fact) for trait in CATALOGUE})
    spread = held.aggregate(**{trait.key: _Percentiles(trait.fact) for trait in CATALOGUE if trait.is_range})
    parcels = counted.pop("all_parcels")
    few = (Kind.CHOICE, Kind.FLAG, Kind.PLACE)
    FillRate.objects.bulk_create(
        [
            FillRate(
                county=county,
                trait=trait.key,
                known=counted[trait.key],
                parcels=parcels,
                commonest=_commonest(county, trait) if trait.kind in few and trait.key != "county" else [],
                spread=[str(value) for value in spread.get(trait.key) or []],
            )
            for trait in CATALOGUE
        ],
        update_conflicts=True,
        unique_fields=["county", "trait"],
        update_fields=["known", "parcels", "commonest", "spread"],
    )
