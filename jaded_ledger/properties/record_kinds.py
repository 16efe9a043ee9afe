"""Which recorded rows a property's page shows, section by section, and how each kind's are found."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.apps import apps
from django.db.models import ForeignKey, Q

from jaded_ledger.records import models
from jaded_ledger.records.kinds_on_record import kinds_on_record
from jaded_ledger.records.models import Filed, Parcel
from jaded_ledger.records.models.filed import own_fields


def covers_several(model: type[Filed]) -> bool:
    """Whether a document of this kind may cover several parcels."""
    return any(field.name == "parcels" for field in model._meta.many_to_many)


_NOT_READ = (Parcel, models.StoredImage, models.StoredPaper)
"""What a row's own page need not read again: its parcel, and an image's bytes."""


class PropertyRecord:
    """One parcel's record: as it stands, or as the files on record had it on a day. Rows are read once, when first asked for."""

    def __init__(self, parcel: Parcel, day: date | None = None) -> None:
        self.parcel = parcel
        self.day = day
        self._read: dict[tuple[type[Filed], Callable[[PropertyRecord], Q]], list[Any]] = {}
        self._blank: set[type[Filed]] | None = None

    def versions(self, kind: RecordKind) -> list[Any]:
        """Return a kind's rows in its order, those that were corrected or ended among them."""
        key = (kind.model, kind.where)
        if kind.where in (_on_parcel, _covering) and kind.model in self._blank_kinds():
            return []
        if key not in self._read:
            links = (field for field in own_fields(kind.model) if isinstance(field, ForeignKey) and field.related_model not in _NOT_READ)
            rows = kind.model._default_manager.filter(kind.where(self)).select_related("source_file", *(field.name for field in links))
            if covers_several(kind.model):
                rows = rows.prefetch_related("parcels")  # type: ignore[misc]
            self._read[key] = list(rows.order_by(*kind.order))
        return self._read[key]

    def _blank_kinds(self) -> set[type[Filed]]:
        """Return the models of which the parcel has no row."""
        if self._blank is None:
            kinds = {kind.model for section in SECTIONS for kind in section.kinds if kind.where in (_on_parcel, _covering)}
            self._blank = kinds - kinds_on_record(self.parcel.pk, tuple(sorted(kinds, key=lambda model: model.__name__)))
        return self._blank

    def stands(self, row: Filed) -> bool:
        """Whether a row stands, or stood on the record's day."""
        if self.day is None:
            return row.superseded_at is None
        return row.valid_from <= self.day and (row.valid_until is None or row.valid_until > self.day)

    def rows(self, model: type[Filed]) -> list[Any]:
        """Return a model's rows that stand."""
        return [row for row in self.versions(KIND_OF[model]) if self.stands(row)]

    @property
    def roll(self) -> models.RollEntry | None:
        return next(iter(self.rows(models.RollEntry)), None)

    @property
    def shape(self) -> models.ParcelShape | None:
        """The outline as it is now: what is drawn is the ground, not the record."""
        return next((row for row in self.versions(KIND_OF[models.ParcelShape]) if row.superseded_at is None), None)

    def numbers(self, model: type[Filed], field: str) -> list[str]:
        """Return the numbers by which other rows may name a model's."""
        return sorted({number for row in self.versions(KIND_OF[model]) if (number := getattr(row, field))})

    @property
    def area_ids(self) -> list[int]:
        """The areas that the roll puts the parcel in."""
        names = ("municipality_id", "city_id", "zip_id", "subdivision_id", "neighborhood_id", "school_district_id")
        return [pk for name in names if self.roll and (pk := getattr(self.roll, name))]


@dataclass(frozen=True)
class RecordKind:
    """One kind of recorded row: its heading, its model, which rows, in which order (``-`` first: newest on top).

    ``fields`` are those shown, all of its own unless named; ``as_sheet`` sets each row as a sheet of names and values.
    ``is_private`` rows are only shown on request, which is noted.
    """

    title: str
    model: type[Filed]
    where: Callable[[PropertyRecord], Q]
    order: tuple[str, ...] = ("id",)
    fields: tuple[str, ...] = ()
    as_sheet: bool = False
    is_private: bool = False


def _on_parcel(record: PropertyRecord) -> Q:
    return Q(parcel=record.parcel)


def _covering(record: PropertyRecord) -> Q:
    return Q(parcels=record.parcel)


def _naming(model: type[Filed], field: str, by: str) -> Callable[[PropertyRecord], Q]:
    """Return the condition that a row of the same county names one of the record's documents by its number."""
    return lambda record: Q(county=record.parcel.county, **{f"{by}__in": record.numbers(model, field)})


def _about(model: type[Filed]) -> Callable[[PropertyRecord], Q]:
    """Return the condition that a row is about one of the record's documents."""
    assert model.about is not None
    name, field, by = model.about
    return _naming(apps.get_model("records", name), field, by)


def _project(record: PropertyRecord) -> Q:
    return Q(parcel__in=[pk for pk in (record.parcel.pk, record.parcel.parent_id) if pk])


def _rates(record: PropertyRecord) -> Q:
    return Q(county=record.parcel.county) & (Q(area=None) | Q(area__in=record.area_ids))


def _areas(record: PropertyRecord) -> Q:
    return Q(area__in=record.area_ids) | Q(area__kind="county", county=record.parcel.county)


def _photographs(record: PropertyRecord) -> Q:
    return Q(parcel=record.parcel) | Q(county=record.parcel.county, listing_id__in=record.numbers(models.Listing, "listing_id"))


