"""The columns of the searchable row, from a parcel's findings."""

from __future__ import annotations

from decimal import Decimal

from jaded_ledger.core.criteria.catalogue import choices
from jaded_ledger.core.criteria.catalogue.choices import key_of
from jaded_ledger.core.criteria.traits import Choice
from jaded_ledger.core.distress.signals import LIEN_SIGNALS, TOLD_BY, SignalKind
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.history import outcomes, signs_ever
from jaded_ledger.core.market.land import SQFT_PER_ACRE, percent_of_usual, possible_lots
from jaded_ledger.core.market.listings import SpecialListingConditions, StandardStatus, offer_of
from jaded_ledger.core.market.offers import seller_kind
from jaded_ledger.core.market.on_market import ENDED, Listing

Columns = dict[str, object]

_MOST = 2_147_483_647
"""A column of whole numbers holds no more."""


class _Codes(dict[str | None, int | None]):
    """The codes of declared choices by a vocabulary's words, each word spelt as a key once: millions are looked up."""

    def __init__(self, of: tuple[Choice, ...]) -> None:
        super().__init__({None: None, "": None})
        self._of = {choice.key: choice.code for choice in of}

    def __missing__(self, word: str) -> int:
        self[word] = self._of[key_of(word)]
        return self._of[key_of(word)]


_ACQUIRED = _Codes(choices.ACQUIRED)
_AMENITIES = _Codes(choices.AMENITIES)
_AUCTION_KINDS = _Codes(choices.AUCTION_KINDS)
_CASE_STATUSES = _Codes(choices.CASE_STATUSES)
_DEEDS = _Codes(choices.DEEDS)
_DISAGREEMENTS = _Codes(choices.DISAGREEMENTS)
_LOAN_KINDS = _Codes(choices.LOAN_KINDS)
_OCCUPANTS = _Codes(choices.OCCUPANTS)
_OFFERS = _Codes(choices.OFFERS)
_OWNER_KINDS = _Codes(choices.OWNER_KINDS)
_ROLES = _Codes(choices.ROLES)
_SELLER_KINDS = _Codes(choices.SELLER_KINDS)
_SIGNALS = _Codes(choices.SIGNALS)
_SIGNS = _Codes(choices.SIGNS)
_STAGES = _Codes(choices.STAGES)
_STATUSES = _Codes(choices.STATUSES)
_TENURES = _Codes(choices.TENURES)


def whole_dollars(amount: Decimal | None) -> int | None:
    """Return an amount as facts keep it."""
    return None if amount is None else max(-_MOST, min(_MOST, round(amount)))


def rounded(number: Decimal | float | None, places: int = 2) -> float | None:
    """Return a figure to so many places, as facts keep it."""
    return None if number is None else round(float(number), places)


def derive_columns(found: Findings) -> Columns:
    """Return the facts by their column. Texts stand for themselves: whoever stores them gives them their ids."""
    return {**_place(found), **_building(found), **_owner(found), **_value(found), **_sales(found), **_distress(found), **_listing(found)}


def _place(found: Findings) -> Columns:
    roll, ground = found.roll, found.record.ground
    number = roll and roll.house_number
    said = found.described
    return {
        "address_id": roll and roll.situs_id,
        "street_id": roll and roll.street_id,
        "municipality_id": roll and roll.municipality_id,
        "city_id": roll and roll.city_id,
        "zip_id": roll and roll.zip_id,
        "subdivision_id": roll and roll.subdivision_id,
        "neighbourhood_id": roll and roll.neighbourhood_id,
        "school_district_id": roll and roll.school_district_id,
        "area_id": roll and (roll.neighbourhood_id or roll.municipality_id),
        "house_number": number,
        "house_side": None if number is None else 2 - number % 2,
        "flood_zone": ", ".join(ground.flood_zones or ()),
        "in_flood_zone": None if ground.flood_zones is None else bool(ground.flood_zones),
        "waterfront": roll.waterfront if roll and roll.waterfront is not None else said and said.waterfront,
        "road_class": ground.road_class or "",
    }


