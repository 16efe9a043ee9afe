"""The columns that a parcel's listings and rents give."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue import choices
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.record import NOT_DESCRIBED, NOT_ON_ROLL, Described
from jaded_ledger.core.facts.stored_values import Codes, Columns, is_there, ratio, rounded, whole_dollars
from jaded_ledger.core.market.listings import SpecialListingConditions, StandardStatus, offer_of
from jaded_ledger.core.market.offers import seller_kind
from jaded_ledger.core.market.on_market import OFFERED, ON_MARKET, Chain, Listing

_OCCUPANTS = Codes(choices.OCCUPANTS)
_OFFERS = Codes(choices.OFFERS)
_OWNER_KINDS = Codes(choices.OWNER_KINDS)
_ROLES = Codes(choices.ROLES)
_SELLER_KINDS = Codes(choices.SELLER_KINDS)
_SIGNS = Codes(choices.SIGNS)
_STATUSES = Codes(choices.STATUSES)
_WAYS = {choice.key: choice.code for choice in choices.ON_OFFER}


_PENDING = frozenset({StandardStatus.ACTIVE_UNDER_CONTRACT, StandardStatus.PENDING})


def _how_offered(listing: Listing | None) -> str:
    """Return in which way a listing is on offer; blank where it is not, or not any more."""
    if listing is None or listing.status not in OFFERED:
        return ""
    if listing.status in ON_MARKET:
        return "for-rent" if listing.is_lease else "for-sale"
    return f"{'rental' if listing.is_lease else 'sale'}-{'pending' if listing.status in _PENDING else 'on-hold'}"


def _on_offer(found: Findings) -> list[int]:
    ways = map(_how_offered, (found.chain.latest if found.chain else None, found.latest_lease))
    return [_WAYS[way] for way in ways if way]


def _offer(listing: Listing | None) -> str:
    if listing is None:
        return choices.NONE
    return offer_of(listing.property_type, listing.conditions, has_office=bool(listing.office))


_NEVER_LISTED: Columns = dict.fromkeys(
    (
        "last_listed", "list_date", "first_seen", "seller_name_id", "seller_kind", "seller_role", "ownership", "status", "status_since",
        "list_price", "original_price", "price_cut", "price_cuts", "list_sqft", "days_on_market", "active_since", "cumulative_days",
        "cumulative_since", "relistings", "expires", "list_to_assessed", "sale_to_list", "occupant",
    )
) | {"listing_number": "", "source": "", "remarks": ()}  # fmt: skip


def listing(found: Findings) -> Columns:
    """Return the columns about listings; unknown, and not no, where the county has none on file."""
    has_listings = found.record.county.has("listings")
    offered: Columns = {
        "ever_listed": found.chain is not None if has_listings else None,
        "on_offer": _on_offer(found) if has_listings else None,
        "offer": _OFFERS[_offer(found.latest_offer)] if has_listings else None,
        "short_sale": False if has_listings else None,
        "competition": [_SIGNS[sign] for sign in found.competition] if has_listings else None,
        "is_active": found.is_active if has_listings else None,
        "was_sold_listed": bool(found.chain and found.chain.latest.status == StandardStatus.CLOSED) if has_listings else None,
    }
    return offered | (_NEVER_LISTED if found.chain is None else _listed(found))


def rents(found: Findings) -> Columns:
    """Return the columns about rents, in whole dollars a month."""
    in_place, advertised, potential = found.rent_in_place, found.rent_advertised, found.rent_potential
    return {
        "is_let": found.is_let,
        "rent_in_place": whole_dollars(in_place and in_place.amount),
        "is_advertised_to_let": is_there(advertised, on_file=found.county.has("listings")),
        "rent_advertised": whole_dollars(advertised and advertised.amount),
        "rent_potential": whole_dollars(potential and potential.amount),
    }


def _listed(found: Findings) -> Columns:
    chain = found.chain
    assert chain is not None  # asked of what was listed
    said, latest = found.described or NOT_DESCRIBED, chain.latest
    return (
        _seller(said, latest)
        | _asking_price(found, chain)
        | _time_on_market(chain)
        | {
            "listing_number": latest.listing_id,
            "source": latest.source,
            "status": _STATUSES[latest.status],
            "occupant": _OCCUPANTS[said.occupant],
            "remarks": said.remarks,
        }
    )


def _seller(said: Described, listing: Listing) -> Columns:
    return {
        "seller_name_id": said.seller_id,
        "seller_kind": _OWNER_KINDS[said.seller_kind],
        "seller_role": _ROLES[said.seller_role or choices.NOBODY] if said.seller_id else None,
        "ownership": _SELLER_KINDS[seller_kind(listing.conditions, said.seller_kind)],
        "short_sale": listing.conditions == SpecialListingConditions.SHORT_SALE,
    }


def _asking_price(found: Findings, chain: Chain) -> Columns:
    roll, listing = found.roll or NOT_ON_ROLL, chain.latest
    asked, first = listing.list_price, listing.original_list_price
    area = (found.described or NOT_DESCRIBED).living_area or roll.living_area
    return {
        "list_price": whole_dollars(asked),
        "original_price": whole_dollars(first),
        "price_cut": ratio(first - asked, first) if first is not None and asked is not None else None,
        "price_cuts": len(chain.cuts),
        "list_sqft": rounded(asked / area) if asked is not None and area else None,
        "list_to_assessed": ratio(asked, roll.market_value),
        "sale_to_list": ratio(listing.close_price, asked) if listing.status == StandardStatus.CLOSED else None,
    }


def _time_on_market(chain: Chain) -> Columns:
    listing, of_latest, of_all = chain.latest, chain.days, chain.cumulative
    return {
        "last_listed": listing.begun_on,
        "list_date": listing.listing_contract_date,
        "first_seen": listing.first_seen_on,
        "status_since": chain.status_since,
        "days_on_market": of_latest.days,
        "active_since": of_latest.since,
        "cumulative_days": of_all.days,
        "cumulative_since": of_all.since,
        "relistings": len(chain.listings) - 1,
        "expires": listing.expiration_date,
    }
