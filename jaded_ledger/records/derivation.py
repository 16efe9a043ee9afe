"""From what was recorded to the searchable facts: in batches, writing only what changed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import transaction
from django.db.models import Aggregate, Count, Func, IntegerField, JSONField, QuerySet

from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.facts.columns import derive_columns
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.record import CountyRules, RecordedParcel
from jaded_ledger.core.market.areas import AreaFigures
from jaded_ledger.records import clock
from jaded_ledger.records.areas import figures_of, refresh_areas, set_sales
from jaded_ledger.records.bulk import among_ids, analyse, copy_rows, wait_for_turn
from jaded_ledger.records.models import Area, County, CountyColumn, FillRate, Parcel, ParcelFacts, ParcelSale, RecordedText, Remarks
from jaded_ledger.records.own_columns import held_values, traits_of
from jaded_ledger.records.reading import read, read_titles, rules_of
from jaded_ledger.records.stored_texts import digest_of, texts_on_record
from jaded_ledger.records.trait_columns import FEW, OF_TEAMS, field_of, is_unknown, standing, value_name, with_computed

BATCH = 2000
_COLUMNS = tuple(field.attname for field in ParcelFacts._meta.concrete_fields)
_TEXTS = tuple(field.name for field in ParcelFacts._meta.concrete_fields if field.related_model is RecordedText)


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


class _Texts:
    """Texts and remarks by what they say, each stored once; those met before are held."""

    def __init__(self) -> None:
        self._ids: dict[str, int | None] = {"": None}

    def put_ids(self, facts: Sequence[dict[str, Any]]) -> None:
        """Put the ids of texts in the place of the texts themselves."""
        wanted = {one[name] for one in facts for name in _TEXTS} - self._ids.keys()
        if wanted:
            self._ids |= texts_on_record(RecordedText, {text: text for text in wanted}, "text", RecordedText.search_forms)
        remarks = {digest_of(*one["remarks"]): one["remarks"] for one in facts if one["remarks"]}
        on_record = texts_on_record(Remarks, remarks, "digest", Remarks.forms_of) if remarks else {}
        for one in facts:
            for name in _TEXTS:
                one[f"{name}_id"] = self._ids[one[name]]
            one["remarks_id"] = on_record.get(digest_of(*one["remarks"])) if one["remarks"] else None


def _facts_of(pk: int, number_key: str, record: RecordedParcel, today: date) -> dict[str, Any]:
    """Return a row of facts by column, texts as they are recorded."""
    found = Findings(record, today)
    return {
        "parcel_id": pk,
        "county_id": record.county.id,
        "parcel_number": number_key,
        "changes_on": found.changes_on(),
        **derive_columns(found),
    }


def _sales_of(pk: int, record: RecordedParcel, today: date) -> list[dict[str, Any]]:
    """Return a parcel's sales as its area's figures need them."""
    found, roll = Findings(record, today), record.roll
    resold = {flip.sold.key for flip in found.flips}
    return [
        {
            "parcel_id": pk,
            "county_id": record.county.id,
            "area_id": roll and (roll.neighbourhood_id or roll.municipality_id),
            "sold_on": sale.sold_on,
            "recorded_on": sale.recorded_on,
            "price": sale.price,
            "property_class": roll and roll.property_class,
            "living_area": roll and roll.living_area,
            "dwellings": found.dwellings,
            "is_resale": sale.key in resold,
        }
        for sale in found.sales
    ]


class Derivation:
    """The derivation of one county's facts as of a day."""

    def __init__(self, county: County, today: date) -> None:
        self.county, self.today = county, today
        self._texts, self._states = _Texts(), _States()
        self._own = list(CountyColumn.objects.filter(county=county))

    def run(self, parcel_ids: Iterable[int]) -> int:
        """Derive the facts of parcels, and of those whose area's figures have changed by it; return how many rows were written."""
        wanted = set(parcel_ids)
        for batch in batched(sorted(wanted), BATCH):
            self._set_sales(batch)
        analyse(ParcelSale, len(wanted))
        wanted |= refresh_areas(self.county)
        rules, areas = rules_of(self.county), figures_of(self.county)
        written = sum(self._write(batch, rules, areas) for batch in batched(sorted(wanted), BATCH))
        analyse(ParcelFacts, written)
        return written

    def _set_sales(self, ids: Sequence[int]) -> None:
        set_sales({pk: _sales_of(pk, record, self.today) for pk, record in read_titles(ids, self.county).items()}, ids)

    def _write(self, ids: Sequence[int], rules: CountyRules, areas: Mapping[int, AreaFigures]) -> int:
        batch = read(ids, rules, areas)
        before = {row[0]: row for row in ParcelFacts.objects.filter(parcel_id__in=among_ids(ids)).values_list(*_COLUMNS)}
        # Rows are kept in the order of their numbers, so that a county's are read together.
        rows = [
            _facts_of(pk, batch.numbers[pk], batch.records[pk], self.today) for pk in sorted(batch.records, key=batch.numbers.__getitem__)
        ]
        self._texts.put_ids(rows)
        state = self._states.id(self.county.state)
        for row in rows:
            roll = batch.records[row["parcel_id"]].roll
            row["state_id"] = state
            row["mailing_state_id"] = self._states.id(roll.mailing.state if roll and roll.mailing else None)
            row["further"] = held_values(self._own, batch.further.get(row["parcel_id"]) or {})
        changed = [row for row in rows if before.get(row["parcel_id"]) != tuple(row[column] for column in _COLUMNS)]
        outdated = before.keys() & {row["parcel_id"] for row in changed} | before.keys() - batch.records.keys()
        ParcelFacts.objects.filter(parcel_id__in=among_ids(outdated)).delete()
        copy_rows(ParcelFacts, changed)
        return len(changed)