def _building(found: Findings) -> Columns:
    roll, record, building, permit = found.roll, found.record, found.building, found.last_permit
    county, project, said = record.county, record.project, found.described
    has_project = project is not None
    fee = roll.hoa_fee if roll and roll.hoa_fee is not None else said and said.association_fee
    improvements = roll and roll.improvement_value
    usual = record.area.frontage
    return {
        "property_class": roll and roll.property_class,
        "tenure": _TENURES[roll and roll.tenure],
        "project": project.name if project else "",
        "in_project": True if has_project else False if county.has("projects") else None,
        "amenities": [_AMENITIES[amenity] for amenity in project.amenities] if project else [] if county.has("projects") else None,
        "land_use_code": roll.land_use if roll else "",
        "beds": roll and roll.beds,
        "baths": roll and roll.baths,
        "living_area": roll and roll.living_area,
        "lot_sqft": roll and roll.lot_sqft,
        "lot_acres": round(roll.lot_sqft / SQFT_PER_ACRE, 2) if roll and roll.lot_sqft is not None else None,
        "frontage": rounded(roll and roll.frontage, 1),
        "depth": rounded(roll and roll.depth, 1),
        "frontage_of_usual": percent_of_usual(roll and roll.frontage, float(usual.value) if usual and usual.is_enough else None),
        "possible_lots": possible_lots(roll.frontage, roll.depth, roll.lot_sqft) if roll else None,
        "year_built": roll and roll.year_built,
        "storeys": rounded(building and building.storeys, 1),
        "units": found.dwellings,
        "garage": found.garage,
        "pool": found.has_pool,
        "main_floor_beds": building and building.main_floor_beds,
        "condition": building.condition if building else "",
        "raw_land": None if improvements is None else improvements == 0,
        "zoning": roll.zoning if roll else "",
        "sewer": roll.sewer if roll else "",
        "water_source": roll.water if roll else "",
        "hoa_fee": whole_dollars(fee),
        "listed_beds": said and said.beds,
        "listed_baths": rounded(found.listed_baths),
        "listed_living_area": said and said.living_area,
        "listed_lot_sqft": said and said.lot_sqft,
        "listed_year_built": said and said.year_built,
        "disagreement": [_DISAGREEMENTS[disagreement.what] for disagreement in found.disagreements] if county.has("listings") else None,
        "has_permit": True if permit else False if county.has("permits") else None,
        "last_permit": permit and permit.issued_on,
        "last_permit_kind": permit.kind if permit else "",
        "last_permit_cost": whole_dollars(permit and permit.cost),
    }


def _owner(found: Findings) -> Columns:
    roll, record, held = found.roll, found.record, found.holding
    mailing, owned = roll and roll.mailing, record.owned
    exemptions = sorted({" ".join(exemption.kind.casefold().split()) for exemption in found.exemptions})
    return {
        "owner_id": roll and roll.owner_id,
        "owner_name_id": roll and roll.owner_name_id,
        "owner_kind": _OWNER_KINDS[roll and roll.owner_kind],
        "owner_role": _ROLES[roll.owner_role or choices.NOBODY] if roll and roll.owner_name_id else None,
        "owner_occupied": found.is_owner_occupied,
        "out_of_state": found.is_out_of_state,
        "out_of_county": found.is_out_of_county,
        "mailing_address_id": roll and roll.mailing_address_id,
        "mailing_city": mailing.city if mailing else "",
        "mailing_zip": mailing.zip5 if mailing else "",
        "mailing_distance": rounded(record.ground.miles_to_owner, 1),
        "owned_since": held and held.began.sold_on,
        "parcels_owned": owned.parcels if roll and roll.owner_id else None,
        "acquired": _ACQUIRED[held.acquired if held else None],
        "exemptions": exemptions if record.county.has("exemptions") or exemptions else None,
        "has_telephone": owned.has_telephone,
        "has_email": owned.has_email,
        "do_not_contact": owned.do_not_contact,
    }


def _value(found: Findings) -> Columns:
    roll, county, loan, own = found.roll, found.record.county, found.last_loan, found.equity
    worth, bill = found.estimate, found.last_tax_year
    owed, has_loans = found.owed, county.has("loans")
    area = roll and roll.living_area
    return {
        "estimated_value": whole_dollars(worth.value if worth else None),
        "value_low": whole_dollars(worth.low if worth else None),
        "value_high": whole_dollars(worth.high if worth else None),
        "assessed_value": whole_dollars(found.assessed),
        "market_value": whole_dollars(roll and roll.market_value),
        "market_value_1y": rounded(found.market_value_change(1)),
        "market_value_5y": rounded(found.market_value_change(5)),
        "land_value": whole_dollars(roll and roll.land_value),
        "improvement_value": whole_dollars(roll and roll.improvement_value),
        "value_sqft": rounded(worth.value / area) if worth and area else None,
        "loan_balance": whole_dollars(owed),
        "open_loans": None if not has_loans or found.is_loan_missing else len(found.open_loans),
        "has_loan": True if loan else False if has_loans else None,
        "last_loan": loan and loan.recorded_on,
        "last_loan_kind": _LOAN_KINDS[loan.kind or "not-stated"] if loan else None,
        "lender_id": loan and loan.lender_id,
        "ltv": rounded(worth.value and owed / worth.value * 100) if worth and owed is not None else None,
        "equity": whole_dollars(own.amount if own else None),
        "equity_pct": rounded(own.percent if own else None),
        "free_and_clear": found.is_free_and_clear,
        "tax_bill": whole_dollars(bill and bill.billed),
    }


