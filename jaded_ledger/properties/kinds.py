"""Which recorded rows a property's page shows, section by section, and how each kind's are found."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from functools import cached_property

from django.db.models import Q, QuerySet

from jaded_ledger.records import models
from jaded_ledger.records.models import Filed, Parcel
from jaded_ledger.records.models.provenance import as_of


class Record:
    """One parcel's record: as it stands, or as it stood on a day."""

    def __init__(self, parcel: Parcel, day: date | None = None) -> None:
        self.parcel = parcel
        self.day = day

    def standing(self, rows: QuerySet) -> QuerySet:
        """Return those of some rows that stand."""
        return rows.filter(Q(superseded_at=None) if self.day is None else as_of(self.day))

    def rows(self, model: type[Filed], *related: str, **where: object) -> QuerySet:
        """Return the rows of a model that stand, with their files and what else they point at."""
        return self.standing(model.objects.filter(**where).select_related("source_file", *related))

    @cached_property
    def roll(self) -> models.RollEntry | None:
        return self.rows(models.RollEntry, "owner", parcel=self.parcel).first()

    def _numbers(self, model: type[Filed], field: str, **where: object) -> list[str]:
        return [one for one in model.objects.filter(**where).values_list(field, flat=True).distinct() if one]

    @cached_property
    def loan_numbers(self) -> list[str]:
        return self._numbers(models.Loan, "document_number", parcels=self.parcel)

    @cached_property
    def lien_numbers(self) -> list[str]:
        return self._numbers(models.Lien, "document_number", parcels=self.parcel)

    @cached_property
    def case_numbers(self) -> list[str]:
        return self._numbers(models.CourtCase, "case_number", parcels=self.parcel)

    @cached_property
    def listing_ids(self) -> list[str]:
        return self._numbers(models.Listing, "listing_id", parcel=self.parcel)

    @cached_property
    def area_ids(self) -> list[int]:
        """The areas that the roll puts the parcel in."""
        names = ("municipality_id", "city_id", "zip_id", "subdivision_id", "neighbourhood_id", "school_district_id")
        return [pk for name in names if self.roll and (pk := getattr(self.roll, name))]


def _on_parcel(record: Record) -> Q:
    return Q(parcel=record.parcel)


def _covering(record: Record) -> Q:
    return Q(parcels=record.parcel)


def _linked(by: str, numbers: str) -> Callable[[Record], Q]:
    """Return the condition that a row of the same county names one of the record's documents."""
    return lambda record: Q(county=record.parcel.county, **{f"{by}__in": getattr(record, numbers)})


def _project(record: Record) -> Q:
    return Q(parcel__in=[pk for pk in (record.parcel.pk, record.parcel.parent_id) if pk])


def _rates(record: Record) -> Q:
    return Q(county=record.parcel.county) & (Q(area=None) | Q(area__in=record.area_ids))


def _areas(record: Record) -> Q:
    return Q(area__in=record.area_ids) | Q(area__kind="county", county=record.parcel.county)


def _members(by: str, listed: str) -> Callable[[Record], Q]:
    def named(record: Record) -> Q:
        numbers = models.Listing.objects.filter(parcel=record.parcel).exclude(**{listed: ""}).values(listed)
        return Q(county=record.parcel.county, **{f"{by}__in": numbers})

    return named


def _photographs(record: Record) -> Q:
    return Q(parcel=record.parcel) | Q(county=record.parcel.county, listing_id__in=record.listing_ids)


def _layers(record: Record) -> Q:
    """The flood zones, parks and waters that the parcel lies in or touches."""
    shape = record.rows(models.ParcelShape, parcel=record.parcel).first()
    return Q(county=record.parcel.county, geometry__intersects=shape.outline) if shape else Q(pk=None)


def _contacts(record: Record) -> Q:
    return Q(owner=record.roll.owner_id) if record.roll and record.roll.owner_id else Q(pk=None)


@dataclass(frozen=True)
class Kind:
    """One kind of recorded row: its heading, its model, which rows, in which order (``-`` first: newest on top).

    ``fields`` are those shown, all of its own unless named; ``as_sheet`` sets each row as a sheet of names and values.
    ``is_private`` rows are only shown on request, which is noted.
    """

    title: str
    model: type[Filed]
    where: Callable[[Record], Q] = _on_parcel
    order: tuple[str, ...] = ("id",)
    fields: tuple[str, ...] = ()
    as_sheet: bool = False
    is_private: bool = False


