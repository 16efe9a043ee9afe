"""Who owned a property, from when to when, and how each came by it. The chain of title has no gap."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, timedelta
from random import Random

from jaded_ledger.demo import people
from jaded_ledger.demo.ground import Lot
from jaded_ledger.demo.houses import House
from jaded_ledger.demo.people import Mailing

DEEDS_SINCE = date(1990, 1, 2)
"""No county's deeds are on file from before this day; who bought earlier has no sale on record."""
_LETTING = {
    "duplex": 0.52, "triplex": 0.78, "fourplex": 0.86, "apartments": 1.0, "condominium": 0.38, "residential-lot": 0.9,
    "commercial": 0.8, "industrial": 0.9, "agricultural": 0.3, "woodland": 0.85,
}  # fmt: skip

ACTING = ("EXECUTOR", "PERS REP", "C/O")
"""How counties write in which part somebody acts for an estate."""


@dataclass
class Tenure:
    """One owner's time. ``since`` is None where it began before the records do."""

    owner: str
    came_by: str
    """bought, trust, foreclosed, inherited, or none where nothing was recorded."""
    since: date | None = None
    until: date | None = None
    grantor: str = ""
    deed: str = "warranty"
    price: int | None = None
    recorded: date | None = None
    document: str = ""
    occupies: bool = False
    company: int | None = None
    mailing: Mailing | None = None
    lost_to: str = ""
    """The lender that foreclosed on it."""
    also: list[str] = field(default_factory=list)
    """Numbers of further parcels that the deed covers."""
    price_of_all: int | None = None
    """What was paid for all that the deed covers, where that is more than this parcel."""
    borrowed: list[tuple[date, str]] = field(default_factory=list)
    """When, and of whom, money was borrowed on it."""

    @property
    def paid(self) -> int | None:
        """The price that stands in the deed."""
        return self.price if self.price_of_all is None else self.price_of_all

    @property
    def is_sale(self) -> bool:
        return self.came_by == "bought" and (self.price or 0) > 1000


@dataclass
class Home:
    """A property and all that is told of it."""

    number: str
    lot: Lot
    house: House
    address: Mailing
    tenures: list[Tenure]
    """Oldest first; the last is the present owner's."""
    homestead: bool | None = False
    unit: int = 0
    ground: str = ""
    rent: int | None = None
    """What its tenants pay a month, where all of it is let."""
    notes: set[str] = field(default_factory=set)
    """What befell it, in words that later chapters look at."""

    @property
    def present(self) -> Tenure:
        return self.tenures[-1]


def present_owner(lot: Lot, house: House, rng: Random, zip_base: int, home: Mailing) -> tuple[Tenure, bool]:
    """Choose who owns it and where the tax bill goes; return the tenure and whether there is a homestead exemption."""
    district, draw = lot.district, rng.random()
    if house.kind == "exempt":
        if draw < 0.5:
            return Tenure(people.church(rng), "none", mailing=home), False
        civic = Mailing("1 CIVIC PLZ", district.city.upper(), "WI", str(zip_base + district.zip_offset))
        return Tenure(district.municipality.upper(), "none", mailing=civic), False
    letting = _LETTING.get(house.kind, 0.62 if district.is_waterfront and district.is_rural else 0.2)
    if rng.random() >= letting:
        tenure = Tenure(people.household(rng), "bought", occupies=True, mailing=home)
        homestead = rng.random() < 0.78
        if draw < 0.05:
            surname, given = people.person(rng)
            tenure.owner, tenure.came_by, homestead = f"{surname} {given} LIVING TRUST", "trust", rng.random() < 0.5
        return tenure, homestead
    if draw < 0.34:
        owner, number = people.company(rng)
        return Tenure(owner, "bought", company=number, mailing=people.company_mailing(number, zip_base)), False
    if draw < 0.34 + 0.03 * district.trouble and house.homes:
        owner, mailing = people.lender(rng)
        return Tenure(owner, "foreclosed", deed="sheriff", mailing=mailing), False
    if draw < 0.50:
        surname, given = people.person(rng)
        _, handler = people.person(rng)
        owner = rng.choice(
            (
                f"{surname} {given} EST {ACTING[len(handler) % 3]} {handler} {surname}",
                f"ESTATE OF {given} {surname}",
                f"HEIRS OF {given} {surname}",
            )
        )
        return Tenure(owner, "none", mailing=people.away(rng)), False
    if draw < 0.57:
        surname, _ = people.person(rng)
        return Tenure(f"{surname} FAMILY TRUST", "trust", mailing=people.away(rng)), False
    if draw < 0.66:
        return Tenure(people.heirs(rng), "inherited", deed="personal-representative", mailing=people.away(rng)), False
    return Tenure(people.household(rng), "bought", mailing=people.away(rng)), False


def _gap(rng: Random, mean_years: float) -> timedelta:
    return timedelta(days=int(rng.expovariate(1 / mean_years) * 365.25) + 60)


def _price(house: House, day: date, rng: Random, low: float = 0.88, high: float = 1.1) -> int:
    return int(round(house.worth_on(day) * rng.uniform(low, high), -2))


def chain(present: Tenure, house: House, rng: Random, through: date, deeds_since: date) -> list[Tenure]:
    """Return the tenures, oldest first, told backwards from the present owner's."""
    built = date(house.year_built, 6, 1) if house.year_built else deeds_since
    found, reach, tenure = [present], through, present
    mean = 27.0
    while tenure.came_by != "none":
        match tenure.came_by:
            case "flip":
                # Who flips a house holds it for some seven months.
                gap = timedelta(days=rng.randrange(130, 330))
            case "foreclosed":
                # A bank does not keep what it never wanted.
                gap = timedelta(days=rng.randrange(40, 1300))
            case _:
                gap = _gap(rng, mean)
        since = reach - gap
        if since < max(deeds_since, built):
            break
        before = Tenure(people.household(rng), "bought", occupies=rng.random() < 0.7)
        if tenure.came_by == "foreclosed":
            before.lost_to = tenure.owner
        tenure.since, tenure.recorded = since, min(since + timedelta(days=rng.randrange(0, 24)), through)
        match tenure.came_by:
            case "trust":
                # Into one's own trust, without a price: not a sale.
                before.owner = f"{people.surname_of(tenure.owner)} {people.person(rng)[1]}"
                tenure.deed, tenure.price = "quitclaim", rng.choice((None, 1, 10))
            case "inherited":
                before.owner = f"{people.surname_of(tenure.owner)} {people.person(rng)[1]}"
                tenure.price = None
            case "foreclosed":
                tenure.price = _price(house, since, rng, 0.5, 0.8)
            case "flip":
                tenure.came_by, tenure.price = "bought", _price(house, since, rng, 0.58, 0.72)
            case _:
                tenure.deed = rng.choices(("warranty", "special-warranty", "personal-representative", "land-contract"), (86, 5, 6, 3))[0]
                tenure.price = _price(house, since, rng)
                if rng.random() < 0.02:
                    tenure.price, tenure.deed = None, "quitclaim"
                elif house.homes and house.improvement_value > 40_000 and rng.random() < 0.035:
                    before.owner, before.company = people.company(rng)
                    before.came_by, before.occupies = "flip", False
        tenure.grantor, before.until = before.owner, since
        found.append(before)
        reach, tenure, mean = since, before, 21.0
    return found[::-1]
