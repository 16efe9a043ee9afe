"""The demo world as files, county by county: everything that is told of a property goes into its county's books."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import pairwise
from pathlib import Path
from random import Random

from django.contrib.gis.geos import GEOSGeometry, MultiPolygon, Polygon

from jaded_ledger.demo import courts, debts, offers, past_troubles, people, taxes, upkeep, world
from jaded_ledger.demo.books import Books, CsvBook
from jaded_ledger.demo.ground import SOUTH_EDGE, TOWN, WEST_EDGE, Feature, Lot, Placed, box
from jaded_ledger.demo.houses import LAND_USE, build
from jaded_ledger.demo.people import Mailing
from jaded_ledger.demo.titles import Home, Tenure, chain, present_owner
from jaded_ledger.demo.world import SEED, TODAY, County
from jaded_ledger.intake.kinds import KINDS

EARLIER_ROLL, EARLIER_ROLL_AS_OF = "roll-of-january.csv", date(2026, 1, 15)
"""A file of the roll's rows as they stood before what was corrected this year."""


def _city(lot: Lot, town: int) -> str:
    return lot.district.city if town == 0 else f"{lot.district.city} {town + 1}"


def _zip_code(county: County, lot: Lot, town: int) -> str:
    return str(53_300 + (county.zip_base - 53_300 + lot.district.zip_offset + town * 7) % 100)


def _home(county: County, lot: Lot, number: str, rng: Random, *, town: int, unit: int, ground: str) -> Home:
    """Tell who a property belongs to, and did before."""
    house = build(lot, rng, TODAY, unit=unit)
    line = f"{lot.house_number} {lot.street}" + (f" UNIT {unit}" if unit else "")
    # Rolls and tax bills are typed by different hands.
    if rng.random() < 0.07:
        line = re.sub(r" Ave\b", " Avenue", re.sub(r" St\b", " Street", line.title()))
    address = Mailing(line, _city(lot, town).upper(), "WI", _zip_code(county, lot, town))
    at_home = Mailing(f"PO BOX {rng.randrange(10, 900)}", address.city, "WI", address.zip_code) if rng.random() < 0.02 else address
    present, homestead = present_owner(lot, house, rng, county.zip_base, at_home)
    if lot.units and not unit:
        # The common ground of a condominium is worth nothing by itself and never sold.
        present = Tenure(f"{lot.house_number} HARBOUR FRONT CONDOMINIUM ASSOCIATION", "none", mailing=address)
        house.living_area, house.improvement_value, house.land_value = None, 0, 0
        homestead = False
    tenures = chain(present, house, rng, county.recorded_through, county.deeds_since)
    return Home(number, lot, house, address, tenures, homestead, unit, ground)


def _buy_pairs(homes: list[Home], rng: Random) -> None:
    """Now and then a company buys two neighboring lots under one document."""
    for first, second in pairwise(homes):
        deed = first.present
        if deed.company is None or deed.since is None or deed.also or first.unit or second.unit or rng.random() > 0.25:
            continue
        deed.also.append(second.number)
        if deed.is_sale and deed.price:
            # One price for both.
            deed.price_of_all = deed.price + int(round(second.house.worth_on(deed.since) * 0.95, -2))
        shared = Tenure(deed.owner, "shared", deed.since, None, deed.grantor, price=deed.price, company=deed.company, mailing=deed.mailing)
        second.tenures, second.homestead = [Tenure(deed.grantor, "bought", until=deed.since), shared], False


class _Landlords:
    """People who live elsewhere and own two to five properties, one of whom buys at a time. Drawn apart from the rest of the story."""

    def __init__(self, rng: Random) -> None:
        self._rng = rng
        self._last: Tenure | None = None
        self._left = 0

    def buy(self, homes: list[Home]) -> None:
        """Give some homes of absent owners to whoever buys, or begin with the owner of one."""
        for tenure in (home.present for home in homes if self._is_let(home)):
            if self._last and self._left and self._rng.random() < 0.5:
                tenure.owner, tenure.mailing = self._last.owner, self._last.mailing
                self._left -= 1
            elif not self._left and self._rng.random() < 0.25:
                self._last, self._left = tenure, self._rng.choice((1, 1, 1, 2, 2, 3, 4))

    @staticmethod
    def _is_let(home: Home) -> bool:
        present = home.present
        return present.came_by == "bought" and present.company is None and not present.occupies and not present.also