def _layers(record: PropertyRecord) -> Q:
    """The flood zones, parks and waters that the parcel lies in or touches."""
    return Q(county=record.parcel.county, geometry__intersects=record.shape.outline) if record.shape else Q(pk=None)


def _contacts(record: PropertyRecord) -> Q:
    return Q(owner=record.roll.owner_id) if record.roll and record.roll.owner_id else Q(pk=None)


@dataclass(frozen=True)
class Section:
    """A section of the page; ``key`` is its place in the address."""

    key: str
    title: str
    kinds: tuple[RecordKind, ...]


def _roll(*fields: str) -> RecordKind:
    return RecordKind("On the roll", models.RollEntry, _on_parcel, ("-valid_from", "-id"), fields=fields, as_sheet=True)


SECTIONS = (
    Section("owner", "Owner and address", (
        _roll("owner_name", "mailing_address", "homestead", "situs", "house_number", "street", "municipality", "city", "zip"),
        RecordKind("Telephone and e-mail", models.Contact, _contacts, ("kind", "value"), is_private=True),
    )),
    Section("title", "Deeds, loans and liens", (
        RecordKind("Deeds", models.Transfer, _covering, ("-recorded_on", "-id")),
        RecordKind("Loans", models.Loan, _covering, ("-recorded_on", "-id")),
        RecordKind("Releases and assignments", models.LoanEvent, _about(models.LoanEvent), ("-recorded_on", "-id")),
        RecordKind("Liens", models.Lien, _covering, ("-recorded_on", "-id")),
        RecordKind("Releases of liens", models.LienRelease, _about(models.LienRelease), ("-recorded_on", "-id")),
    )),
    Section("building", "Building", (
        _roll("property_class", "tenure", "units", "beds", "baths", "living_area", "year_built", "hoa_fee"),
        RecordKind("Project", models.Project, _project, as_sheet=True),
        RecordKind("Buildings as measured", models.Building, _on_parcel, ("number",)),
        RecordKind("Dwelling units", models.Unit, _on_parcel, ("designator",)),
    )),
    Section("land", "Land", (
        _roll(
            "land_use", "lot_sqft", "frontage", "depth", "zoning", "sewer", "water", "waterfront", "subdivision", "neighborhood",
            "further",
        ),
        RecordKind("Outline", models.ParcelShape, _on_parcel, ("-valid_from", "-id"), fields=("outline",)),
        RecordKind("Lies in or touches", models.MapFeature, _layers, ("layer", "name")),
    )),
    Section("taxes", "Taxes", (
        _roll("land_value", "improvement_value", "market_value"),
        RecordKind("Tax years", models.TaxYear, _on_parcel, ("-year",)),
        RecordKind("Exemptions", models.Exemption, _on_parcel, ("-since",)),
        RecordKind("Rates", models.TaxRate, _rates, ("-year", "authority")),
    )),
    Section("suits", "Suits", (
        RecordKind("Cases", models.CourtCase, _covering, ("-filed_on", "-id")),
        RecordKind("Parties", models.CaseParty, _about(models.CaseParty), ("case_number", "id")),
        RecordKind("Papers", models.CaseDocument, _about(models.CaseDocument), ("case_number", "filed_on", "id")),
        RecordKind("Papers to read", models.CasePaper, _about(models.CasePaper), ("case_number", "filed_on", "id")),
        RecordKind("Foreclosure", models.ForeclosureStep, _on_parcel, ("-taken_on", "-id")),
        RecordKind("Auctions", models.Auction, _on_parcel, ("-held_on", "-id")),
    )),
    Section("permits", "Permits and use", (
        RecordKind("Permits", models.Permit, _on_parcel, ("-issued_on", "-id")),
        RecordKind("Code violations", models.Violation, _on_parcel, ("-opened_on", "-id")),
        RecordKind("Vacancy", models.Vacancy, _on_parcel, ("-since", "-id")),
        RecordKind("Rentals", models.Rental, _on_parcel, ("-since", "unit")),
    )),
    Section("listings", "Listings", (
        RecordKind("Listings", models.Listing, _on_parcel, ("-first_seen_on", "-listing_contract_date", "-id"), as_sheet=True),
        RecordKind(
            "Changes of price and status", models.ListingEvent, _about(models.ListingEvent),
            ("-modification_timestamp", "-id"),
        ),
        RecordKind("Agents", models.Agent, _naming(models.Listing, "list_agent_mls_id", "member_mls_id"), ("member_full_name",)),
        RecordKind("Offices", models.Office, _naming(models.Listing, "list_office_mls_id", "office_mls_id"), ("office_name",)),
    )),
    Section("photographs", "Photographs", (
        RecordKind("Photographs", models.Photograph, _photographs, ("listing_id", "order")),
    )),
    Section("area", "Area and schools", (
        _roll("school_district"),
        RecordKind("Population and border", models.AreaEntry, _areas, ("-population",), fields=("kind", "area", "population")),
    )),
)  # fmt: skip
KIND_OF = {kind.model: kind for section in SECTIONS for kind in section.kinds}
"""The kind of each model; those of the roll's parts read the same rows."""


BEFORE_SECTIONS = (("drawing", "Drawing"), ("figures", "Key figures"), ("statement", "Statement"))


TEAM = "team"
"""What the team itself thinks of a property and did with it: printed only where that is asked for."""


def printable() -> list[tuple[str, str]]:
    """Return what of a record can be printed, by key and title, in its order."""
    return [*BEFORE_SECTIONS, *((section.key, section.title) for section in SECTIONS)]
