"""What happened on a lot: built, sold, inherited, let, lost. One story gives the roll row and the deeds."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field
from datetime import date, timedelta
from random import Random

from jaded_ledger.demo import people
from jaded_ledger.demo.people import Mailing
from jaded_ledger.demo.town import COUNTRY, EDGE, POST_WAR, SHORE, WARDS, Lot

DEEDS_SINCE = date(1988, 1, 4)
"""The county's deeds are on file from this day; who bought earlier has no sale on record."""
_YEARLY_GROWTH = 0.034


@dataclass
class Deed:
    """A recorded transfer, before it has a document number."""

    dated: date
    recorded: date
    deed: str
    price: int | None
    grantor: str
    grantee: str
    also: list[str] = field(default_factory=list)
    """Numbers of further parcels that the document covers."""


@dataclass
class Story:
    """A parcel as it stands, and how it came to."""

    property_class: str
    land_use: str
    beds: int | None = None
    baths: float | None = None
    living_area: int | None = None
    year_built: int | None = None
    lot_sqft: float | None = None
    land_value: int = 0
    improvement_value: int = 0
    homestead: bool | None = None
    owner: str = ""
    mailing: Mailing | None = None
    deeds: list[Deed] = field(default_factory=list)


_LAND_USE = {
    "single-family": "101", "duplex": "102", "triplex": "103", "fourplex": "104", "apartments": "111",
    "condominium": "131", "townhouse": "133", "residential-lot": "100", "commercial": "201", "industrial": "301",
    "agricultural": "401", "woodland": "501", "exempt": "801",
}  # fmt: skip
_MIX = {
    WARDS: (("single-family", 62), ("duplex", 20), ("triplex", 4), ("fourplex", 3), ("residential-lot", 5),
            ("commercial", 4), ("apartments", 1), ("exempt", 1)),
    POST_WAR: (("single-family", 90), ("duplex", 4), ("residential-lot", 3), ("commercial", 2), ("exempt", 1)),
    EDGE: (("single-family", 82), ("townhouse", 6), ("residential-lot", 11), ("exempt", 1)),
    SHORE: (("commercial", 60), ("industrial", 30), ("residential-lot", 10)),
    COUNTRY: (("single-family", 42), ("agricultural", 30), ("woodland", 16), ("residential-lot", 10), ("exempt", 2)),
}  # fmt: skip
_HOMES = {"single-family": 1, "duplex": 2, "triplex": 3, "fourplex": 4, "townhouse": 1, "condominium": 1, "apartments": 12}


def _index(day: date) -> float:
    """Prices on a day against those of the end of 2026: growth, a fall after 2007, a rise after 2020."""
    years = (date(2026, 11, 1) - day).days / 365.25
    level = math.exp(-_YEARLY_GROWTH * years)
    if date(2008, 6, 1) <= day < date(2014, 1, 1):
        level *= 0.84
    return level * (0.9 if day < date(2020, 9, 1) else 1.0)


def _building(story: Story, lot: Lot, rng: Random, today: date) -> None:
    district = lot.district
    homes = _HOMES.get(story.property_class, 0)
    story.lot_sqft = lot.square_feet
    land_rate = 4.5 if district is not COUNTRY else 0.35
    if story.property_class in ("agricultural", "woodland"):
        land_rate = 0.11
    story.land_value = round(lot.square_feet * land_rate * rng.uniform(0.85, 1.2), -2)
    if story.property_class in ("residential-lot", "woodland"):
        return
    year = min(rng.randint(district.first_year, district.last_year), today.year - 1)
    story.year_built = year
    if not homes:
        area = rng.uniform(0.2, 0.7) * min(lot.square_feet, 30_000)
        story.living_area = round(area) if story.property_class != "agricultural" or rng.random() < 0.7 else None
        story.improvement_value = round((story.living_area or 900) * rng.uniform(38, 95), -2)
        return
    base = {WARDS: 1180, POST_WAR: 1290, EDGE: 2140, SHORE: 1240, COUNTRY: 1680}[district]
    area = base * rng.lognormvariate(0, 0.2) * (1 if homes == 1 else 0.78 * homes)
    story.living_area = round(area)
    story.beds = max(1, round(area / 520)) if homes == 1 else homes * rng.choice((2, 2, 3))
    story.baths = min(0.5 * max(2, round(area / 420)), 4.5) if homes == 1 else float(homes)
    worth = area * district.price_per_sqft * rng.uniform(0.8, 1.2) * (1 - 0.001 * max(0, 2026 - year) / 2)
    worth *= 0.74 if homes > 2 else 1
    story.improvement_value = max(8_000, round(worth - story.land_value, -2))


