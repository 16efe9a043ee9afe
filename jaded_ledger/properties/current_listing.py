"""What stands first on a property's page: the listing under which it is offered now, and its photographs."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import Q

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.find.results import value_of
from jaded_ledger.properties.record_kinds import PropertyRecord
from jaded_ledger.records.models import Listing, ParcelFacts, Photograph

_OFFERED = (
    StandardStatus.ACTIVE, StandardStatus.COMING_SOON, StandardStatus.ACTIVE_UNDER_CONTRACT, StandardStatus.PENDING, StandardStatus.HOLD,
)  # fmt: skip
_SHOWN = 3


@dataclass(frozen=True)
class Current:
    """The listing that is current, how long the property has been on the market, and the first photographs; blank without any."""

    listing: Listing | None = None
    days: int | None = None
    photographs: tuple[Photograph, ...] = ()

    @property
    def is_any(self) -> bool:
        return bool(self.listing or self.photographs)


def current_of(record: PropertyRecord, facts: ParcelFacts | None) -> Current:
    """Return what is shown first of a property."""
    listing = next((one for one in record.rows(Listing) if one.standard_status in _OFFERED), None)
    days = value_of(facts, CATALOGUE["cumulative-days"]) if facts and listing else None
    return Current(listing, days if isinstance(days, int) else None, tuple(record.rows(Photograph)[:_SHOWN]))


def first_image_ids(parcel_id: int) -> list[int]:
    """Return the images that another property's page shows first, so that they are there when it is opened."""
    listings = Listing.objects.filter(parcel=parcel_id, superseded_at=None).values("listing_id")
    own = Photograph.objects.filter(Q(parcel=parcel_id) | Q(listing_id__in=listings), superseded_at=None)
    return list(own.order_by("listing_id", "order").values_list("image_id", flat=True)[:_SHOWN])
