"""The photographs and remarks of a property: of the listing by which it was sold, or of its latest one."""

from __future__ import annotations

from datetime import date, timedelta

from jaded_ledger.records.models import Listing, Photograph

_NEAR = timedelta(60)
MOST = 6


def _listing(parcel_id: int, sold_on: date | None) -> Listing | None:
    rows = list(Listing.objects.filter(parcel_id=parcel_id, superseded_at=None).order_by("-listing_contract_date", "-pk"))
    if sold_on is None:
        return rows[0] if rows else None
    return next((row for row in rows if row.close_date and abs(row.close_date - sold_on) <= _NEAR), None)


def photographs_of(parcel_id: int, sold_on: date | None) -> tuple[list[Photograph], str]:
    """Return the photographs of a property and what its listing says in public.

    ``sold_on`` is the day of a sale: then they are of the listing that ended in it. Photographs of no listing are of the parcel.
    """
    listing = _listing(parcel_id, sold_on)
    rows = Photograph.objects.filter(superseded_at=None).order_by("order", "pk")
    found = list(rows.filter(county_id=listing.county_id, listing_id=listing.listing_id)[:MOST]) if listing else []
    return found or list(rows.filter(parcel_id=parcel_id, listing_id="")[:MOST]), listing.public_remarks if listing else ""