@dataclass(frozen=True)
class Section:
    """A section of the page; ``key`` is its place in the address."""

    key: str
    title: str
    kinds: tuple[Kind, ...]


def _roll(*fields: str) -> Kind:
    return Kind("On the roll", models.RollEntry, order=("-valid_from", "-id"), fields=fields, as_sheet=True)


SECTIONS = (
    Section("owner", "Owner and address", (
        _roll("owner_name", "mailing_address", "homestead", "situs", "house_number", "street", "municipality", "city", "zip"),
        Kind("Telephone and e-mail", models.Contact, _contacts, ("kind", "value"), is_private=True),
    )),
    Section("title", "Deeds, loans and liens", (
        Kind("Deeds", models.Transfer, _covering, ("-recorded_on", "-id")),
        Kind("Loans", models.Loan, _covering, ("-recorded_on", "-id")),
        Kind("Releases and assignments", models.LoanEvent, _linked("loan_number", "loan_numbers"), ("-recorded_on", "-id")),
        Kind("Liens", models.Lien, _covering, ("-recorded_on", "-id")),
        Kind("Releases of liens", models.LienRelease, _linked("lien_number", "lien_numbers"), ("-recorded_on", "-id")),
    )),
    Section("building", "Building", (
        _roll("property_class", "tenure", "units", "beds", "baths", "living_area", "year_built", "hoa_fee"),
        Kind("Project", models.Project, _project, as_sheet=True),
        Kind("Buildings as measured", models.Building, order=("number",)),
        Kind("Dwelling units", models.Unit, order=("designator",)),
    )),
    Section("land", "Land", (
        _roll(
            "land_use", "lot_sqft", "frontage", "depth", "zoning", "sewer", "water", "waterfront", "subdivision", "neighbourhood",
            "further",
        ),
        Kind("Outline", models.ParcelShape, order=("-valid_from", "-id"), fields=("outline",)),
        Kind("Lies in or touches", models.MapFeature, _layers, ("layer", "name")),
    )),
    Section("taxes", "Taxes", (
        _roll("land_value", "improvement_value", "market_value"),
        Kind("Tax years", models.TaxYear, order=("-year",)),
        Kind("Exemptions", models.Exemption, order=("-since",)),
        Kind("Rates", models.TaxRate, _rates, ("-year", "authority")),
    )),
    Section("suits", "Suits", (
        Kind("Cases", models.CourtCase, _covering, ("-filed_on", "-id")),
        Kind("Parties", models.CaseParty, _linked("case_number", "case_numbers"), ("case_number", "id")),
        Kind("Papers", models.CaseDocument, _linked("case_number", "case_numbers"), ("case_number", "filed_on", "id")),
        Kind("Foreclosure", models.ForeclosureStep, order=("-taken_on", "-id")),
        Kind("Auctions", models.Auction, order=("-held_on", "-id")),
    )),
    Section("permits", "Permits and use", (
        Kind("Permits", models.Permit, order=("-issued_on", "-id")),
        Kind("Code violations", models.Violation, order=("-opened_on", "-id")),
        Kind("Vacancy", models.Vacancy, order=("-since", "-id")),
        Kind("Rentals", models.Rental, order=("-since", "unit")),
    )),
    Section("listings", "Listings", (
        Kind("Listings", models.Listing, order=("-first_seen_on", "-listing_contract_date", "-id"), as_sheet=True),
        Kind(
            "Changes of price and status", models.ListingEvent, _linked("resource_record_id", "listing_ids"),
            ("-modification_timestamp", "-id"),
        ),
        Kind("Agents", models.Agent, _members("member_mls_id", "list_agent_mls_id"), ("member_full_name",)),
        Kind("Offices", models.Office, _members("office_mls_id", "list_office_mls_id"), ("office_name",)),
    )),
    Section("photographs", "Photographs", (
        Kind("Photographs", models.Photograph, _photographs, ("listing_id", "order")),
    )),
    Section("area", "Area and schools", (
        _roll("school_district"),
        Kind("Population and border", models.AreaEntry, _areas, ("-population",), fields=("kind", "area", "population")),
    )),
)  # fmt: skip
