"""Recorded rows as the core takes them: a batch of parcels at a time, each kind of row read once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Any

from django.db.models import Count, Exists, OuterRef, Q, QuerySet

from jaded_ledger.core.distress.filings import CaseKind, PartyPart
from jaded_ledger.core.distress.signals import Auction, Case, Episode, Filed, Step, TaxYear
from jaded_ledger.core.facts.record import (
    Building,
    CountyRules,
    Described,
    Exemption,
    Ground,
    Owned,
    Permit,
    Project,
    RecordedParcel,
    Rental,
    Roll,
)
from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.market.areas import AreaFigures
from jaded_ledger.core.market.on_market import Listing
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.records import models
from jaded_ledger.records.areas import county_levels, figures_of, stated
from jaded_ledger.records.bulk import among_ids, grouped
from jaded_ledger.records.kinds_on_record import kinds_on_record
from jaded_ledger.records.listing_changes import LISTED, changes_of
from jaded_ledger.records.map_reading import grounds_of, layers_of
from jaded_ledger.records.models import Contact, County, Coverage, Parcel, RollEntry
from jaded_ledger.records.models.contacts import ContactKind
from jaded_ledger.records.recorded_documents import liens_of, loan_events_of, loans_of, transfers_of

Ids = Sequence[int]
_ADDRESS = ("kind", "street", "unit", "city", "state", "zip5", "zip4", "attention")
_ROLL = (
    "parcel_id", "id", *(f"situs__{part}" for part in _ADDRESS), "situs_id", "house_number", "street_id", "municipality_id", "city_id",
    "zip_id", "subdivision_id", "neighborhood_id", "school_district_id", "land_use", "property_class", "tenure", "units", "beds", "baths",
    "living_area", "lot_sqft", "frontage", "depth", "zoning", "sewer", "water", "waterfront", "hoa_fee", "year_built", "land_value",
    "improvement_value", "market_value", "homestead", "owner_name_id", "owner_name__text", "owner_name__surnames",
    "owner_name__kind", "owner_name__handler_role", *(f"mailing_address__{part}" for part in _ADDRESS), "mailing_address_id", "owner_id",
    "further",
)  # fmt: skip
_PARTS = len(_ADDRESS)


def _address(parts: Sequence[Any]) -> Address | None:
    kind, *rest = parts
    return Address(AddressKind(kind), *rest) if kind else None


def _rolls(ids: Ids) -> Iterator[tuple[int, Roll, Mapping[str, str]]]:
    rows: Iterable[tuple[Any, ...]] = RollEntry.objects.filter(parcel_id__in=among_ids(ids), superseded_at=None).values_list(*_ROLL)
    for parcel, key, *rest, further in rows:
        situs, rest = _address(rest[:_PARTS]), rest[_PARTS:]
        mailing, rest = _address(rest[-_PARTS - 2 : -2]), [*rest[: -_PARTS - 2], *rest[-2:]]
        *said, name, surnames, kind, role, mailing_id, owner_id = rest
        owner = (name or "", tuple(surnames or ()), kind, role or "")
        yield parcel, Roll._make((key, situs, *said, *owner, mailing, mailing_id, owner_id)), further


_ON_PARCEL = (
    models.Building,
    models.TaxYear,
    models.ForeclosureStep,
    models.Auction,
    models.Violation,
    models.Vacancy,
    models.Permit,
    models.Rental,
    models.Exemption,
)
"""Kinds of rows that are of one parcel each."""


def _on_parcel(model: type[models.Filed], ids: Ids, made: Any, *columns: str) -> dict[int, list[Any]]:
    if not ids:
        return {}
    rows = model._default_manager.filter(parcel_id__in=among_ids(ids), superseded_at=None)  # type: ignore[misc]
    return grouped(rows.values_list("parcel_id", *columns), made)


def _cases(ids: Ids) -> dict[int, list[Case]]:
    lenders = models.CaseParty.objects.filter(
        county=OuterRef("case__county"), case_number=OuterRef("case__case_number"), part=PartyPart.LIENHOLDER, superseded_at=None,
        name__kind=OwnerKind.LENDER,
    )  # fmt: skip
    rows = models.CaseParcel.objects.filter(parcel_id__in=among_ids(ids), case__superseded_at=None).annotate(
        serves=Q(case__kind=CaseKind.TAX) & Exists(lenders)
    )
    names = (
        "case__kind", "case__filed_on", "case__status", "case__status_on", "case__amount", "case__case_number", "serves", "case__id",
    )  # fmt: skip
    return grouped(rows.values_list("parcel_id", *names), Case)


_DESCRIBED = (
    "bedrooms_total", "bathrooms_full", "bathrooms_half", "living_area", "lot_size_square_feet", "year_built", "stories_total",
    "garage_spaces", "main_level_bedrooms", "waterfront_yn", "pool_private_yn", "association_fee", "occupant_type", "owner_name_id",
    "owner_name__kind", "owner_name__handler_role",
)  # fmt: skip
_REMARKS = ("public_remarks", "private_remarks", "private_office_remarks")


def _described(values: Sequence[Any]) -> Described:
    *said, role = values[: len(_DESCRIBED)]
    remarks = values[len(_DESCRIBED) :]
    return Described._make((*said, role or "", remarks if any(remarks) else ()))


def _listings(ids: Ids) -> tuple[dict[int, list[Listing]], dict[int, Described]]:
    listings: dict[int, list[Listing]] = defaultdict(list)
    described: dict[int, Described] = {}
    rows = models.Listing.objects.filter(parcel_id__in=among_ids(ids), superseded_at=None)
    for parcel, *values in rows.values_list("parcel_id", *LISTED, *_DESCRIBED, *_REMARKS):
        listing = Listing(*values[: len(LISTED)])
        listings[parcel].append(listing)
        described[listing.key] = _described(values[len(LISTED) :])
    return listings, described


def _projects(parents: Mapping[int, int | None]) -> dict[int, Project]:
    """Return each parcel's project: the one on its ground, or on the ground that it stands on."""
    grounds = {pk for pair in parents.items() for pk in pair if pk}
    rows = models.Project.objects.filter(parcel_id__in=among_ids(grounds), superseded_at=None).order_by("-id")
    on_ground = {
        parcel: Project(name, amenities, key) for parcel, name, amenities, key in rows.values_list("parcel_id", "name", "amenities", "id")
    }
    found = {pk: on_ground.get(pk) or on_ground.get(parent or 0) for pk, parent in parents.items()}
    return {pk: project for pk, project in found.items() if project}