def _owner(story: Story, lot: Lot, rng: Random, zip_base: int, home: Mailing) -> str:
    """Choose who owns it and where the tax bill goes; return how they came by it."""
    district, draw = lot.district, rng.random()
    story.homestead = False
    if story.property_class == "exempt":
        if draw < 0.5:
            story.owner, story.mailing = people.church(rng), home
        else:
            story.owner = district.municipality.upper()
            story.mailing = Mailing("1 CIVIC PLZ", district.city.upper(), "WI", str(zip_base + district.zip_offset))
        return "none"
    absentee = {
        "duplex": 0.52, "triplex": 0.78, "fourplex": 0.86, "apartments": 1.0, "condominium": 0.38, "residential-lot": 0.9,
        "commercial": 0.8, "industrial": 0.9, "agricultural": 0.3, "woodland": 0.85,
    }.get(story.property_class, 0.2)  # fmt: skip
    if rng.random() >= absentee:
        story.owner, story.mailing = people.household(rng), home
        story.homestead = rng.random() < 0.78
        if draw < 0.05:
            surname, given = people.person(rng)
            story.owner, story.homestead = f"{surname} {given} LIVING TRUST", rng.random() < 0.5
            return "trust"
        return "bought"
    if draw < 0.34:
        story.owner, number = people.company(rng)
        story.mailing = people.company_mailing(number, zip_base)
        return "bought"
    if draw < 0.39:
        story.owner, story.mailing = people.lender(rng)
        return "foreclosed"
    if draw < 0.47:
        surname, given = people.person(rng)
        _, handler = people.person(rng)
        story.owner = rng.choice(
            (f"{surname} {given} EST C/O {handler} {surname}", f"ESTATE OF {given} {surname}", f"HEIRS OF {given} {surname}")
        )
        story.mailing = people.away(rng)
        return "none"
    if draw < 0.55:
        surname, _ = people.person(rng)
        story.owner, story.mailing = f"{surname} FAMILY TRUST", people.away(rng)
        return "trust"
    story.owner, story.mailing = people.household(rng), people.away(rng)
    return "bought"


def _before(rng: Random, day: date, mean_years: float) -> date:
    return day - timedelta(days=int(rng.expovariate(1 / mean_years) * 365.25) + 60)


def _chain(story: Story, came_by: str, rng: Random, today: date) -> None:
    """Write the deeds backwards from the present owner, so that the chain of title has no gap."""
    worth = story.land_value + story.improvement_value
    built = date(story.year_built, 6, 1) if story.year_built else DEEDS_SINCE
    reach, grantee, first = today - timedelta(days=6), story.owner, True
    while True:
        dated = _before(rng, reach, 30 if first else 22)
        if came_by == "none" or dated < max(DEEDS_SINCE, built):
            return
        grantor, price, kind = people.household(rng), None, "warranty"
        if first and came_by == "trust":
            # Into one's own trust, without a price: not a sale.
            surname = grantee.split()[0]
            grantor, kind = f"{surname} {people.person(rng)[1]}", "quitclaim"
            price = rng.choice((None, 1, 10))
        elif first and came_by == "foreclosed":
            kind, price = "sheriff", round(worth * _index(dated) * rng.uniform(0.5, 0.8), -2)
        else:
            kind = rng.choices(("warranty", "special-warranty", "personal-representative", "land-contract"), (86, 5, 6, 3))[0]
            price = int(round(worth * _index(dated) * rng.uniform(0.88, 1.1), -2))
            if rng.random() < 0.02:
                price, kind = None, "quitclaim"
        recorded = min(dated + timedelta(days=rng.randrange(0, 24)), today - timedelta(days=6))
        story.deeds.append(Deed(dated, recorded, kind, price, grantor, grantee))
        reach, grantee, first = dated, grantor, False
        came_by = "bought"


def _blemish(story: Story, rng: Random, today: date) -> None:
    """Make about three rows in a hundred dirty, as rolls are."""
    draw = rng.random()
    if draw < 0.008:
        story.lot_sqft = 0
    elif draw < 0.016 and story.mailing:
        story.mailing = Mailing(story.mailing.line, story.mailing.city, story.mailing.state, "")
    elif draw < 0.022:
        story.mailing = None
    elif draw < 0.027 and story.deeds:
        story.deeds[0].dated = today + timedelta(days=rng.randrange(200, 4000))
    elif draw < 0.03:
        story.owner = story.owner.replace(" & ", " AND ")
    # Beside the errors there is what was never measured.
    if rng.random() < 0.03:
        story.beds = story.baths = None
    if rng.random() < 0.015:
        story.living_area = None


def tell(lot: Lot, rng: Random, *, zip_base: int, today: date, condominium_unit: int = 0) -> Story:
    """Tell the story of a lot, or of one unit of the condominium on it."""
    if condominium_unit:
        kind = "condominium"
    elif lot.units:
        kind = "commercial"
    else:
        kinds, weights = zip(*_MIX[lot.district], strict=True)
        kind = rng.choices(kinds, weights)[0]
    story = Story(kind, _LAND_USE[kind])
    _building(story, lot, rng, today)
    if condominium_unit:
        story.lot_sqft, story.land_value = None, story.land_value // max(1, lot.units)
    line = f"{lot.house_number} {lot.street}" + (f" UNIT {condominium_unit}" if condominium_unit else "")
    # Rolls and tax bills are typed by different hands.
    if rng.random() < 0.07:
        line = re.sub(r" Ave\b", " Avenue", re.sub(r" St\b", " Street", line.title()))
    district = lot.district
    home = Mailing(line, district.city.upper(), "WI", str(zip_base + district.zip_offset))
    if rng.random() < 0.02:
        home = Mailing(f"PO BOX {rng.randrange(10, 900)}", district.city.upper(), "WI", home.zip_code)
    came_by = _owner(story, lot, rng, zip_base, home)
    if lot.units and not condominium_unit:
        # The common ground of a condominium is worth nothing by itself and never sold.
        story.owner, story.mailing = f"{lot.house_number} HARBOUR FRONT CONDOMINIUM ASSOCIATION", home
        story.living_area, story.improvement_value, story.land_value, came_by = None, 0, 0, "none"
    _chain(story, came_by, rng, today)
    _blemish(story, rng, today)
    return story