def _deeds(books: Books, home: Home, rng: Random) -> None:
    for tenure in home.tenures:
        if tenure.since is None or tenure.recorded is None or tenure.came_by == "shared":
            continue
        tenure.document = books.document(tenure.recorded)
        dated = tenure.since
        # Somebody's hand slipped: a sale that is yet to come.
        if tenure is home.present and rng.random() < 0.005:
            dated = TODAY + timedelta(days=rng.randrange(200, 4000))
        if tenure is home.present and _is_lost(home, tenure):
            continue
        books.enter(
            "deeds", document_number=tenure.document, recorded_on=tenure.recorded, sold_on=dated, deed=tenure.deed, price=tenure.paid,
            seller_financed=_recital(home, tenure), grantor=tenure.grantor, grantee=tenure.owner,
            parcel_number=";".join([home.number, *tenure.also]),
        )  # fmt: skip
        if tenure.deed == "land-contract":
            _fulfillment(books, home, tenure)


def _is_lost(home: Home, tenure: Tenure) -> bool:
    """Return whether the deed is missing from what the recorder sells, as a few are: the roll alone knows the buyer."""
    return tenure.is_sale and tenure.deed == "warranty" and not tenure.also and Random(f"{SEED} lost {home.number}").random() < 0.003


def _recital(home: Home, tenure: Tenure) -> str:
    """Return what a deed recites of who financed it: most say nothing. Drawn apart from the rest of the story."""
    draw = Random(f"{SEED} recital {home.number} {tenure.since}").random()
    return "Y" if tenure.deed == "warranty" and tenure.is_sale and draw < 0.006 else "N" if draw > 0.9 else ""


def _fulfillment(books: Books, home: Home, tenure: Tenure) -> None:
    """Write the deed that a seller gives once a land contract is paid, of most that ran long enough."""
    rng = Random(f"{SEED} fulfillment {home.number} {tenure.since}")
    paid = (tenure.since or TODAY) + timedelta(days=rng.randrange(900, 2600))
    if rng.random() < 0.8 and paid + timedelta(days=60) < (tenure.until or books.county.recorded_through):
        books.enter(
            "deeds", document_number=books.document(paid), recorded_on=paid + timedelta(days=5), sold_on=paid, deed="warranty",
            price=rng.choice((None, 1, tenure.price)), grantor=tenure.grantor, grantee=tenure.owner, parcel_number=home.number,
        )  # fmt: skip


def _own_cells(county: County, home: Home, rng: Random) -> dict[str, object]:
    """Return what only this county writes down."""
    lot, house = home.lot, home.house
    match county.key:
        case "tamarack":
            return {"Harbour Dist": rng.choice(("inner", "outer")) if lot.district.zip_offset == 1 else ""}
        case "pike-hollow":
            return {"Occ Code": f"{rng.choice((1, 1, 2, 3)):02d}{house.homes:02d}"}
    is_land = house.kind in ("agricultural", "woodland")
    quarter = f"{rng.choice(('NE', 'NW', 'SE', 'SW'))}1/4 {rng.choice(('NE', 'NW', 'SE', 'SW'))}1/4 SEC {home.number[4:6]}"
    return {
        "Land Desc": f"{quarter}, {rng.choice(('RECREATIONAL', 'TILLABLE', 'SWAMP', 'MIXED TIMBER', 'PASTURE'))}" if is_land else "",
        "Tillable Ac": round(lot.square_feet / 43_560 * rng.uniform(0.3, 0.95), 1) if house.kind == "agricultural" else None,
        "MFL Expires": date(rng.randrange(2027, 2049), 12, 31) if house.kind == "woodland" and rng.random() < 0.5 else None,
        "Access": rng.choice(("public road", "private road", "easement", "none recorded")) if is_land or rng.random() < 0.4 else "",
    }


