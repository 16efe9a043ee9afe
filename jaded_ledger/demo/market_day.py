"""A day of the listing service: new listings, cuts, offers taken, closings, listings that run out."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from random import Random
from typing import Any

from jaded_ledger.core.criteria.catalogue.choices import CLASSES
from jaded_ledger.core.market.listings import StandardStatus as Status
from jaded_ledger.demo import people, remarks
from jaded_ledger.demo.filed_rows import cells_of
from jaded_ledger.demo.offers import SERVICE, SUB_TYPES, TYPES
from jaded_ledger.records.models import County, Listing, ParcelFacts, RollEntry

Row = tuple[str, dict[str, Any]]
"""A kind of file, and a row of it."""
_OPEN = (Status.ACTIVE.value, Status.PENDING.value, Status.COMING_SOON.value)
_PARCELS_PER_LISTING = 2_600
"""Of so many parcels one is listed on a day."""
_AGENTS = people.agents()
_KEYS = {one.code: one.key for one in CLASSES}


class MarketDay:
    """What the listing service reports of a county for one day. The same records and day give the same rows."""

    def __init__(self, county: County, day: date, rng: Random) -> None:
        self.county, self.day, self.rng = county, day, rng
        current = Listing.objects.filter(county=county, superseded_at=None).select_related("owner_name", "parcel")
        self._open = list(current.filter(standard_status__in=_OPEN).order_by("originating_system_name", "listing_id"))

    def rows(self) -> Iterator[Row]:
        for listing in self._open:
            yield from self._on(listing)
        yield from self._new()

    def _event(self, listing_id: str, source: str, what: str, before: object, after: object) -> Row:
        return "listing-events", {
            "OriginatingSystemName": source, "ResourceRecordID": listing_id, "ModificationTimestamp": f"{self.day}T15:30:00Z",
            "FieldName": what, "PreviousValue": before, "NewValue": after,
        }  # fmt: skip

    def _changed(self, listing: Listing, **cells: Any) -> Iterator[Row]:
        yield "listings", cells_of("listings", listing) | cells
        for what, before in (("ListPrice", listing.list_price), ("StandardStatus", listing.standard_status)):
            if what in cells:
                yield self._event(listing.listing_id, listing.originating_system_name, what, before, cells[what])

    def _on(self, listing: Listing) -> Iterator[Row]:
        """Tell what happens to an open listing on this day, mostly nothing."""
        draw, is_lease = self.rng.random(), listing.lease_amount is not None
        match listing.standard_status:
            case Status.COMING_SOON if draw < 0.4:
                yield from self._changed(listing, StandardStatus=Status.ACTIVE.value, OnMarketDate=self.day)
            case Status.ACTIVE if listing.expiration_date and listing.expiration_date <= self.day:
                yield from self._changed(listing, StandardStatus=Status.EXPIRED.value)
            case Status.ACTIVE if draw < 0.012:
                if is_lease:
                    yield from self._changed(listing, StandardStatus=Status.CLOSED.value, CloseDate=self.day)
                else:
                    yield from self._changed(listing, StandardStatus=Status.PENDING.value, PurchaseContractDate=self.day)
            case Status.ACTIVE if draw < 0.03 and listing.list_price:
                lower = round(float(listing.list_price) * self.rng.uniform(0.93, 0.98), -2)
                yield from self._changed(listing, ListPrice=f"{lower:.0f}")
            case Status.ACTIVE if draw > 0.998:
                yield from self._changed(listing, StandardStatus=Status.WITHDRAWN.value, WithdrawnDate=self.day)
            case Status.PENDING if (self.day - (listing.purchase_contract_date or self.day)).days > 30 and draw < 0.12:
                if self.rng.random() < 0.08:
                    yield from self._changed(listing, StandardStatus=Status.ACTIVE.value, PurchaseContractDate=None)
                elif listing.list_price:
                    paid = round(float(listing.list_price) * self.rng.uniform(0.95, 1.03), -2)
                    yield from self._changed(
                        listing, StandardStatus=Status.CLOSED.value, CloseDate=self.day, ClosePrice=f"{paid:.0f}",
                        BuyerFinancing=self.rng.choice(("Conventional", "Conventional", "FHA", "Cash")),
                    )  # fmt: skip

    def _new(self) -> Iterator[Row]:
        taken = {listing.parcel_id for listing in self._open if listing.parcel_id is not None}
        held = ParcelFacts.objects.filter(county=self.county, living_area__isnull=False).exclude(parcel_id__in=taken)
        ids = list(held.order_by("parcel_number").values_list("parcel_id", flat=True))
        wanted = len(ids) / _PARCELS_PER_LISTING
        count = int(wanted) + (self.rng.random() < wanted % 1)
        chosen = self.rng.sample(ids, min(count, len(ids)))
        entries = RollEntry.objects.filter(parcel_id__in=chosen, superseded_at=None, market_value__gt=20_000).order_by("natural_key")
        for place, entry in enumerate(entries.select_related("parcel", "owner_name", "situs", "city"), start=1):
            yield from self._listed(entry, place)

    def _listed(self, entry: RollEntry, place: int) -> Iterator[Row]:
        rng, agent = self.rng, self.rng.choice(_AGENTS)
        kind = _KEYS.get(entry.property_class or 0, "")
        number = f"{(self.county.fips or '')[-2:]}{self.day:%y%m%d}{place:02d}"
        asked = round(float(entry.market_value or 0) * rng.uniform(0.97, 1.16), -2)
        meanings = [meaning for meaning, odds in (("motivated", 0.2), ("as-is", 0.12), ("terms", 0.06)) if rng.random() < odds]
        line = f"{entry.situs.street} {entry.situs.unit}".strip().title() if entry.situs else ""
        yield "listings", {
            "OriginatingSystemName": SERVICE, "ListingId": number, "ParcelNumber": entry.parcel.number,
            "UnparsedAddress": ", ".join(filter(None, (line, entry.city.text if entry.city else ""))),
            "StandardStatus": Status.ACTIVE.value, "PropertyType": TYPES.get(kind, "Residential"),
            "PropertySubType": SUB_TYPES.get(kind, ""),
            "SpecialListingConditions": "Standard", "ListPrice": f"{asked:.0f}", "OriginalListPrice": f"{asked:.0f}",
            "ListingContractDate": self.day, "OnMarketDate": self.day, "ExpirationDate": self.day + timedelta(days=180),
            "BedroomsTotal": entry.beds, "BathroomsFull": int(entry.baths or 0) or None, "LivingArea": entry.living_area,
            "LotSizeSquareFeet": entry.lot_sqft, "YearBuilt": entry.year_built,
            "OwnerName": entry.owner_name.text if entry.owner_name else "", "ListAgentMlsId": agent.number,
            "ListAgentFullName": agent.name, "ListOfficeMlsId": agent.office_number, "ListOfficeName": agent.office,
            "PublicRemarks": remarks.public(rng, kind or "home", entry.beds, meanings), "PrivateRemarks": remarks.private(rng),
        }  # fmt: skip
