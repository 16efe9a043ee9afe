"""Which parcels' facts are to be derived again after a file was taken in."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from django.apps import apps
from django.db.models import Exists, OuterRef, Q, QuerySet

from jaded_ledger.core.distress.signals import AHEAD
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.models import (
    AreaEntry,
    Auction,
    Contact,
    County,
    Filed,
    Listing,
    ListingEvent,
    LoanParcel,
    MapFeature,
    Parcel,
    ParcelFacts,
    ParcelShape,
    Project,
    RecordedAddress,
    Rental,
    RollEntry,
    SourceFile,
    TaxRate,
    TaxYear,
    Transfer,
    TransferParcel,
    Unit,
    Vacancy,
    Violation,
)

Ids = set[int]


def _ids(rows: QuerySet, field: str) -> Ids:
    return {pk for pk in rows.values_list(field, flat=True) if pk}


def _current(county: Iterable[County]) -> QuerySet[Parcel]:
    return Parcel.objects.filter(county__in=county, retired_on=None)


def _of_numbers(rows: QuerySet[Filed], about: tuple[str, str, str], counties: list[County]) -> Ids:
    """Return the parcels of the records that some rows are about."""
    name, number, own = about
    model = apps.get_model("records", name)
    field = "parcels" if any(one.name == "parcels" for one in model._meta.many_to_many) else "parcel"
    return _ids(model.objects.filter(superseded_at=None, county__in=counties, **{f"{number}__in": rows.values(own)}), field)


def affected_by(file: SourceFile, model: type[Filed], counties: list[County]) -> Ids:
    """Return the parcels that a file's rows are about, as they are now and as those were that it corrected or ended."""
    rows = model._default_manager.filter(county__in=counties).filter(Q(source_file=file) | Q(superseded_at=file.taken_in_at))
    if model in (AreaEntry, MapFeature):
        # What lies around, and how far owners are, may have changed for any of them.
        return _ids(Parcel.objects.filter(retired_on=None) if model is AreaEntry else _current(counties), "id")
    if model.about:
        return _of_numbers(rows, model.about, counties)
    if model is Contact:
        owners = rows.values("owner")  # type: ignore[misc]
        return _ids(RollEntry.objects.filter(superseded_at=None, owner__in=owners), "parcel_id")
    if model is TaxRate:
        return set()
    names = {field.name for field in model._meta.get_fields()}
    found = _ids(rows, "parcels" if "parcels" in names else "parcel") if names & {"parcels", "parcel"} else set()
    if model is Project:
        found |= _ids(Parcel.objects.filter(parent__in=among_ids(found)), "id")
    return found


TELLS_OF_AREAS: tuple[type[Filed], ...] = (ParcelShape, RollEntry, Unit, Transfer, Rental, Listing, ListingEvent, AreaEntry)
"""What the figures of areas are counted from."""


def affected_by_reach(county: County, kind: str, *, is_first: bool) -> Ids:
    """Return the parcels of which something becomes known because a kind of record now reaches further.

    With the first file of a kind, no row comes to mean that there is none; that a purchase was paid in cash is known only
    when mortgages are on file far enough after it; and what goes on counts from the newest file that shows it.
    """
    if is_first:
        return _ids(_current([county]), "id")
    if kind == "loans":
        return _ids(ParcelFacts.objects.filter(county=county, cash_purchase=None, last_sale__isnull=False), "parcel_id")
    # What goes on is confirmed by each file that still shows it; what had a day is over once the files reach beyond it.
    going_on: dict[str, tuple[type[Filed], Q]] = {
        "tax-years": (TaxYear, Q(due__gt=0)),
        "violations": (Violation, Q(closed_on=None)),
        "vacancies": (Vacancy, Q(until=None)),
        "auctions": (Auction, Q(status__in=AHEAD)),
    }
    if kind not in going_on:
        return set()
    model, still = going_on[kind]
    return _ids(model._default_manager.filter(still, county=county, superseded_at=None), "parcel_id")


def _with_owners(parcels: Ids) -> Ids:
    """Add the other parcels of owners who have come by one, or have one no longer."""
    before = dict(ParcelFacts.objects.filter(parcel__in=among_ids(parcels)).values_list("parcel_id", "owner_id"))
    after = dict(RollEntry.objects.filter(parcel__in=among_ids(parcels), superseded_at=None).values_list("parcel_id", "owner_id"))
    moved = {owner for pk in parcels if before.get(pk) != after.get(pk) for owner in (before.get(pk), after.get(pk)) if owner}
    if not moved:
        return parcels
    return parcels | _ids(RollEntry.objects.filter(owner__in=among_ids(moved), superseded_at=None), "parcel_id")


def _with_mail(parcels: Ids) -> Ids:
    """Add the parcels whose owner's mail goes to one of these: their distance may have changed."""
    here = RecordedAddress.objects.filter(id__in=RollEntry.objects.filter(parcel__in=among_ids(parcels)).values("situs"), street__gt="")
    mailed = RecordedAddress.objects.filter(Exists(here.filter(street=OuterRef("street"), zip5=OuterRef("zip5"))))
    return parcels | _ids(RollEntry.objects.filter(superseded_at=None, mailing_address__in=mailed), "parcel_id")


def _with_documents(parcels: Ids) -> Ids:
    """Add the parcels that share a deed or a loan with one of these: amounts are shared by assessed value."""
    for through, document in ((TransferParcel, "transfer"), (LoanParcel, "loan")):
        covering = through.objects.filter(parcel__in=among_ids(parcels)).values(document)
        parcels = parcels | _ids(through.objects.filter(**{f"{document}__in": covering}), "parcel_id")
    return parcels


def with_dependents(parcels: Ids, model: type[Filed]) -> Ids:
    """Return parcels with those whose facts depend on theirs."""
    ways: tuple[Callable[[Ids], Ids], ...] = (_with_owners, _with_mail, _with_documents) if model in (RollEntry, ParcelShape) else ()
    for way in ways:
        parcels = way(parcels)
    return parcels
