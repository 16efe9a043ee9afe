"""From what was recorded to the searchable facts: in batches, writing only what changed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db.models import Aggregate, Count, JSONField

from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.facts import RecordedParcel, derive_facts
from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.market.sales import DeedType, Transfer
from jaded_ledger.core.ownership.names import are_related
from jaded_ledger.records.bulk import among_ids, copy_rows
from jaded_ledger.records.models import Area, County, CountyColumn, FillRate, Parcel, ParcelFacts, RollEntry, TransferParcel
from jaded_ledger.records.own_columns import held_values, traits_of

BATCH = 2000
_AS_RECORDED = (
    "municipality_id", "city_id", "zip_id", "subdivision_id", "street_id", "owner_id", "owner_name_id",
    "mailing_address_id", "house_number", "living_area", "lot_sqft", "baths", "property_class", "beds", "year_built",
)  # fmt: skip
_COLUMNS = tuple(field.attname for field in ParcelFacts._meta.concrete_fields)


def _transfers(parcel_ids: list[int]) -> dict[int, list[Transfer]]:
    found: dict[int, list[Transfer]] = defaultdict(list)
    rows = TransferParcel.objects.filter(parcel_id__in=among_ids(parcel_ids), transfer__superseded_at=None).values_list(
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

    def id(self, state: str | None) -> int | None:
        if not state:
            return None
        if state not in self._ids:
            area, _ = Area.objects.get_or_create(
                kind=Area.AreaKind.STATE, county=None, folded=state.casefold(), defaults=Area.search_forms(state)
            )
            self._ids[state] = area.pk
        return self._ids[state]


_ADDRESS = ("kind", "street", "unit", "city", "state", "zip5", "zip4")
_ENTRY = (
    "parcel_id", *_AS_RECORDED, "situs_id", "land_value", "improvement_value", "homestead", "owner_name__kind", "further",
    *(f"situs__{part}" for part in _ADDRESS), *(f"mailing_address__{part}" for part in _ADDRESS),
)  # fmt: skip
Entry = dict[str, Any]


def _entries(parcel_ids: list[int]) -> dict[int, Entry]:
    found = RollEntry.objects.filter(parcel_id__in=among_ids(parcel_ids), superseded_at=None).values(*_ENTRY)
    return {entry["parcel_id"]: entry for entry in found}


def _address(entry: Entry, which: str) -> Address | None:
    kind, *parts = (entry[f"{which}__{part}"] for part in _ADDRESS)
    return Address(AddressKind(kind), *parts) if kind else None


def _recorded(entry: Entry, transfers: list[Transfer]) -> RecordedParcel:
    return RecordedParcel(
        property_class=entry["property_class"],
        house_number=entry["house_number"],
        lot_sqft=entry["lot_sqft"],
        land_value=entry["land_value"],
        improvement_value=entry["improvement_value"],
        homestead=entry["homestead"],
        owner_kind=entry["owner_name__kind"],
        situs=_address(entry, "situs"),
        mailing=_address(entry, "mailing_address"),
        transfers=transfers,
    )


_NO_ENTRY: Entry = dict.fromkeys(_ENTRY)


def _facts_of(parcel_id: int, county_id: int, number_key: str, entry: Entry, computed: dict[str, object]) -> dict[str, object]:
    """Return a row of facts by column."""
    return {
        "parcel_id": parcel_id,
        "county_id": county_id,
        "parcel_number": number_key,
        "address_id": entry["situs_id"],
        **{column: entry[column] for column in _AS_RECORDED},
        **computed,
    }


def derive(parcel_ids: Iterable[int]) -> int:
    """Derive the facts of parcels; return how many rows were written."""
    states, written, remaining = _States(), 0, iter(sorted(parcel_ids))
    own: dict[int, list[CountyColumn]] = defaultdict(list)
    for column in CountyColumn.objects.all():
        own[column.county_id].append(column)
    while batch := list(islice(remaining, BATCH)):
        entries, transfers = _entries(batch), _transfers(batch)
        before = {row[0]: row for row in ParcelFacts.objects.filter(parcel_id__in=among_ids(batch)).values_list(*_COLUMNS)}
        changed = []
        parcels = Parcel.objects.filter(id__in=among_ids(batch), retired_on=None).order_by("county_id", "number_key")
        for parcel_id, county_id, number_key in parcels.values_list("id", "county_id", "number_key"):
            entry = entries.get(parcel_id, _NO_ENTRY)
            computed = derive_facts(_recorded(entry, transfers[parcel_id]))
            computed["mailing_state_id"] = states.id(entry["mailing_address__state"])
            computed["further"] = held_values(own[county_id], entry["further"] or {})
            facts = _facts_of(parcel_id, county_id, number_key, entry, computed)
            if before.get(parcel_id) != tuple(facts[column] for column in _COLUMNS):
                changed.append(facts)
        outdated = [facts["parcel_id"] for facts in changed if facts["parcel_id"] in before]
        ParcelFacts.objects.filter(parcel_id__in=among_ids(outdated)).delete()
        copy_rows(ParcelFacts, changed)
        written += len(changed)
    return written


_TRAITS_AT_ONCE = 300
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


def batched(items: Sequence[Any], size: int) -> Iterator[Sequence[Any]]:
    """Yield a sequence in pieces of a size."""
    for start in range(0, len(items), size):
        yield items[start : start + size]


class _Percentiles(Aggregate):
    function = "PERCENTILE_DISC"
    template = "%(function)s(ARRAY[%(fractions)s]) WITHIN GROUP (ORDER BY %(expressions)s)"

    def __init__(self, trait: Trait) -> None:
        field = JSONField if trait.is_own else type(ParcelFacts._meta.get_field(trait.fact))
        super().__init__(trait.fact, fractions=", ".join(map(str, _SPREAD)), output_field=ArrayField(field(null=True)))


def measure_fill(county: County) -> None:
    """Count how many of a county's parcels have a value for each trait, and what the values are like."""
    held = ParcelFacts.objects.filter(county=county)
    traits = traits_of([county])
    counted: dict[str, int] = {}
    spread: dict[str, list[Any]] = {}
    parcels = held.count()
    # A statement holds no more than some 1,600 columns, and a county may have as many of its own.
    for batch in batched(list(enumerate(traits)), _TRAITS_AT_ONCE):
        # An alias may hold no slash, as the keys of a county's own traits do.
        counted |= held.aggregate(**{f"n{place}": Count(trait.fact) for place, trait in batch})
        spread |= held.aggregate(**{f"s{place}": _Percentiles(trait) for place, trait in batch if trait.is_range})
    few = (Kind.CHOICE, Kind.FLAG, Kind.PLACE)
    FillRate.objects.filter(county=county).exclude(trait__in=[trait.key for trait in traits]).delete()
    FillRate.objects.bulk_create(
        [
            FillRate(
                county=county,
                trait=trait.key,
                known=counted[f"n{place}"],
                parcels=parcels,
                commonest=_commonest(county, trait) if trait.kind in few and trait.key != "county" else [],
                spread=[str(value) for value in spread.get(f"s{place}") or []],
            )
            for place, trait in enumerate(traits)
        ],
        update_conflicts=True,
        unique_fields=["county", "trait"],
        update_fields=["known", "parcels", "commonest", "spread"],
    )
