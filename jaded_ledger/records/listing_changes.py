"""Listings and their changes as the core takes them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from jaded_ledger.core.market.on_market import Change
from jaded_ledger.records.bulk import among
from jaded_ledger.records.models import ListingEvent

LISTED = (
    "listing_id", "originating_system_name", "standard_status", "property_type", "special_listing_conditions", "list_price",
    "original_list_price", "close_price", "lease_amount", "total_actual_rent", "gross_scheduled_income", "listing_contract_date",
    "on_market_date", "purchase_contract_date",
    "expiration_date", "withdrawn_date", "cancellation_date", "close_date", "first_seen_on", "list_office_name", "id",
)  # fmt: skip
"""The columns of a listing in the order in which the core has them."""
_CHANGED = ("modification_timestamp", "field_name", "previous_value", "new_value", "id")


def changes_of(county: int, numbers: Iterable[str]) -> dict[str, list[Change]]:
    """Return the changes of a county's listings by the listing's number, in order."""
    changes: dict[str, list[Change]] = defaultdict(list)
    rows = ListingEvent.objects.filter(county=county, superseded_at=None, resource_record_id__in=among(numbers))
    for number, *rest in rows.order_by("modification_timestamp", "id").values_list("resource_record_id", *_CHANGED):
        changes[number].append(Change(*rest))
    return changes
