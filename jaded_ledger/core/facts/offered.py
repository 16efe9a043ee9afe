"""What follows from a parcel's listings: the latest offer, what it says of the house, how it compares, what it would yield."""

from __future__ import annotations

from decimal import Decimal

from jaded_ledger.core.facts.basis import Basis
from jaded_ledger.core.facts.by_area import MONTHS, Rent
from jaded_ledger.core.facts.record import Described, Rental
from jaded_ledger.core.lazy_property import lazy_property
from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.core.market.offers import Disagreement, Sign, disagreements, signs_of_competition
from jaded_ledger.core.market.on_market import UNSOLD, Chain, Listing, chain_of, latest_of


class Offered(Basis):
    """A parcel's findings of its listings and what it is let for."""

    @lazy_property
    def chain(self) -> Chain | None:
        """The latest listing for sale with those it continues."""
        return chain_of(self.record.listings, self.record.changes, self.sold_on, self.county.relisting_gap_days, self.today)

    @property
    def is_active(self) -> bool:
        """Whether its latest listing for sale is active now."""
        return self.chain is not None and self.chain.latest.status == StandardStatus.ACTIVE

    @property
    def latest_lease(self) -> Listing | None:
        return latest_of(self.record.listings, lease=True)

    @property
    def latest_offer(self) -> Listing | None:
        """The latest listing, for sale or to let."""
        found = [one for one in (self.chain and self.chain.latest, self.latest_lease) if one]
        return max(found, key=lambda one: (one.begun_on, one.key), default=None)

    @lazy_property
    def described(self) -> Described | None:
        """What the latest listing for sale says of the house."""
        return self.record.described.get(self.chain.latest.key) if self.chain else None

    @property
    def listed_baths(self) -> float | None:
        said = self.described
        if said is None or (said.full_baths is None and said.half_baths is None):
            return None
        return (said.full_baths or 0) + (said.half_baths or 0) / 2

    @lazy_property
    def disagreements(self) -> tuple[Disagreement, ...]:
        said, roll, building = self.described, self.roll, self.building
        if said is None:
            return ()
        return disagreements(
            (
                ("beds", roll and roll.beds, said.beds),
                ("baths", roll and roll.baths, self.listed_baths),
                ("living-area", roll and roll.living_area, said.living_area),
                ("lot", roll and roll.lot_sqft, said.lot_sqft),
                ("year-built", roll and roll.year_built, said.year_built),
                ("stories", building and building.stories, said.stories),
                ("garage", self.garage, said.garage_spaces),
                ("main-floor-beds", building and building.main_floor_beds, said.main_floor_beds),
                ("pool", self.has_pool, said.pool),
            )
        )

    @lazy_property
    def competition(self) -> tuple[Sign, ...]:
        if self.chain is None:
            return ()
        on_market = self.chain.days
        days = None if on_market.since else on_market.days
        return signs_of_competition(self.chain.latest, days, self.described.remarks if self.described else ())

    @property
    def asked_among(self) -> tuple[int, int] | None:
        """Among which listings the latest is compared: its class and bedrooms, by the roll, else by the listing."""
        kind = self.property_class
        if self.roll is None or kind is None:
            return None
        beds = self.roll.beds if self.roll.beds is not None else self.described and self.described.beds
        return None if beds is None else (kind, beds)

    # Rent. Each figure is of a month.

    @lazy_property
    def let_now(self) -> list[Rental]:
        return [rental for rental in self.record.rentals if rental.until is None or rental.until > self.today]

    @lazy_property
    def rent_in_place(self) -> Rent | None:
        """What all of its dwellings are let for: by the rental register, else by its listing."""
        let = [one.rent for one in self.let_now if one.rent is not None]
        if let and len(let) >= (self.dwellings or 1):
            return Rent(sum(let, Decimal(0)), "as let today")
        latest = self.chain and self.chain.latest
        return Rent(latest.actual_rent, "in place by its listing") if latest and latest.actual_rent is not None else None

    @property
    def is_let(self) -> bool | None:
        """Whether anything of it is let."""
        if self.let_now or self.rent_in_place:
            return True
        return False if self.county.has("rentals") else None

    @property
    def rent_advertised(self) -> Rent | None:
        """What its latest rental listing asks, unless that was withdrawn or has expired."""
        lease = self.latest_lease
        return Rent(lease.lease_amount, "as asked") if lease and lease.lease_amount and lease.status not in UNSOLD else None

    @property
    def rent_potential(self) -> Rent | None:
        """What its listing says that all of it would bring."""
        latest = self.chain and self.chain.latest
        if not latest or latest.scheduled_income is None:
            return None
        return Rent(latest.scheduled_income / MONTHS, "its stated potential")

    @property
    def beds_of_one(self) -> int | None:
        """The bedrooms of one of its dwellings, where they can be the same in each."""
        beds, dwellings = self.roll and self.roll.beds, self.dwellings or 1
        return None if beds is None or beds % dwellings else beds // dwellings

    @lazy_property
    def rent_on_record(self) -> Rent | None:
        """The month's rent that its own records tell, for all of its dwellings: in place, else asked for, else its potential."""
        asked = self.rent_advertised if (self.dwellings or 1) == 1 else None
        return self.rent_in_place or asked or self.rent_potential
