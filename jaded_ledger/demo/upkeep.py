"""What a town knows of a house: buildings, dwellings, permits, violations, vacancy, rentals."""

from __future__ import annotations

from datetime import timedelta
from random import Random

from jaded_ledger.demo import people
from jaded_ledger.demo.books import Books
from jaded_ledger.demo.courts import eviction
from jaded_ledger.demo.titles import DEEDS_SINCE, Home

PERMITS = (
    ("roof", "Tear off and re-roof", 7, 19), ("alteration", "Kitchen and bath", 12, 48), ("electrical", "New service, 200 A", 2, 6),
    ("mechanical", "Furnace and air conditioning", 5, 14), ("deck", "Deck at rear", 3, 16), ("garage", "Detached garage, 22 x 24", 18, 42),
    ("demolition", "Raze outbuilding", 2, 12),
)  # fmt: skip
VIOLATIONS = (
    "Porch steps unsound", "High grass and weeds", "Unregistered vehicles in yard", "Broken windows, first floor", "Roof open to weather",
    "No smoke alarms in rear unit", "Refuse in alley", "Peeling paint on all sides",
)  # fmt: skip
_RENT = {"duplex": 0.0094, "triplex": 0.0098, "fourplex": 0.0102}


def buildings(books: Books, home: Home, rng: Random) -> None:
    """Write the buildings as measured, and the dwellings of houses with several."""
    house = home.house
    if not house.improvement_value:
        return
    condition = house.condition if rng.random() < 0.9 else ""
    books.enter(
        "buildings", parcel_number=home.number, number=1, use=house.kind, year_built=house.year_built, stories=house.stories,
        living_area=house.living_area, basement_area=house.basement, garage_spaces=house.garage,
        has_pool="yes" if house.has_pool else "no" if house.homes else None, main_floor_beds=house.main_floor_beds,
        construction=rng.choice(("frame", "frame", "masonry", "brick veneer")), condition=condition,
    )  # fmt: skip
    if house.kind == "agricultural" or (home.lot.district.is_rural and house.homes == 1 and rng.random() < 0.2):
        use = rng.choice(("barn", "pole shed", "machine shed"))
        books.enter("buildings", parcel_number=home.number, number=2, use=use, year_built=rng.randrange(1920, 2015))
    if 1 < house.homes <= 4:
        for designator in dwellings(house.homes):
            books.enter(
                "units", parcel_number=home.number, designator=designator, beds=(house.beds or 0) // house.homes, baths=1,
                living_area=round((house.living_area or 0) / house.homes) or None,
            )  # fmt: skip


def dwellings(homes: int) -> tuple[str, ...]:
    """Return how the dwellings of a house are told apart."""
    return ("LOWR", "UPPR") if homes == 2 else tuple(f"UNIT {number}" for number in range(1, homes + 1))


def permits(books: Books, home: Home, rng: Random) -> None:
    """Write permits: a flipped house has one between its two sales."""
    through = books.county.recorded_through
    if not home.house.improvement_value:
        return
    for tenure in home.tenures:
        if tenure.company is not None and tenure.since and tenure.until and (tenure.until - tenure.since).days < 340:
            issued = tenure.since + timedelta(days=18)
            books.enter(
                "permits", parcel_number=home.number, number=f"B{issued.year}-{books.serial('permit'):05d}", kind="alteration",
                description="Interior remodel, all floors", issued_on=issued, closed_on=min(tenure.until, through),
                cost=int(home.house.worth * rng.uniform(0.12, 0.22)), contractor=people.contractor(rng),
            )  # fmt: skip
            home.notes.add("flip")
    if rng.random() < 0.11:
        kind, description, low, high = rng.choice(PERMITS)
        issued = through - timedelta(days=rng.randrange(20, 5000))
        closed = issued + timedelta(days=rng.randrange(20, 400))
        books.enter(
            "permits", parcel_number=home.number, number=f"B{issued.year}-{books.serial('permit'):05d}", kind=kind, description=description,
            issued_on=issued, closed_on=closed if closed < through else None, cost=rng.randrange(low, high) * 1000,
            contractor=people.contractor(rng) if rng.random() < 0.7 else None,
        )  # fmt: skip


def neglect(books: Books, home: Home, rng: Random) -> None:
    """Write violations and vacancy; both are commoner where tax goes unpaid or an estate is open."""
    through = books.county.recorded_through
    weight = home.lot.district.trouble * (
        6 if home.notes & {"estate", "foreclosure", "bank-owned"} or any(n.startswith("unpaid") for n in home.notes) else 1
    )
    if not home.house.improvement_value:
        return
    if rng.random() < 0.011 * weight:
        for _ in range(rng.choice((1, 1, 2, 3))):
            opened = through - timedelta(days=rng.randrange(10, 1400))
            closed = opened + timedelta(days=rng.randrange(30, 300))
            books.enter(
                "violations", parcel_number=home.number, number=f"V{opened.year}-{books.serial('violation'):05d}",
                description=rng.choice(VIOLATIONS),
                opened_on=opened, closed_on=closed if closed < through and rng.random() < 0.5 else None, fine=rng.choice((None, 50, 100,
                250)),
            )  # fmt: skip
        home.notes.add("violation")
    if home.house.homes and not home.present.occupies and rng.random() < 0.014 * weight:
        since = through - timedelta(days=rng.randrange(60, 1100))
        books.enter(
            "vacancies",
            parcel_number=home.number,
            since=since,
            noticed_by=rng.choice(("water shut off", "post returned", "vacant building register")),
        )
        home.notes.add("vacant")


def rentals(books: Books, home: Home, rng: Random) -> None:
    """Write let dwellings, and now and then the filing against a tenant."""
    house, through = home.house, books.county.recorded_through
    if home.present.occupies or not 1 <= house.homes <= 4 or "vacant" in home.notes or rng.random() > 0.42:
        return
    if home.present.came_by in ("foreclosed", "none"):
        return
    units = dwellings(house.homes) if house.homes > 1 else ("",)
    rent = house.worth * _RENT.get(house.kind, 0.0078) / len(units)
    home.rent = 0
    for unit in units:
        since = max(home.present.since or DEEDS_SINCE, through - timedelta(days=rng.randrange(40, 2400)))
        asked = int(round(rent * rng.uniform(0.8, 1.12), -1))
        home.rent += asked
        books.enter(
            "rentals", parcel_number=home.number, unit=unit, since=since, rent=asked,
            beds=(house.beds or 0) // len(units) or None, tenant=people.household(rng) if rng.random() < 0.6 else None,
            noted_by=rng.choice(("rental register", "rental register", "lease on file")),
        )  # fmt: skip
    home.notes.add("let")
    if rng.random() < 0.05 * home.lot.district.trouble:
        eviction(books, home, people.household(rng), rng)
