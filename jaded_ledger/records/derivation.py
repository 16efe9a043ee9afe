"""From what was recorded to the searchable facts: in batches, writing only what changed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from datetime import date
from functools import partial
from typing import Any

from django.db import connection, transaction

from jaded_ledger.core.facts.record import CountyRules
from jaded_ledger.core.market.areas import AreaFigures
from jaded_ledger.records import clock
from jaded_ledger.records.area_columns import follow_areas, parcels_without_basis
from jaded_ledger.records.areas import figures_of, refresh_areas, set_sales
from jaded_ledger.records.bulk import among_ids, analyse, batched, copy_rows, stored_fields, wait_for_turn
from jaded_ledger.records.derived_rows import Row, derived_rows
from jaded_ledger.records.fill_rates import measure_fill
from jaded_ledger.records.models import Area, County, CountyColumn, Parcel, ParcelFacts, ParcelSale, RecordedText, Remarks
from jaded_ledger.records.other_processes import in_database, made_in
from jaded_ledger.records.own_columns import held_values
from jaded_ledger.records.reading import large_holdings, rules_of
from jaded_ledger.records.stored_texts import digest_of, texts_on_record
from jaded_ledger.records.versions import put_up_version

BATCH = 2000
_AHEAD = 4
"""How many batches other processes have in hand."""
_COLUMNS = tuple(field.attname for field in stored_fields(ParcelFacts))
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
        wanted = {facts_[name] for facts_ in facts for name in _TEXTS} - self._ids.keys()
        if wanted:
            self._ids |= texts_on_record(RecordedText, {text: text for text in wanted}, "text", RecordedText.search_forms)
        remarks = {digest_of(*facts_["remarks"]): facts_["remarks"] for facts_ in facts if facts_["remarks"]}
        on_record = texts_on_record(Remarks, remarks, "digest", Remarks.forms_of) if remarks else {}
        for facts_ in facts:
            for name in _TEXTS:
                facts_[f"{name}_id"] = self._ids[facts_[name]]
            facts_["remarks_id"] = on_record.get(digest_of(*facts_["remarks"])) if facts_["remarks"] else None


class Derivation:
    """The derivation of one county's facts as of a day."""

    def __init__(self, county: County, today: date) -> None:
        self.county, self.today = county, today
        self.areas_changed = False
        """Whether any figure of the county's areas has."""
        self._texts, self._states = _Texts(), _States()
        self._own = list(CountyColumn.objects.filter(county=county))

    def run(self, parcel_ids: Iterable[int], *, recount: bool, processes: ProcessPoolExecutor | None = None) -> int:
        """Derive the facts of parcels; return of how many parcels rows were written.

        ``recount`` has the county's areas counted anew afterwards; what rests on figures that changed by it follows. Other
        ``processes`` see only what has been committed: with them, all that is recorded must be.
        """
        wanted = set(parcel_ids)
        rules, areas = rules_of(self.county), figures_of(self.county)
        written = self._derive(sorted(wanted), rules, areas, processes, with_sales=recount)
        if recount:
            analyse(ParcelSale, len(wanted))
            retold = refresh_areas(self.county)
            self.areas_changed = retold.is_any
            if retold:
                rules, areas = rules_of(self.county), figures_of(self.county)
                written |= self._derive(sorted(parcels_without_basis(self.county, retold)), rules, areas, None, with_sales=False)
                written |= follow_areas(self.county, retold, rules, areas)
        analyse(ParcelFacts, len(written))
        return len(written)

    def _derive(
        self, ids: Sequence[int], rules: CountyRules, areas: Mapping[int, AreaFigures], processes: ProcessPoolExecutor | None, *,
        with_sales: bool,
    ) -> set[int]:  # fmt: skip
        written: set[int] = set()
        holdings = large_holdings() if len(ids) > BATCH else {}
        for batch, derived in self._made(ids, processes, derived_rows, rules, areas, holdings, self.today):
            written |= self._write(batch, derived.facts)
            if with_sales:
                set_sales(derived.sales, batch)
        return written

    def _made(
        self, ids: Sequence[int], processes: ProcessPoolExecutor | None, make: Callable[..., Any], *arguments: Any
    ) -> Iterator[tuple[Sequence[int], Any]]:
        """Yield, batch by batch, ids and what is made of them: here, or in other processes while this one writes."""
        batches = list(batched(ids, BATCH))
        if processes is None:
            return ((batch, make(batch, *arguments)) for batch in batches)
        database = str(connection.settings_dict["NAME"])
        work = (partial(in_database, database, make, batch, *arguments) for batch in batches)
        return zip(batches, made_in(processes, work, _AHEAD), strict=True)

    def _write(self, ids: Sequence[int], rows: list[Row]) -> set[int]:
        before = {row[0]: row for row in ParcelFacts.objects.filter(parcel_id__in=among_ids(ids)).values_list(*_COLUMNS)}
        self._texts.put_ids(rows)
        state = self._states.id(self.county.state)
        for row in rows:
            row["state_id"] = state
            row["mailing_state_id"] = self._states.id(row["mailing_state"])
            row["further"] = held_values(self._own, row["recorded_further"])
        changed = [row for row in rows if before.get(row["parcel_id"]) != tuple(row[column] for column in _COLUMNS)]
        outdated = before.keys() & {row["parcel_id"] for row in changed} | before.keys() - {row["parcel_id"] for row in rows}
        ParcelFacts.objects.filter(parcel_id__in=among_ids(outdated)).delete()
        copy_rows(ParcelFacts, changed)
        return outdated | {row["parcel_id"] for row in changed}


def derive(parcel_ids: Iterable[int], recount: Iterable[County] = (), processes: ProcessPoolExecutor | None = None) -> dict[int, int]:
    """Derive the facts of parcels of any county; return by county how many rows were written.

    ``recount`` are the counties of which something was recorded that tells of an area as a whole; ``processes`` are others that compute
    them, where all that is recorded has been committed.
    """
    by_county: dict[int, list[int]] = {county.pk: [] for county in recount}
    recounted = set(by_county)
    for pk, county_id in Parcel.objects.filter(id__in=among_ids(parcel_ids)).values_list("id", "county_id"):
        by_county.setdefault(county_id, []).append(pk)
    today = clock.today()
    written: dict[int, int] = {}
    touched: set[int] = set()
    for county in County.objects.filter(id__in=by_county).order_by("name"):
        derivation = Derivation(county, today)
        written[county.pk] = derivation.run(by_county[county.pk], recount=county.pk in recounted, processes=processes)
        # Areas counted anew may differ although no parcel's facts do.
        if written[county.pk] or derivation.areas_changed:
            touched.add(county.pk)
    if touched:
        put_up_version(touched)
    return written


def derive_due() -> list[County]:
    """Derive the facts that have changed by themselves since they were derived; return the counties in which there were such."""
    due = ParcelFacts.objects.filter(changes_on__lte=clock.today())
    written = derive(list(due.values_list("parcel_id", flat=True)))
    return list(County.objects.filter(id__in=[pk for pk, rows in written.items() if rows]))


def let_time_pass() -> None:
    """Derive what a new day has changed, and measure anew how full the traits are."""
    with transaction.atomic():
        wait_for_turn()
        for county in derive_due():
            measure_fill(county)