def _held() -> QuerySet[Any, Any]:
    """Return how many parcels each owner holds."""
    current = RollEntry.objects.filter(owner__isnull=False, superseded_at=None, parcel__retired_on=None)
    return current.values("owner_id").annotate(parcels=Count("parcel_id", distinct=True))


_MANY = 20


def large_holdings() -> dict[int, int]:
    """Return how many parcels the owners of many hold: whoever reads batch after batch would count the same thousands in each."""
    return dict(_held().filter(parcels__gte=_MANY).values_list("owner_id", "parcels"))


def _owned(owners: Iterable[int], has_contacts: bool, holdings: Mapping[int, int]) -> dict[int, Owned]:
    """Return by owner what is known of owners beside one parcel."""
    wanted = set(owners)
    others = _held().filter(owner_id__in=among_ids(wanted - holdings.keys()))
    counts = {**holdings, **dict(others.values_list("owner_id", "parcels"))}
    contacts: dict[int, list[tuple[str, bool]]] = defaultdict(list)
    rows = Contact.objects.filter(owner_id__in=among_ids(wanted), superseded_at=None)
    for owner, kind, do_not in rows.values_list("owner_id", "kind", "do_not_contact"):
        contacts[owner].append((kind, do_not))
    none = False if has_contacts else None

    def one(owner: int) -> Owned:
        mine = contacts[owner]
        usable = {kind for kind, do_not in mine if not do_not}
        return Owned(
            counts.get(owner, 1),
            True if ContactKind.TELEPHONE in usable else none,
            True if ContactKind.EMAIL in usable else none,
            True if any(do_not for _, do_not in mine) else none,
        )

    return {owner: one(owner) for owner in wanted}


def rules_of(county: County) -> CountyRules:
    """Return what a county's parcels have in common."""
    zips = models.Area.objects.filter(kind="zip", county=county).values_list("text", flat=True)
    through = dict(Coverage.objects.filter(county=county).values_list("kind", "recorded_through"))
    return CountyRules(
        county.pk, county.name, county.state, county.assessment_ratio, county.relisting_gap_days, frozenset(zips), county_levels(county),
        through,
    )  # fmt: skip


@dataclass
class Batch:
    """Some parcels' records, by parcel, with their own columns as recorded and their numbers."""

    records: dict[int, RecordedParcel] = field(default_factory=dict)
    further: dict[int, Mapping[str, str]] = field(default_factory=dict)
    numbers: dict[int, str] = field(default_factory=dict)
    begun_at: dict[int, int] = field(default_factory=dict)
    """The address at which a listing began a parcel: it stands for the property's own while no roll tells."""


def read_titles(ids: Ids, county: County) -> dict[int, RecordedParcel]:
    """Read only how a county's parcels changed hands, and what the roll says of them; those that are retired are left out."""
    here = list(Parcel.objects.filter(id__in=among_ids(ids), retired_on=None).values_list("id", flat=True))
    rules, transfers = CountyRules(county.pk), transfers_of(here)
    rolls = {pk: roll for pk, roll, _ in _rolls(here)}
    dwellings = _dwellings(here)
    return {pk: RecordedParcel(rules, rolls.get(pk), transfers=transfers.get(pk, ()), dwellings=dwellings.get(pk, 0)) for pk in here}


def _dwellings(ids: Ids) -> dict[int, int]:
    """Return how many dwelling units are recorded one by one."""
    rows = models.Unit.objects.filter(parcel_id__in=among_ids(ids), superseded_at=None)
    return dict(rows.values_list("parcel_id").annotate(units=Count("id")))