def _sales(found: Findings) -> Columns:
    sale, transfer = found.last_sale, found.transfers[-1] if found.transfers else None
    area, has_deeds = found.roll and found.roll.living_area, found.record.county.has("deeds")
    flip = found.flips[-1] if found.flips else None
    return {
        "last_sale": sale and sale.sold_on,
        "last_sale_price": whole_dollars(sale and sale.price),
        "sale_sqft": rounded(sale.price / area) if sale and sale.price and area else None,
        "last_transfer": transfer and transfer.sold_on,
        "last_deed": _DEEDS[transfer and transfer.deed],
        "cash_purchase": found.is_cash_purchase,
        "sales_10y": len(found.recent_sales) if has_deeds else None,
        "flips": len(found.flips) if has_deeds else None,
        "was_flipped": bool(found.flips) if has_deeds else None,
        "flip_margin": whole_dollars(flip.margin if flip else None),
        "flip_days": flip and flip.days,
        "never_sold": not found.sales if has_deeds else None,
    }


# The event column of each kind of signal that is a trait of its own, and the column of its day.
_DATED: tuple[tuple[SignalKind, str, str], ...] = (
    *((signal, f"has_{kind.replace('-', '_')}_lien", f"{kind.replace('-', '_')}_lien") for kind, signal in LIEN_SIGNALS.items()),
    (SignalKind.TAX_JUDGMENT, "has_tax_judgment", "tax_judgment"),
    (SignalKind.CODE_VIOLATION, "has_violation", "code_violation"),
    (SignalKind.VACANCY, "is_vacant", "vacancy"),
    (SignalKind.PROBATE, "has_probate", "probate"),
    (SignalKind.DIVORCE, "has_divorce", "divorce"),
    (SignalKind.BANKRUPTCY, "has_bankruptcy", "bankruptcy"),
)
_TELLING = frozenset(TOLD_BY.values())
"""The kinds of record that tell of distress. Signals are counted where any of them is on file."""


def _distress(found: Findings) -> Columns:
    county, filed, signals = found.record.county, found.record.filed, found.open_signals
    suit, stage, auction, newest = found.tax_suit, found.foreclosure_stage, found.next_auction, found.newest_signal
    standing, ever = sorted(signals, key=lambda kind: _SIGNALS[kind] or 0), signs_ever(found)
    has_cases, has_bills = county.has("cases"), bool(filed.tax_years) and county.has("tax-years")
    is_told = any(county.has(kind) for kind in _TELLING)
    columns: Columns = {
        "tax_years_delinquent": len(found.delinquent) if has_bills else None,
        "tax_due": whole_dollars(found.tax_due) if has_bills else None,
        "tax_suit": _CASE_STATUSES[suit.status if suit else choices.NONE] if has_cases else None,
        "foreclosure_stage": _STAGES[stage.step if stage else choices.NONE] if county.has("foreclosures") else None,
        "in_foreclosure": stage is not None if county.has("foreclosures") else None,
        "foreclosure_step": stage and stage.taken_on,
        "has_auction": auction is not None if county.has("auctions") else None,
        "auction": auction and auction.held_on,
        "auction_kind": _AUCTION_KINDS[auction.kind if auction else choices.NONE] if county.has("auctions") else None,
        "lien_total": whole_dollars(found.lien_total),
        "evictions": len(found.evictions) if has_cases else None,
        "tired_landlord": found.is_tired_landlord,
        "open_signals": len(signals) if is_told else None,
        "signals": [_SIGNALS[kind] or 0 for kind in standing] if is_told else None,
        "signal_days": [signals[kind].on for kind in standing] if is_told else None,
        "signs_ever": [_SIGNALS[kind] or 0 for kind, _ in ever] or None,
        "signs_ever_days": [day for _, day in ever] or None,
        "outcome_days": list(outcomes(found)) or None,
        "has_signal": newest is not None if is_told else None,
        "newest_signal": newest and newest.on,
        "is_inherited": found.inheritance is not None if county.has("deeds") else None,
        "inherited": found.inheritance and found.inheritance.sold_on,
    }
    for kind, event, column in _DATED:
        signal = signals.get(kind)
        columns[event] = True if signal else False if county.has(TOLD_BY[kind]) else None
        columns[column] = signal and signal.on
    return columns


