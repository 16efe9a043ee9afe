"""How a listing's figures are explained."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from decimal import Decimal
from functools import wraps

from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.facts.explanations.entries import (
    Entry,
    Explainer,
    Source,
    counted,
    day,
    figure,
    kind_text,
    money,
    not_on_file,
    on_roll,
)
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.market.areas import ENOUGH_SALES
from jaded_ledger.core.market.listings import SpecialListingConditions
from jaded_ledger.core.market.on_market import Chain, Listing


def _listing(one: Listing, note: str = "") -> Entry:
    asked = one.lease_amount if one.is_lease else one.list_price
    said = note or f"{one.status}, {'to let' if one.is_lease else 'for sale'}"
    return Entry(f"Listing {one.listing_id} of {day(one.begun_on)}", money(asked), said, (Source("listing", one.key),))


def latest(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The latest listing for sale, and the others on record."""
    yield from not_on_file(found, "listings")
    chosen = found.chain.latest if found.chain else None
    for listing in sorted(found.record.listings, key=lambda listing: (listing.begun_on, listing.key)):
        yield _listing(listing, f"the latest for sale, {listing.status}" if listing == chosen else "")
    if not found.record.listings and found.county.has("listings"):
        yield Entry("Listings on record", "none")


def _of_a_listing(explain: Callable[[Findings, Trait, Chain], Iterator[Entry]]) -> Explainer:
    """Have an explainer of the latest listing say so where there is none."""

    @wraps(explain)
    def explained(found: Findings, trait: Trait) -> Iterator[Entry]:
        yield from not_on_file(found, "listings")
        if found.chain is None:
            yield Entry("Listings for sale on record", "none")
        else:
            yield from explain(found, trait, found.chain)

    return explained


@_of_a_listing
def days(found: Findings, trait: Trait, chain: Chain) -> Iterator[Entry]:
    """The active intervals, listing by listing."""
    mine = chain.listings if trait.key in ("cumulative-days", "relistings") else chain.listings[-1:]
    for one in mine:
        yield _listing(one)
        for period in chain.periods_of(one):
            until = period.until or found.today
            length = max((until - period.since).days, 0)
            yield Entry(
                f"active from {day(period.since)}", counted(length, "day"), f"to {day(period.until)}" if period.until else "until today"
            )
    if chain.is_past_expiry:
        note = "still said to be active: days stop there"
        yield Entry(f"Expired {day(chain.latest.expiration_date)}", "", note, (Source("listing", chain.latest.key),))
    total = chain.cumulative if trait.key == "cumulative-days" else chain.days
    if trait.key == "relistings":
        gap = f"each gap is shorter than the county’s {found.county.relisting_gap_days} days"
        yield Entry("Continues", str(len(chain.listings) - 1), gap, is_sum=True)
    else:
        yield Entry("Days on the market", str(total.on(found.today)), is_sum=True)


@_of_a_listing
def cuts(found: Findings, trait: Trait, chain: Chain) -> Iterator[Entry]:
    """The changes of the price."""
    one = chain.latest
    yield Entry("First asked", money(one.original_list_price), "", (Source("listing", one.key),))
    for cut in chain.cuts:
        source = (Source("listing-event", cut.key),)
        yield Entry(f"Cut {day(cut.on)}", money(Decimal(cut.after)), f"from {money(Decimal(cut.before))}", source)
    yield Entry("Asked now", money(one.list_price), counted(len(chain.cuts), "cut"), is_sum=True)


@_of_a_listing
def ratios(found: Findings, trait: Trait, chain: Chain) -> Iterator[Entry]:
    """The two figures whose ratio it is."""
    one = chain.latest
    yield Entry("List price", money(one.list_price), one.status, (Source("listing", one.key),))
    if trait.key == "sale-to-list":
        yield Entry("Closing price", money(one.close_price), f"closed {day(one.close_date)}", (Source("listing", one.key),))
    elif trait.key == "list-to-assessed":
        yield Entry("Market value on the roll", money(found.roll.market_value if found.roll else None), "", on_roll(found))
    elif trait.key == "list-sqft":
        said = found.described
        area = said.living_area if said and said.living_area else found.roll.living_area if found.roll else None
        yield Entry("Living area", figure(area, "sq ft"), "as listed, else as on the roll")
    elif trait.key == "asking-yield":
        rent = found.rent
        lets = _lets(found) if rent and rent == found.rent_in_place else ()
        yield Entry("Rent a month", money(rent.amount if rent else None), rent.source if rent else "not told by anything on record", lets)
        yield Entry("Rent a year", money(12 * rent.amount if rent else None))
    elif not found.is_active:
        yield Entry("Compared", "", "only what is active now")
    else:
        asked = sorted(found.record.area.asked.get(found.asked_among or (0, 0), ()))
        where = f"active in {found.record.area.name}, of the same class and bedrooms, itself among them"
        yield Entry("Prices asked", str(len(asked)), f"{where}; at least {ENOUGH_SALES} others are needed")
        if asked:
            yield Entry("They run", f"{money(asked[0])} to {money(asked[-1])}")