@dataclass
class _Entered:
    """What a clerk entered of a house and its owner: as it is, but for some slips."""

    owner: str
    mailing: Mailing | None
    lot_sqft: float | None
    beds: int | None
    baths: float | None
    living_area: int | None


def _entered(home: Home, rng: Random) -> _Entered:
    """Return what stands on the roll. About three in a hundred are dirty, as rolls are; others have what was never measured."""
    house, owner = home.house, home.present
    entered = _Entered(owner.owner, owner.mailing, house.lot_sqft, house.beds, house.baths, house.living_area)
    draw = rng.random()
    if draw < 0.008:
        entered.lot_sqft = 0
    elif draw < 0.016 and owner.mailing:
        entered.mailing = Mailing(owner.mailing.line, owner.mailing.city, owner.mailing.state, "")
    elif draw < 0.022:
        entered.mailing = None
    elif draw < 0.026:
        entered.owner = owner.owner.replace(" & ", " AND ")
    if acting := _acting(home, entered.owner):
        entered.owner = f"{entered.owner} {acting} DORA {people.surname_of(entered.owner).upper()}"
    if rng.random() < 0.03:
        entered.beds = entered.baths = None
    if rng.random() < 0.015:
        entered.living_area = None
    return entered


def _acting(home: Home, name: str) -> str:
    """Return in which part somebody acts for an owner who can't, here and there."""
    owner = home.present
    if not home.house.homes or owner.company is not None or owner.came_by != "bought" or " & " in name:
        return ""
    return {7: "GDN", 11: "ATTORNEY IN FACT"}.get(home.lot.house_number % 89, "")


def _measured(home: Home, entered: _Entered, rng: Random) -> dict[str, object]:
    """Return what was measured of the lot: in acres in the country, and seldom of a unit."""
    lot, lot_sqft, is_rural = home.lot, entered.lot_sqft, home.lot.district.is_rural
    return {
        "lot_sqft": None if lot_sqft is None or is_rural else round(lot_sqft),
        "lot_acres": round(lot_sqft / 43_560, 3) if lot_sqft is not None and is_rural else None,
        "frontage": None if home.unit or rng.random() < 0.1 else round(lot.frontage, 1),
        "depth": None if home.unit or rng.random() < 0.15 else round(lot.depth, 1),
    }


def _mailing_cells(mailing: Mailing | None) -> dict[str, object]:
    at = mailing or Mailing("", "", "", "")
    return {"mailing_address": at.line, "mailing_city": at.city, "mailing_state": at.state, "mailing_zip": at.zip_code}


def _roll_row(county: County, home: Home, bias: float, rng: Random) -> dict[str, object]:
    """Return the roll's row."""
    lot, house, ratio = home.lot, home.house, float(county.assessment_ratio)
    entered, is_rural = _entered(home, rng), lot.district.is_rural
    # Pike Hollow never says what kind of a residence it is.
    says_class = county.key != "pike-hollow" or not 0 < house.homes <= 4
    return {
        "parcel_number": home.number, "house_number": lot.house_number, "street": lot.street,
        "unit": f"UNIT {home.unit}" if home.unit else "", "city": home.address.city.title(), "zip": home.address.zip_code,
        "municipality": lot.district.municipality, "subdivision": lot.subdivision, "neighborhood": lot.district.name,
        "school_district": lot.district.school_district, "land_use": LAND_USE[house.kind] if says_class else "1RES",
        "class": house.kind if says_class else "", "tenure": "condominium" if home.unit else "fee-simple" if rng.random() < 0.8 else "",
        "units": house.homes or None, "beds": entered.beds, "baths": entered.baths, "living_area": entered.living_area,
        **_measured(home, entered, rng),
        "zoning": lot.district.zoning, "sewer": "septic" if is_rural else "public", "water": "well" if is_rural else "public",
        "waterfront": "Y" if lot.district.is_waterfront else "N", "hoa_fee": 260 if home.unit else None,
        "year_built": house.year_built, "land_value": round(house.land_value * bias * ratio, -2),
        "improvement_value": round(house.improvement_value * bias * ratio, -2),
        "market_value": round(house.worth * bias, -2), "homestead": {True: "Y", False: "N", None: ""}[home.homestead],
        "owner": entered.owner, **_mailing_cells(entered.mailing), **_own_cells(county, home, rng),
    }  # fmt: skip


