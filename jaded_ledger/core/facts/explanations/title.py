"""How ownership, sales and the owner's whereabouts are explained."""

from __future__ import annotations

from collections.abc import Iterator

from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.facts.explanations.entries import (
    Entry,
    Source,
    counted,
    day,
    figure,
    kind_text,
    money,
    not_on_file,
    on_roll,
    part_of_price,
    yes_no,
)
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.core.ownership.parties import are_kin
from jaded_ledger.core.several_parcels import listed_numbers
from jaded_ledger.core.title.holding import keeps_ownership, whole_years
from jaded_ledger.core.title.sales import DeedType, Transfer, is_nominal, is_sale, loans_about


def _deed(transfer: Transfer, note: str) -> Entry:
    price = money(transfer.price) if transfer.price is not None else "no price"
    label = f"{kind_text(transfer.deed)}{'' if transfer.deed == DeedType.LAND_CONTRACT else ' deed'} of {day(transfer.sold_on)}"
    if transfer.date_doubt:
        note = f"{note}; dated as of its recording: {transfer.date_doubt}"
    if transfer.covered.others:
        note = f"{note}; for {transfer.covered.parcels:,} parcels, with {listed_numbers(transfer.covered.others)}"
    return Entry(label, price, note, (Source("deed", transfer.key),))


def _why_no_sale(transfer: Transfer) -> str:
    if transfer.is_fulfillment:
        return "fulfills a land contract: the sale was the contract"
    if transfer.is_related:
        return "between related names"
    if transfer.deed == DeedType.QUITCLAIM and not is_nominal(transfer.price):
        return "a quitclaim that names but one party: it may be a share within a family"
    return "not at arm’s length, or for no more than a nominal price"


