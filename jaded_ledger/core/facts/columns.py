"""The columns of the searchable row, from a parcel's findings."""

from __future__ import annotations

from jaded_ledger.core.criteria.catalogue import choices
from jaded_ledger.core.distress.signals import LIEN_SIGNALS, TOLD_BY, SignalKind
from jaded_ledger.core.facts.by_area import columns_by_area
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.history import outcomes, signs_ever
from jaded_ledger.core.facts.listing_columns import listing, rents
from jaded_ledger.core.facts.record import NOT_DESCRIBED, NOT_ON_ROLL
from jaded_ledger.core.facts.stored_values import Codes, Columns, first_known, is_there, rounded, whole_dollars
from jaded_ledger.core.ground import Way
from jaded_ledger.core.market.land import SQFT_PER_ACRE, possible_lots

_ACQUIRED = Codes(choices.ACQUIRED)
_AMENITIES = Codes(choices.AMENITIES)
_AUCTION_KINDS = Codes(choices.AUCTION_KINDS)
_AUCTION_RESULTS = Codes(choices.AUCTION_RESULTS)
_CASE_STATUSES = Codes(choices.CASE_STATUSES)
_DEEDS = Codes(choices.DEEDS)
_DISAGREEMENTS = Codes(choices.DISAGREEMENTS)
_LOAN_KINDS = Codes(choices.LOAN_KINDS)
_OWNER_KINDS = Codes(choices.OWNER_KINDS)
_ROLES = Codes(choices.ROLES)
_SIGNALS = Codes(choices.SIGNALS)
_STAGES = Codes(choices.STAGES)
_TENURES = Codes(choices.TENURES)


def derive_columns(found: Findings) -> Columns:
    """Return the facts by their column. Texts stand for themselves: whoever stores them gives them their ids."""
    parts = (_place, _ground, _project, _land, _house, _listed_house, _permits, _owner, _title, _value, _debt, _sales, _flips)
    columns: Columns = {}
    for part in (*parts, _taxes, _courts, _signals, _signal_events, _signals_ever, listing, rents):
        columns |= part(found)
    return columns | columns_by_area(found.area_basis, found.record.area, found.county)


def _place(found: Findings) -> Columns:
    roll = found.roll or NOT_ON_ROLL
    number = roll.house_number
    return {
        "address_id": roll.situs_id,
        "street_id": roll.street_id,
        "municipality_id": roll.municipality_id,
        "city_id": roll.city_id,
        "zip_id": roll.zip_id,
        "subdivision_id": roll.subdivision_id,
        "neighborhood_id": roll.neighborhood_id,
        "school_district_id": roll.school_district_id,
        "area_id": roll.neighborhood_id or roll.municipality_id,
        "house_number": number,
        "house_side": None if number is None else 2 - number % 2,
    }


def _ground(found: Findings) -> Columns:
    ground = found.record.ground
    return {
        "flood_zone": ", ".join(ground.flood_zones or ()),
        "in_flood_zone": None if ground.flood_zones is None else bool(ground.flood_zones),
        "waterfront": first_known((found.roll or NOT_ON_ROLL).waterfront, (found.described or NOT_DESCRIBED).waterfront),
        "road_class": ground.road_class or "",
        "longitude": ground.longitude,
        "latitude": ground.latitude,
        "elevation": ground.terrain and ground.terrain.feet,
        "slope": ground.terrain and ground.terrain.slope,
        **{f"{way}_distance": None if (feet := ground.feet_to.get(way)) is None else round(feet) for way in Way},
    }


def _project(found: Findings) -> Columns:
    project, on_file = found.record.project, found.county.has("projects")
    amenities = [_AMENITIES[amenity] for amenity in project.amenities] if project else []
    fee = first_known((found.roll or NOT_ON_ROLL).hoa_fee, (found.described or NOT_DESCRIBED).association_fee)
    return {
        "project": project.name if project else "",
        "in_project": is_there(project, on_file=on_file),
        "amenities": amenities if project or on_file else None,
        "hoa_fee": whole_dollars(fee),
    }