def _was(home: Home, row: dict[str, object], rng: Random) -> dict[str, object] | None:
    """Return the row as it stood in January, where it has changed since: sold, or the owner moved."""
    before = home.tenures[-2] if len(home.tenures) > 1 else None
    if before and home.present.since and home.present.since > EARLIER_ROLL_AS_OF:
        at_home = {
            "mailing_address": home.address.line,
            "mailing_city": home.address.city,
            "mailing_state": "WI",
            "mailing_zip": home.address.zip_code,
        }
        return row | at_home | {"owner": before.owner}
    if rng.random() < 0.01 and row["mailing_address"]:
        away = people.away(rng)
        return row | {"mailing_address": away.line, "mailing_city": away.city, "mailing_state": away.state, "mailing_zip": away.zip_code}
    return None


def _contacts(books: Books, home: Home, rng: Random) -> None:
    owner = home.present
    if owner.came_by == "foreclosed" or home.house.kind == "exempt" or rng.random() > 0.2:
        return
    # A company has one telephone, however many houses it owns.
    if owner.company is not None and not books.is_first(f"telephone of {owner.owner}"):
        return
    do_not = "yes" if rng.random() < 0.1 else "no"
    source = rng.choice(("voter file", "look-up of March", "business card"))
    books.enter("contacts", parcel_number=home.number, kind="telephone", value=people.telephone(rng), source=source, do_not_contact=do_not)
    if rng.random() < 0.35:
        value = people.email(people.surname_of(owner.owner), rng)
        books.enter("contacts", parcel_number=home.number, kind="e-mail", value=value, source=source, do_not_contact=do_not)


def _chapters(books: Books, rates: taxes.Rates, earlier: CsvBook, home: Home, rng: Random) -> None:
    """Tell all that befell a property, what comes of something after it."""
    _deeds(books, home, rng)
    owed = debts.loans(books, home, rng)
    upkeep.buildings(books, home, rng)
    bias = rng.uniform(0.88, 1.05)
    row = _roll_row(books.county, home, bias, rng)
    books.enter("roll", **row)
    if was := _was(home, row, rng):
        earlier.enter(was)
    unpaid = taxes.bills(books, rates, home, bias, rng, late=past_troubles.late_year(home))
    taxes.exemptions(books, home, rng)
    taxes.suits(books, home, unpaid, owed, rng)
    courts.foreclosure(books, home, owed, rng)
    courts.estates(books, home, rng)
    courts.troubles(books, home, rng)
    past_troubles.past_troubles(books, home)
    debts.liens(books, home, rng)
    upkeep.permits(books, home, rng)
    upkeep.neglect(books, home, rng)
    upkeep.rentals(books, home, rng)
    offers.listings(books, home, rng)
    _contacts(books, home, rng)


def _project(books: Books, lot: Lot, number: str, rng: Random) -> None:
    books.enter(
        "projects", parcel_number=number, number=f"CP-{books.serial('project'):03d}", name=f"{lot.house_number} Harbour Front",
        tenure=rng.choices(("condominium", "co-operative", "leasehold"), (10, 2, 1))[0],
        amenities=";".join(rng.sample(("pool", "garage", "lift", "gym", "dock", "laundry", "storage", "pets"), 3)), units=lot.units,
    )  # fmt: skip