def sales(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Every deed on record, and whether it was a sale."""
    yield from not_on_file(found, "deeds")
    for transfer in found.transfers:
        yield _deed(transfer, "a sale" if is_sale(transfer) else _why_no_sale(transfer))
    if not found.transfers and found.county.has("deeds"):
        yield Entry("Deeds on record", "none", "so no transfer is known")
    if trait.key == "sale-sqft" and found.last_sale:
        yield from part_of_price(found.last_sale)
        yield Entry("Living area", figure(found.roll.living_area if found.roll else None, "sq ft"), "", on_roll(found))
    if trait.key == "sales-10y":
        yield Entry("Sales of the ten years to today", str(len(found.recent_sales)), is_sum=True)


def cash(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The last sale, and the purchase loans about it."""
    yield from not_on_file(found, "deeds", "loans")
    sale = found.last_sale
    if sale is None:
        yield Entry("Sales on record", "none")
        return
    yield _deed(sale, f"recorded {day(sale.recorded_on)}")
    if sale.is_seller_financed:
        how = "a land contract" if sale.deed == DeedType.LAND_CONTRACT else "as the deed itself recites"
        yield Entry("Financed by the seller", "yes", how, (Source("deed", sale.key),))
    for loan in found.paid_by:
        note = f"{loan.lender}, the seller" if are_kin(loan.lent_by, sale.grantor) else loan.lender
        yield Entry(f"Purchase loan recorded {day(loan.recorded_on)}", money(loan.amount), note, (Source("loan", loan.key),))
    for loan in loans_about(sale, found.record.loans):
        if loan not in found.paid_by:
            yield Entry(
                f"Loan recorded {day(loan.recorded_on)}", money(loan.amount), f"lent to {loan.borrower.name.title()}, not to the buyer",
                (Source("loan", loan.key),),
            )  # fmt: skip
    yield Entry("Mortgages on file through", day(found.county.through.get("loans")))


def flips(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Each pair of sales that was a flip."""
    yield from not_on_file(found, "deeds")
    for flip in found.flips:
        sources = (Source("deed", flip.bought.key), Source("deed", flip.sold.key))
        yield Entry(
            f"Bought {day(flip.bought.sold_on)} for {money(flip.paid)}, sold {day(flip.sold.sold_on)} for {money(flip.got)}",
            money(flip.margin),
            counted(flip.days, "day"),
            sources,
        )
    for one in dict.fromkeys(sale for flip in found.flips for sale in (flip.bought, flip.sold) if sale.covered.others):
        yield _deed(one, "prices of the same parcels are compared, whole or shared by assessed value")
    known = found.are_flips_known
    if found.county.has("deeds") and not known:
        yield Entry("A sale and resale", "·", "of different parcels together: one of them has no assessed value to share the price by")
    yield Entry("Flips", str(len(found.flips)) if known else "·", is_sum=True)


def holding(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The deeds of the present ownership, and which it began with."""
    yield from not_on_file(found, "deeds")
    held = found.holding
    if held is None:
        yield Entry("Deeds on record", "none", "so since when it is owned is not known")
        return
    since = found.transfers[found.transfers.index(held.began) :]
    for one in since:
        within = "the ownership begins"
        if keeps_ownership(one):
            within = _why_no_sale(one) if one.is_fulfillment else "within the family, or a correction: the ownership goes on"
        yield _deed(one, within)
    if held.is_open_before:
        yield Entry("Before", "", "the first deed on record is within the family: it may be theirs for longer")
    yield Entry(
        "Acquired by", held.acquired.replace("-", " "), f"told by the deed of {day(held.by.sold_on)}", (Source("deed", held.by.key),)
    )
    years = whole_years(held.began.sold_on, found.today)
    yield Entry(f"Owned since {day(held.began.sold_on)}", counted(years, "year"), is_sum=True)


def occupancy(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The two addresses, side by side."""
    roll = found.roll
    if roll is None:
        yield Entry("The roll", "", "has no row of this parcel")
        return
    source = on_roll(found)
    for label, address in (("Property", roll.situs), ("Owner’s mail", roll.mailing)):
        text = ", ".join(filter(None, (address.delivery_line, address.last_line))) if address else "not on record"
        yield Entry(label, text, "in the form of USPS Publication 28", source)
    if trait.key == "owner-occupied":
        yield Entry("Homestead exemption on the roll", yes_no(roll.homestead), "", source)
    if trait.key == "out-of-county":
        yield Entry(f"ZIP Codes of {found.county.name}", ", ".join(sorted(found.county.zips)) or "none on record")
    if trait.key == "mailing-distance":
        yield Entry("Distance", figure(found.record.ground.miles_to_owner, "mi"), "on the ellipsoid", is_sum=True)


def on_deed(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The roll's owner and the last deed's grantee, side by side."""
    yield from not_on_file(found, "deeds")
    roll, last = found.roll, found.transfers[-1] if found.transfers else None
    if roll is None:
        yield Entry("The roll", "", "has no row of this parcel")
        return
    yield Entry("Owner on the roll", roll.owner_name or "·", f"through {day(found.county.through.get('roll'))}", on_roll(found))
    if last is None:
        yield Entry("Deeds on record", "none")
        return
    yield Entry("Last deed to", last.grantee.name or "·", f"{kind_text(last.deed)}, {day(last.sold_on)}", (Source("deed", last.key),))
    differs = found.is_owner_not_on_deed
    reason = {True: "they share no name", False: "they share a name", None: "one of them is not named"}[differs]
    yield Entry("Differs", yes_no(differs), reason, is_sum=True)


def owner(found: Findings, trait: Trait) -> Iterator[Entry]:
    """What is known of the owner beside this parcel."""
    roll, owned = found.roll, found.record.owned
    if roll is None:
        yield Entry("The roll", "", "has no row of this parcel")
        return
    if trait.key == "owner-kind":
        by = read_name(roll.owner_name).decided_by
        yield Entry("The recorded name reads as", roll.owner_kind or "·", f"told by {by}" if by else "", on_roll(found))
    elif trait.key == "owner-role":
        yield Entry("Split off the recorded name", roll.owner_role or "nobody", "", on_roll(found))
    elif trait.key == "parcels-owned":
        yield Entry("Parcels of this owner, in all counties on record", str(owned.parcels), "", on_roll(found), is_sum=True)
    else:
        yield from not_on_file(found, "contacts")
        yield Entry("Telephone that may be called", yes_no(owned.has_telephone))
        yield Entry("E-mail that may be written to", yes_no(owned.has_email))
        yield Entry("Asked to be left alone", yes_no(owned.do_not_contact))


def tired(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The four conditions, one by one."""
    absentee = None if found.is_owner_occupied is None else not found.is_owner_occupied
    yield Entry("Absentee", yes_no(absentee), "", on_roll(found))
    held = found.holding
    years = str(whole_years(held.began.sold_on, found.today)) if held else "·"
    yield Entry("Years owned", years, "10 or more", (Source("deed", held.began.key),) if held else ())
    kind = found.property_class
    yield Entry("Residential", yes_no(None if kind is None else kind <= 8), "by its class", on_roll(found))
    yield from not_on_file(found, "cases", "violations", "listings")
    for what, row, key in found.landlord_troubles:
        yield Entry(what.capitalize(), "on record", "", (Source(row, key),))
    if not found.landlord_troubles:
        yield Entry("Rental listing, eviction filing or code violation", "none on record")