def read(
    ids: Ids,
    rules: CountyRules,
    areas: Mapping[int, AreaFigures],
    holdings: Mapping[int, int] = MappingProxyType({}),
    *,
    alone: bool = False,
) -> Batch:
    """Read what is on record of a county's parcels; those that are retired are left out. ``holdings``: see ``large_holdings``.

    ``alone`` leaves out what isn't recorded of the parcel itself: the ground it lies on, and what else its owner holds.
    """
    batch = Batch()
    parents: dict[int, int | None] = {}
    known = Parcel.objects.filter(id__in=among_ids(ids), retired_on=None)
    for pk, number, parent, begun_at in known.values_list("id", "number_key", "parent_id", "begun_at_id"):
        batch.numbers[pk], parents[pk] = number, parent
        if begun_at:
            batch.begun_at[pk] = begun_at
    here = sorted(batch.numbers)
    rolls: dict[int, Roll] = {}
    for pk, on_roll, further in _rolls(here):
        rolls[pk], batch.further[pk] = on_roll, further
    loans = loans_of(here)
    listings, described = _listings(here)
    # What a row's number leads to is read for the whole batch, and shared among its parcels.
    events = loan_events_of(rules.id, {one.number for found in loans.values() for one in found if one.number})
    changes = changes_of(rules.id, {one.listing_id for found in listings.values() for one in found})
    transfers, cases, liens = transfers_of(here), _cases(here), liens_of(here)
    # Of one parcel alone few kinds are on record, and each that is asked for takes its time.
    known_kinds = kinds_on_record(here[0], _ON_PARCEL) if alone and len(here) == 1 else frozenset(_ON_PARCEL)

    def of(kind: type[models.Filed]) -> Ids:
        return here if kind in known_kinds else []

    buildings = _on_parcel(
        models.Building,
        of(models.Building),
        Building,
        "number",
        "stories",
        "garage_spaces",
        "has_pool",
        "main_floor_beds",
        "condition",
        "id",
    )
    tax_columns = ("year", "land_value", "improvement_value", "market_value", "billed", "due", "id")
    years = _on_parcel(models.TaxYear, of(models.TaxYear), TaxYear, *tax_columns)
    steps = _on_parcel(models.ForeclosureStep, of(models.ForeclosureStep), Step, "taken_on", "step", "amount", "id")
    auctions = _on_parcel(models.Auction, of(models.Auction), Auction, "held_on", "kind", "status", "minimum_bid", "id")
    violations = _on_parcel(models.Violation, of(models.Violation), Episode, "opened_on", "closed_on", "id")
    vacancies = _on_parcel(models.Vacancy, of(models.Vacancy), Episode, "since", "until", "id")
    permits = _on_parcel(models.Permit, of(models.Permit), Permit, "issued_on", "kind", "cost", "id")
    rentals = _on_parcel(models.Rental, of(models.Rental), Rental, "since", "until", "rent", "unit", "id")
    exemptions = _on_parcel(models.Exemption, of(models.Exemption), Exemption, "since", "until", "kind", "id")
    dwellings = _dwellings(here)
    projects = _projects(parents)
    owners = [one.owner_id for one in rolls.values() if one.owner_id]
    owned = {} if alone else _owned(owners, rules.has("contacts"), holdings)
    grounds = {} if alone else grounds_of(here, layers_of(rules.id), rules.has("layers"))
    nothing, no_ground = AreaFigures(), Ground()
    for pk in here:
        roll = rolls.get(pk)
        area = (roll.neighborhood_id or roll.municipality_id) if roll else None
        batch.records[pk] = RecordedParcel(
            county=rules,
            roll=roll,
            buildings=buildings.get(pk, ()),
            dwellings=dwellings.get(pk, 0),
            project=projects.get(pk),
            transfers=transfers.get(pk, ()),
            loans=loans.get(pk, ()),
            loan_events=events,
            filed=Filed(
                years.get(pk, ()),
                cases.get(pk, ()),
                steps.get(pk, ()),
                auctions.get(pk, ()),
                liens.get(pk, ()),
                violations.get(pk, ()),
                vacancies.get(pk, ()),
            ),
            permits=permits.get(pk, ()),
            rentals=rentals.get(pk, ()),
            exemptions=exemptions.get(pk, ()),
            listings=listings.get(pk, ()),
            described=described,
            changes=changes,
            owned=owned.get(roll.owner_id, Owned()) if roll and roll.owner_id else Owned(),
            ground=grounds.get(pk, no_ground),
            area=areas.get(area or 0, nothing),
        )
    return batch


def record_of(parcel: Parcel, *, by_zip: bool = False, alone: bool = False) -> RecordedParcel:
    """Return one parcel's record, with what its area's figures (or those of its ZIP Code) stand on. Raises KeyError for a retired one.

    ``alone``: see ``read``.
    """
    rules, areas = rules_of(parcel.county), figures_of(parcel.county)
    record = read([parcel.pk], rules, areas, alone=alone).records[parcel.pk]
    roll = record.roll
    where = roll and (roll.zip_id if by_zip else roll.neighborhood_id or roll.municipality_id)
    row = models.AreaFigures.objects.filter(area=where).select_related("area").first()
    return replace(record, area=replace(record.area, stated=stated(row))) if row else record