def _land(found: Findings) -> Columns:
    roll = found.roll or NOT_ON_ROLL
    improvements = roll.improvement_value
    return {
        "lot_sqft": roll.lot_sqft,
        "lot_acres": None if roll.lot_sqft is None else round(roll.lot_sqft / SQFT_PER_ACRE, 2),
        "frontage": rounded(roll.frontage, 1),
        "depth": rounded(roll.depth, 1),
        "possible_lots": possible_lots(roll.frontage, roll.depth, roll.lot_sqft),
        "raw_land": None if improvements is None else improvements == 0,
        "zoning": roll.zoning,
        "sewer": roll.sewer,
        "water_source": roll.water,
    }


def _house(found: Findings) -> Columns:
    roll, building = found.roll or NOT_ON_ROLL, found.building
    return {
        "property_class": found.property_class,
        "tenure": _TENURES[roll.tenure],
        "land_use_code": roll.land_use,
        "beds": roll.beds,
        "baths": roll.baths,
        "living_area": roll.living_area,
        "year_built": roll.year_built,
        "stories": rounded(building and building.stories, 1),
        "units": found.dwellings,
        "garage": found.garage,
        "pool": found.has_pool,
        "main_floor_beds": building and building.main_floor_beds,
        "condition": building.condition if building else "",
    }


def _listed_house(found: Findings) -> Columns:
    said, has_listings = found.described or NOT_DESCRIBED, found.county.has("listings")
    return {
        "listed_beds": said.beds,
        "listed_baths": rounded(found.listed_baths),
        "listed_living_area": said.living_area,
        "listed_lot_sqft": said.lot_sqft,
        "listed_year_built": said.year_built,
        "disagreement": [_DISAGREEMENTS[disagreement.what] for disagreement in found.disagreements] if has_listings else None,
    }


def _permits(found: Findings) -> Columns:
    permit = found.last_permit
    return {
        "has_permit": is_there(permit, on_file=found.county.has("permits")),
        "last_permit": permit and permit.issued_on,
        "last_permit_kind": permit.kind if permit else "",
        "last_permit_cost": whole_dollars(permit and permit.cost),
    }


def _owner(found: Findings) -> Columns:
    roll, owned = found.roll or NOT_ON_ROLL, found.record.owned
    mailing = roll.mailing
    return {
        "owner_id": roll.owner_id,
        "owner_name_id": roll.owner_name_id,
        "owner_kind": _OWNER_KINDS[roll.owner_kind],
        "owner_role": _ROLES[roll.owner_role or choices.NOBODY] if roll.owner_name_id else None,
        "owner_occupied": found.is_owner_occupied,
        "out_of_state": found.is_out_of_state,
        "out_of_county": found.is_out_of_county,
        "mailing_address_id": roll.mailing_address_id,
        "mailing_city": mailing.city if mailing else "",
        "mailing_zip": mailing.zip5 if mailing else "",
        "mailing_distance": rounded(found.record.ground.miles_to_owner, 1),
        "parcels_owned": owned.parcels if roll.owner_id else None,
        "has_telephone": owned.has_telephone,
        "has_email": owned.has_email,
        "do_not_contact": owned.do_not_contact,
    }


def _title(found: Findings) -> Columns:
    held = found.holding
    exemptions = sorted({" ".join(exemption.kind.casefold().split()) for exemption in found.exemptions})
    return {
        "owned_since": held and held.began.sold_on,
        "acquired": _ACQUIRED[held.acquired if held else None],
        "owner_not_on_deed": found.is_owner_not_on_deed,
        "exemptions": exemptions if found.county.has("exemptions") or exemptions else None,
    }


def _value(found: Findings) -> Columns:
    roll = found.roll or NOT_ON_ROLL
    return {
        "assessed_value": whole_dollars(found.assessed),
        "market_value": whole_dollars(roll.market_value),
        "market_value_1y": rounded(found.market_value_change(1)),
        "market_value_5y": rounded(found.market_value_change(5)),
        "land_value": whole_dollars(roll.land_value),
        "improvement_value": whole_dollars(roll.improvement_value),
    }


def _debt(found: Findings) -> Columns:
    loan, has_loans = found.last_loan, found.county.has("loans")
    return {
        "loan_balance": whole_dollars(found.owed),
        "open_loans": None if found.is_debt_unknown else len(found.open_loans),
        "blanket_loan": found.has_blanket_loan,
        "has_loan": is_there(loan, on_file=has_loans),
        "last_loan": loan and loan.recorded_on,
        "last_loan_kind": _LOAN_KINDS[loan.kind or "not-stated"] if loan else None,
        "lender_id": loan and loan.lender_id,
        "free_and_clear": found.is_free_and_clear,
    }