def _towns(county: County, parcels: int) -> Iterator[tuple[int, int]]:
    """Yield each town's number and how many parcels it has."""
    left, town = parcels, 0
    while left > 0:
        yield town, min(left, county.share)
        left -= county.share
        town += 1


def _write_town(books: Books, rates: taxes.Rates, earlier: CsvBook, town: int, parcels: int, first_block: int) -> int:
    """Write a town's properties; return the number of its next block."""
    county, placed = books.county, Placed(books.county.west, town)
    rng, block_number = Random(f"{SEED} {county.key} {town}"), first_block
    landlords = _Landlords(Random(f"{SEED} landlords 2 {county.key} {town}"))
    for block in county.plan.blocks(rng, parcels):
        homes: list[Home] = []
        for place, lot in enumerate(block.lots, start=1):
            ground = county.number(block_number, place)
            if lot.units:
                _project(books, lot, ground, rng)
            for unit in range(lot.units + 1):
                number = county.number(block_number, place, unit)
                geometry = {"type": "Polygon", "coordinates": [placed.ring(lot.corners)]}
                books.enter("parcels", parcel_number=number, parent_parcel_number=ground if unit else "", geometry=geometry)
                homes.append(_home(county, lot, number, rng, town=town, unit=unit, ground=ground if unit else ""))
        block_number += 1
        _buy_pairs(homes, rng)
        landlords.buy(homes)
        for home in homes:
            _chapters(books, rates, earlier, home, rng)
    return block_number


def _areas(books: Books, towns: int) -> None:
    """Write the county's areas. What no region of a plan takes is country."""
    county = books.county
    grounds: dict[tuple[str, str], list[GEOSGeometry]] = {}
    people_in: dict[tuple[str, str], int] = {}
    for town in range(towns):
        placed = Placed(county.west, town)
        whole = Polygon(placed.ring(box(WEST_EDGE, SOUTH_EDGE, WEST_EDGE + TOWN[0], SOUTH_EDGE + TOWN[1])))
        regions = county.plan.regions()
        rest: GEOSGeometry = whole
        shapes = {}
        for region in regions:
            if region.corners:
                shapes[region.district] = Polygon(placed.ring(region.corners))
                rest = rest.difference(shapes[region.district])
        for region in regions:
            district = region.district
            zip_code = str(53_300 + (county.zip_base - 53_300 + district.zip_offset + town * 7) % 100)
            city = district.city if town == 0 else f"{district.city} {town + 1}"
            for key in (
                ("county", county.name), ("municipality", district.municipality), ("city", city), ("zip", zip_code),
                ("neighborhood", district.name), ("school_district", district.school_district),
            ):  # fmt: skip
                grounds.setdefault(key, []).append(shapes.get(district, rest))
                people_in[key] = people_in.get(key, 0) + round(region.homes * 2.3)
    for (kind, name), parts in grounds.items():
        joined = parts[0]
        for part in parts[1:]:
            joined = joined.union(part)
        shape = joined if isinstance(joined, MultiPolygon) else MultiPolygon(joined)
        books.enter(
            "areas", kind=kind, area=name, population=people_in[kind, name], geometry={"type": "MultiPolygon", "coordinates": shape.coords}
        )


def write_county(folder: Path, key: str, parcels: int) -> None:
    """Write one county's files into a folder of its own. The same number of parcels always gives the same files."""
    county = world.county(key)
    books = Books(folder, county, county.own_columns)
    rates = taxes.Rates(books)
    earlier = CsvBook(books.folder / EARLIER_ROLL, (*KINDS["roll"].columns, *county.own_columns))
    features: list[tuple[Feature, Placed]] = []
    block, town = 0, 0
    for town, share in _towns(county, parcels):
        block = _write_town(books, rates, earlier, town, share, block)
        features += [(feature, Placed(county.west, town)) for feature in county.plan.features()]
    _areas(books, town + 1)
    books.layers(features)
    offers.members(books)
    books.close()
    earlier.close()