def _offered_now(listing: Listing | None) -> bool:
    return listing is not None and listing.status not in ENDED


def _on_offer(found: Findings) -> list[int]:
    asked = (found.chain.latest if found.chain else None, found.latest_lease)
    return [choice.code for choice, listing in zip(choices.ON_OFFER, asked, strict=True) if _offered_now(listing)]


def _offer(listing: Listing | None) -> str:
    if listing is None:
        return choices.NONE
    return offer_of(listing.property_type, listing.conditions, has_office=bool(listing.office))


_NEVER_LISTED: Columns = dict.fromkeys(
    (
        "last_listed", "list_date", "first_seen", "seller_name_id", "seller_kind", "seller_role", "ownership", "status", "status_since",
        "list_price", "original_price", "price_cut", "price_cuts", "list_sqft", "days_on_market", "active_since", "cumulative_days",
        "cumulative_since", "relistings", "expires", "list_to_assessed", "percent_of_median", "asking_yield", "sale_to_list", "occupant",
    )
) | {"listing_number": "", "source": "", "remarks": ()}  # fmt: skip


def _listing(found: Findings) -> Columns:
    has_listings = found.record.county.has("listings")
    offered: Columns = {
        "ever_listed": found.chain is not None if has_listings else None,
        "on_offer": _on_offer(found) if has_listings else None,
        "offer": _OFFERS[_offer(found.latest_offer)] if has_listings else None,
        "short_sale": False if has_listings else None,
        "competition": [_SIGNS[sign] for sign in found.competition] if has_listings else None,
    }
    return offered | (_NEVER_LISTED if found.chain is None else _listed(found))


def _ratio(part: Decimal | None, whole: Decimal | None) -> float | None:
    return None if part is None or not whole else rounded(part / whole * 100)


def _listed(found: Findings) -> Columns:
    chain, said, roll = found.chain, found.described, found.roll
    assert chain is not None  # asked of what was listed
    one, now, all_days = chain.latest, chain.days, chain.cumulative
    asked, first = one.list_price, one.original_list_price
    area = (said and said.living_area) or (roll and roll.living_area)
    is_closed = one.status == StandardStatus.CLOSED
    return {
        "listing_number": one.listing_id,
        "last_listed": one.begun_on,
        "list_date": one.listing_contract_date,
        "first_seen": one.first_seen_on,
        "seller_name_id": said and said.seller_id,
        "seller_kind": _OWNER_KINDS[said and said.seller_kind],
        "seller_role": _ROLES[said.seller_role or choices.NOBODY] if said and said.seller_id else None,
        "ownership": _SELLER_KINDS[seller_kind(one.conditions, said and said.seller_kind)],
        "short_sale": one.conditions == SpecialListingConditions.SHORT_SALE,
        "status": _STATUSES[one.status],
        "status_since": chain.status_since,
        "list_price": whole_dollars(asked),
        "original_price": whole_dollars(first),
        "price_cut": _ratio(first - asked, first) if first is not None and asked is not None else None,
        "price_cuts": len(chain.cuts),
        "list_sqft": rounded(asked / area) if asked is not None and area else None,
        "days_on_market": now.days,
        "active_since": now.since,
        "cumulative_days": all_days.days,
        "cumulative_since": all_days.since,
        "relistings": len(chain.listings) - 1,
        "expires": one.expiration_date,
        "list_to_assessed": _ratio(asked, roll and roll.market_value),
        "percent_of_median": rounded(found.percent_of_median),
        "asking_yield": rounded(found.asking_yield),
        "sale_to_list": _ratio(one.close_price, asked) if is_closed else None,
        "occupant": _OCCUPANTS[said and said.occupant],
        "source": one.source,
        "remarks": said.remarks if said else (),
    }
