"""What a closed listing tells of its sale: how long it took, what was asked and paid, and signs that several buyers competed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from jaded_ledger.core.criteria.display import day_text, money_text
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.market.listings import LEASES, StandardStatus
from jaded_ledger.core.market.offers import signs_of_competition
from jaded_ledger.core.market.on_market import active_periods, days_on_market
from jaded_ledger.records.models import Listing, Parcel
from jaded_ledger.records.reading import record_of


@dataclass(frozen=True)
class ClosedSale:
    """A sale that was listed, with what is known of it; None is unknown."""

    listing_pk: int
    listing_id: str
    parcel_id: int
    address: str
    closed_on: date | None
    list_price: Decimal | None
    close_price: Decimal | None
    days: int | None
    signs: tuple[str, ...]

    @property
    def description(self) -> str:
        """The sale in a sentence."""
        return describe_sale(self.address, self.closed_on, self.list_price, self.close_price, self.days, self.signs)


def describe_sale(
    address: str, closed_on: date | None, asked: Decimal | None, paid: Decimal | None, days: int | None, signs: Sequence[str]
) -> str:
    """Return a sale in a sentence; what is not known is left out.

    >>> describe_sale("103 Capstan St", date(2026, 11, 12), Decimal(300_000), Decimal(312_000), 2, ("gone within days",))
    '103 Capstan St closed on 12 Nov 2026 at $312,000, 4 % over the $300,000 asked, after 2 days on the market; gone within days'
    """
    parts = [f"{address} closed" + (f" on {day_text(closed_on)}" if closed_on else "")]
    if paid is not None:
        parts[0] += f" at {money_text(paid)}"
    if paid is not None and asked:
        over = round((paid / asked - 1) * 100, 1)
        by = f"{abs(over):f}".rstrip("0").rstrip(".") if over % 1 else f"{abs(over):.0f}"
        parts.append(f"{by} % {'over' if over > 0 else 'under'} the {money_text(asked)} asked" if over else "what was asked")
    elif asked:
        parts.append(f"asked {money_text(asked)}")
    if days is not None:
        parts.append(f"after {days:,} day{'' if days == 1 else 's'} on the market")
    return ", ".join(parts) + "".join(f"; {sign}" for sign in signs)


def closed_listings(parcel: Parcel) -> list[Listing]:
    """Return the listings of a parcel that ended in a sale, the latest first."""
    rows = Listing.objects.filter(parcel=parcel, superseded_at=None, standard_status=StandardStatus.CLOSED)
    return list(rows.exclude(property_type__in=LEASES).order_by("-close_date", "-pk"))


def closed_sales(parcel: Parcel, today: date, listings: Sequence[Listing] | None = None) -> list[ClosedSale]:
    """Return the sales of a parcel that were listed, the latest first."""
    rows = closed_listings(parcel) if listings is None else listings
    if not rows:
        return []
    record = record_of(parcel, alone=True)
    by_key = {listing.key: listing for listing in record.listings}
    found = []
    for row in rows:
        listing = by_key.get(row.pk)
        if listing is None:
            continue
        on_market = days_on_market(active_periods(listing, record.changes.get(listing.listing_id, ()), today))
        days = None if on_market.since else on_market.days
        said = record.described.get(row.pk)
        signs = signs_of_competition(listing, days, said.remarks if said else ())
        facts = getattr(parcel, "facts", None)
        address = (facts.street_line if facts else "") or in_reading_case(row.unparsed_address) or parcel.number
        found.append(
            ClosedSale(row.pk, row.listing_id, parcel.pk, address, row.close_date, row.list_price, row.close_price, days, tuple(signs))
        )
    return found