def _sales(found: Findings) -> Columns:
    sale, transfer = found.last_sale, found.transfers[-1] if found.transfers else None
    area, has_deeds = (found.roll or NOT_ON_ROLL).living_area, found.county.has("deeds")
    return {
        "last_sale": sale and sale.sold_on,
        "last_sale_price": whole_dollars(sale and sale.price),
        "sale_parcels": sale and sale.covered.parcels,
        "sale_sqft": rounded(sale.price_of_one / area) if sale and sale.price_of_one and area else None,
        "last_transfer": transfer and transfer.sold_on,
        "last_deed": _DEEDS[transfer and transfer.deed],
        "cash_purchase": found.is_cash_purchase,
        "seller_financed": found.is_seller_financed,
        "sales_10y": len(found.recent_sales) if has_deeds else None,
        "never_sold": not found.sales if has_deeds else None,
    }


def _flips(found: Findings) -> Columns:
    flip = found.flips[-1] if found.flips else None
    return {
        "flips": len(found.flips) if found.are_flips_known else None,
        "was_flipped": is_there(flip, on_file=found.are_flips_known),
        "flip_margin": whole_dollars(flip.margin if flip else None),
        "flip_days": flip and flip.days,
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


def _taxes(found: Findings) -> Columns:
    bill, suit = found.last_tax_year, found.tax_suit
    has_bills = bool(bill) and found.county.has("tax-years")
    return {
        "tax_bill": whole_dollars(bill and bill.billed),
        "tax_years_delinquent": len(found.delinquent) if has_bills else None,
        "tax_due": whole_dollars(found.tax_due) if has_bills else None,
        "tax_suit": _CASE_STATUSES[suit.status if suit else choices.NONE] if found.county.has("cases") else None,
        "lien_total": whole_dollars(found.lien_total),
    }


def _courts(found: Findings) -> Columns:
    stage, auction, inheritance, county = found.foreclosure_stage, found.next_auction, found.inheritance, found.county
    last = found.last_auction
    has_steps, has_auctions = county.has("foreclosures"), county.has("auctions")
    return {
        "foreclosure_stage": _STAGES[stage.step if stage else choices.NONE] if has_steps else None,
        "in_foreclosure": stage is not None if has_steps else None,
        "foreclosure_step": stage and stage.taken_on,
        "has_auction": auction is not None if has_auctions else None,
        "auction": auction and auction.held_on,
        "auction_kind": _AUCTION_KINDS[auction.kind if auction else choices.NONE] if has_auctions else None,
        "auction_result": _AUCTION_RESULTS[found.auction_result(last) if last else choices.NONE] if has_auctions else None,
        "evictions": len(found.evictions) if county.has("cases") else None,
        "is_inherited": inheritance is not None if county.has("deeds") else None,
        "inherited": inheritance and inheritance.sold_on,
    }


def _signals(found: Findings) -> Columns:
    signals, newest = found.open_signals, found.newest_signal
    kinds = sorted(signals, key=lambda kind: _SIGNALS[kind] or 0)
    is_on_file = any(found.county.has(kind) for kind in _TELLING)
    return {
        "tired_landlord": found.is_tired_landlord,
        "open_signals": len(signals) if is_on_file else None,
        "signals": [_SIGNALS[kind] or 0 for kind in kinds] if is_on_file else None,
        "signal_days": [signals[kind].counts_from for kind in kinds] if is_on_file else None,
        "has_signal": newest is not None if is_on_file else None,
        "newest_signal": newest and newest.on,
    }


def _signal_events(found: Findings) -> Columns:
    columns: Columns = {}
    for kind, event, column in _DATED:
        signal = found.open_signals.get(kind)
        columns[event] = is_there(signal, on_file=found.county.has(TOLD_BY[kind]))
        columns[column] = signal and signal.on
    return columns


def _signals_ever(found: Findings) -> Columns:
    ever = signs_ever(found)
    return {
        "signs_ever": [_SIGNALS[kind] or 0 for kind, _ in ever] or None,
        "signs_ever_days": [day for _, day in ever] or None,
        "outcome_days": list(outcomes(found)) or None,
    }