@_of_a_listing
def competition(found: Findings, trait: Trait, chain: Chain) -> Iterator[Entry]:
    """Each sign that was found."""
    one = chain.latest
    yield Entry("Closed at", money(one.close_price), f"last asked {money(one.list_price)}", (Source("listing", one.key),))
    yield Entry("Days on the market", str(chain.days.on(found.today)), "3 or fewer count")
    for sign in found.competition:
        yield Entry(sign.capitalize(), "yes", "", (Source("listing", one.key),))
    if not found.competition:
        yield Entry("Signs", "none")


@_of_a_listing
def seller(found: Findings, trait: Trait, chain: Chain) -> Iterator[Entry]:
    """What the listing says of the seller."""
    source = (Source("listing", chain.latest.key),)
    said = found.described
    yield Entry("Special conditions", chain.latest.conditions or SpecialListingConditions.STANDARD, "", source)
    yield Entry("The seller’s name reads as", (said and said.seller_kind) or "no name given", "", source)
    yield Entry("Acting for the seller", (said and said.seller_role) or "nobody", "", source)


def disagreements(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The figures of both, where they differ."""
    yield from not_on_file(found, "listings")
    source = (Source("listing", found.chain.latest.key),) if found.chain else ()
    for disagreement in found.disagreements:
        yield Entry(
            kind_text(disagreement.what),
            figure(disagreement.roll),
            f"{figure(disagreement.listing)} by the listing",
            (*on_roll(found), *source),
        )
    if not found.disagreements:
        yield Entry("Figures that both give, and that differ", "none")


def _lets(found: Findings) -> tuple[Source, ...]:
    return tuple(Source("rental", one.key) for one in found.let_now)


def rents(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Each rent by its own source: the register, a rental listing, the listing for sale, the area."""
    if trait.key == "rent-area":
        usual, where = found.by_area.usual_rent, found.record.area.name or "the area"
        yield Entry("Bedrooms of one dwelling", figure(found.beds_of_one), f"of {found.dwellings or 1} dwellings", on_roll(found))
        note = f"of {counted(usual.count, 'dwelling')} let in {where}" if usual else f"fewer than {ENOUGH_SALES} such are let in {where}"
        yield Entry("Median rent of its class and bedrooms", money(usual.value if usual else None), note)
        return
    if trait.key == "rent-advertised":
        yield from not_on_file(found, "listings")
        lease, known_rent = found.latest_lease, found.rent_advertised
        if lease:
            yield Entry(f"Rental listing {lease.listing_id}", money(lease.lease_amount), lease.status, (Source("listing", lease.key),))
        else:
            yield Entry("Rental listings on record", "none")
    elif trait.key == "rent-potential":
        yield from not_on_file(found, "listings")
        known_rent = found.rent_potential
        if found.chain:
            latest = found.chain.latest
            source = (Source("listing", latest.key),)
            yield Entry("Gross scheduled income a year", money(latest.scheduled_income), f"listing {latest.listing_id}", source)
    else:
        yield from not_on_file(found, "rentals")
        known_rent = found.rent_in_place
        for one in found.let_now:
            label = f"Let since {day(one.since)}{f', {one.unit}' if one.unit else ''}"
            yield Entry(label, money(one.rent), "", (Source("rental", one.key),))
        yield Entry("Dwellings", figure(found.dwellings), "all of them must be let for a known rent", on_roll(found))
        if found.chain and found.chain.latest.actual_rent is not None:
            source = (Source("listing", found.chain.latest.key),)
            yield Entry("Rent in place by its listing", money(found.chain.latest.actual_rent), "", source)
    yield Entry("Rent a month", money(known_rent.amount if known_rent else None), known_rent.source if known_rent else "", is_sum=True)