def derive(parcel_ids: Iterable[int], counties: Iterable[County] = ()) -> int:
    """Derive the facts of parcels of any county; return how many rows were written.

    ``counties`` are those whose areas are counted anew even where none of the parcels lies in them.
    """
    by_county: dict[int, list[int]] = {county.pk: [] for county in counties}
    for pk, county in Parcel.objects.filter(id__in=among_ids(parcel_ids)).values_list("id", "county_id"):
        by_county.setdefault(county, []).append(pk)
    today = clock.today()
    return sum(Derivation(county, today).run(by_county[county.pk]) for county in County.objects.filter(id__in=by_county).order_by("name"))


def derive_due() -> list[County]:
    """Derive the facts that have changed by themselves since they were derived; return the counties in which there were such."""
    due = ParcelFacts.objects.filter(changes_on__lte=clock.today())
    ids, counties = list(due.values_list("parcel_id", flat=True)), list(County.objects.filter(id__in=due.values("county")))
    if ids:
        derive(ids)
    return counties


def let_time_pass() -> None:
    """Derive what a new day has changed, and measure anew how full the traits are."""
    with transaction.atomic():
        wait_for_turn()
        for county in derive_due():
            measure_fill(county)


_TRAITS_AT_ONCE = 300
_SPREAD = (0.05, 0.5, 0.95)
_MOST_KEPT = 60


def _commonest(held: QuerySet[ParcelFacts], trait: Trait) -> list[list[object]]:
    """Return the commonest values of a trait that has few, as stored, with their counts."""
    column = f"{trait.fact}__text" if trait.kind is Kind.PLACE else trait.fact
    if trait.kind is Kind.SET:
        held, column = held.annotate(member=Func(trait.fact, function="UNNEST")), "member"
    rows = (
        held.filter(**{f"{trait.fact}__isnull": False})
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
        field = type(field_of(trait) or JSONField()) if not trait.since else IntegerField
        super().__init__(value_name(trait), fractions=", ".join(map(str, _SPREAD)), output_field=ArrayField(field(null=True)))


def measured(counties: Iterable[County]) -> list[Trait]:
    """Return the traits whose fill is measured: all that the records alone tell."""
    return [trait for trait in traits_of(counties) if trait.key not in OF_TEAMS]


def measure_fill(county: County) -> None:
    """Count how many of a county's parcels have a value for each trait, and what the values are like."""
    traits = measured([county])
    held = ParcelFacts.objects.filter(county=county)
    counted = with_computed(standing(clock.today()).filter(county=county), traits)
    unknown: dict[str, int] = {}
    spread: dict[str, list[Any]] = {}
    parcels = held.count()
    # A statement holds no more than some 1,600 columns, and a county may have as many of its own.
    for batch in batched(list(enumerate(traits)), _TRAITS_AT_ONCE):
        # An alias may hold no slash, as the keys of a county's own traits do.
        unknown |= counted.aggregate(**{f"n{place}": Count("pk", filter=is_unknown(trait)) for place, trait in batch})
        spread |= counted.aggregate(**{f"s{place}": _Percentiles(trait) for place, trait in batch if trait.is_range})
    FillRate.objects.filter(county=county).exclude(trait__in=[trait.key for trait in traits]).delete()
    FillRate.objects.bulk_create(
        [
            FillRate(
                county=county,
                trait=trait.key,
                known=parcels - unknown[f"n{place}"],
                parcels=parcels,
                commonest=_commonest(held, trait) if trait.kind in FEW and trait.key != "county" else [],
                spread=[str(value) for value in spread.get(f"s{place}") or []],
            )
            for place, trait in enumerate(traits)
        ],
        update_conflicts=True,
        unique_fields=["county", "trait"],
        update_fields=["known", "parcels", "commonest", "spread"],
    )
