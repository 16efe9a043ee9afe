"""Listings past and present: by agencies, by owners, to let, at auction; cut, expired, relisted, sold over asking."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from random import Random

from jaded_ledger.core.market.listings import StandardStatus as Status
from jaded_ledger.demo import people, remarks
from jaded_ledger.demo.books import Books
from jaded_ledger.demo.drawings import CAPTIONS, SCENES, picture
from jaded_ledger.demo.titles import Home

TYPES = {"residential-lot": "Land", "woodland": "Land", "agricultural": "Farm", "commercial": "Commercial Sale",
"industrial": "Commercial Sale",
          "duplex": "Residential Income", "triplex": "Residential Income", "fourplex": "Residential Income",
          "apartments": "Residential Income"}  # fmt: skip
SUB_TYPES = {
    "single-family": "Single Family Residence", "duplex": "Duplex", "triplex": "Triplex", "fourplex": "Quadruplex",
    "condominium": "Condominium",
    "townhouse": "Townhouse", "apartments": "Apartment", "residential-lot": "Unimproved Land", "woodland": "Unimproved Land",
    "agricultural": "Agriculture", "commercial": "Retail", "industrial": "Industrial",
}  # fmt: skip
_AGENTS = people.agents()
SERVICE, OWNERS_BOARD = "Shoreline Listing Service", "Sell It Yourself Board"


@dataclass
class Run:
    """One listing from the day it was signed to its end."""

    start: date
    asked: int
    seller: str
    status: Status = Status.ACTIVE
    end: date | None = None
    price: int | None = None
    cuts: int = 0
    meanings: tuple[str, ...] = ()
    contract: date | None = None


@dataclass(frozen=True)
class _Change:
    """A change of a listing: when, of which field, from what to what."""

    on: date
    field: str
    before: int | str
    after: int | str


def _cuts(run: Run, end: date, rng: Random) -> list[_Change]:
    """Return the cuts of the price, spread over the time on the market."""
    asked, found = run.asked, []
    for cut in range(run.cuts):
        day = run.start + (end - run.start) * (cut + 1) // (run.cuts + 1)
        lower = int(round(asked * rng.uniform(0.93, 0.975), -2))
        if lower < asked:
            found.append(_Change(day, "ListPrice", asked, lower))
            asked = lower
    return found


def _turns(run: Run) -> list[_Change]:
    """Return the changes of the status."""
    found = []
    if run.contract and run.status in (Status.CLOSED, Status.PENDING):
        found.append(_Change(run.contract, "StandardStatus", Status.ACTIVE.value, Status.PENDING.value))
    if run.status not in (Status.ACTIVE, Status.PENDING, Status.COMING_SOON) and run.end:
        before = Status.PENDING if run.contract else Status.ACTIVE
        found.append(_Change(run.end, "StandardStatus", before.value, run.status.value))
    return found


def _conditions(home: Home, run: Run, *, auction: bool) -> str:
    if auction:
        return "Auction"
    by_meaning = {"bank-owned": "Real Estate Owned", "estate": "Probate Listing"}
    conditions = by_meaning.get(next(iter(run.meanings), ""), "Standard")
    if conditions == "Standard" and "foreclosure" in home.notes and run.status is not Status.CLOSED:
        return "Short Sale"
    return conditions


@dataclass(frozen=True)
class _Said:
    """What a listing says of the house; it is not always what the roll says."""

    beds: int | None
    living_area: int | None


def _said(home: Home, rng: Random) -> _Said:
    house = home.house
    beds = house.beds + rng.choice((-1, 1)) if house.beds and rng.random() < 0.12 else house.beds
    area = round(house.living_area * rng.uniform(0.94, 1.14)) if house.living_area and rng.random() < 0.3 else house.living_area
    return _Said(beds, area)


def _dates(run: Run, end: date, rng: Random) -> dict[str, object]:
    later = rng.choice((0, 0, 0, 1, 3)) if run.status is not Status.COMING_SOON else None
    return {
        "OnMarketDate": None if later is None else min(run.start + timedelta(days=later), end),
        "PurchaseContractDate": run.contract,
        "ExpirationDate": run.start + timedelta(days=180),
        "WithdrawnDate": run.end if run.status is Status.WITHDRAWN else None,
        "CancellationDate": run.end if run.status is Status.CANCELED else None,
        "CloseDate": run.end if run.status is Status.CLOSED else None,
    }


def _prices(run: Run, asked: int, *, lease: bool) -> dict[str, object]:
    if lease:
        return {"LeaseAmount": asked}
    return {"ListPrice": asked, "OriginalListPrice": run.asked, "ClosePrice": run.price if run.status is Status.CLOSED else None}


def _house(home: Home, said: _Said) -> dict[str, object]:
    house, baths = home.house, home.house.baths or 0
    return {
        "BedroomsTotal": said.beds, "BathroomsFull": int(baths) or None, "BathroomsHalf": int(baths * 2) % 2 or None,
        "LivingArea": said.living_area, "LotSizeSquareFeet": round(house.lot_sqft) if house.lot_sqft else None,
        "YearBuilt": house.year_built, "StoriesTotal": house.stories, "GarageSpaces": house.garage,
        "MainLevelBedrooms": house.main_floor_beds, "WaterfrontYN": "true" if home.lot.district.is_waterfront else "false",
        "PoolPrivateYN": "true" if house.has_pool else "false",
    }  # fmt: skip


def _agent(agent: people.Agent | None) -> dict[str, object]:
    if agent is None:
        return {}
    return {
        "ListAgentMlsId": agent.number, "ListAgentFullName": agent.name, "ListOfficeMlsId": agent.office_number,
        "ListOfficeName": agent.office,
    }  # fmt: skip


def _income(home: Home) -> dict[str, object]:
    """Return what a listing of several dwellings says that they bring, today and with all of it let at more."""
    if home.house.homes < 2 or home.rent is None:
        return {}
    return {"TotalActualRent": home.rent, "GrossScheduledIncome": int(round(home.rent * 12 * 1.08, -2))}


def _occupant(home: Home) -> str:
    if "vacant" in home.notes:
        return "Vacant"
    return "Tenant" if "let" in home.notes else "Owner" if home.present.occupies else ""


def _remarks(home: Home, run: Run, said: _Said, rng: Random, *, agent: people.Agent | None) -> dict[str, object]:
    found: dict[str, object] = {"PublicRemarks": remarks.public(rng, home.house.kind, said.beds, list(run.meanings))}
    if agent:
        found |= {"PrivateRemarks": remarks.private(rng), "PrivateOfficeRemarks": remarks.further(rng)}
    return found


def _write(
    books: Books, home: Home, run: Run, rng: Random, *, agent: people.Agent | None, lease: bool = False, auction: bool = False
) -> None:
    """Write a listing, the changes of its price and status, and its photographs."""
    house, county, through = home.house, books.county, books.county.recorded_through
    source, end = SERVICE if agent else OWNERS_BOARD, run.end or through
    number = f"{county.key[:2].upper()}{run.start.year % 100}{books.serial('listing', 1001)}"
    cuts = _cuts(run, end, rng)
    asked = int(cuts[-1].after) if cuts else run.asked
    said, dates = _said(home, rng), _dates(run, end, rng)
    is_sold = run.status is Status.CLOSED and not lease
    books.enter(
        "listings", OriginatingSystemName=source, ListingId=number, ParcelNumber=home.number if rng.random() > 0.01 else "",
        UnparsedAddress=f"{home.address.line.title()}, {home.lot.district.city}", StandardStatus=run.status.value,
        PropertyType="Residential Lease" if lease else TYPES.get(house.kind, "Residential"),
        PropertySubType=SUB_TYPES.get(house.kind, ""),
        SpecialListingConditions=_conditions(home, run, auction=auction) if agent else "", **_prices(run, asked, lease=lease),
        ListingContractDate=run.start if rng.random() > 0.05 else None, **dates, **_house(home, said),
        **({} if lease else _income(home)), AssociationFee=rng.randrange(180, 460) if home.unit else None,
        BuyerFinancing=rng.choice(("Conventional", "Conventional", "FHA", "Cash", "VA")) if is_sold else None,
        OccupantType=_occupant(home), OwnerName=run.seller if rng.random() < 0.8 else "", **_agent(agent),
        **_remarks(home, run, said, rng, agent=agent),
    )  # fmt: skip
    for change in [*cuts, *_turns(run)]:
        if change.on <= through:
            books.enter(
                "listing-events", OriginatingSystemName=source, ResourceRecordID=number,
                ModificationTimestamp=f"{change.on}T15:30:00Z", FieldName=change.field, PreviousValue=change.before, NewValue=change.after,
            )  # fmt: skip
    if house.improvement_value and (through - run.start).days < 900:
        scene = rng.randrange(SCENES)
        for order, caption in enumerate(CAPTIONS[: rng.randrange(1, 5)], start=1):
            books.enter("photographs", folder=number, order=order, caption=caption, image=picture(scene, caption))
    home.notes.add(f"listed {run.status.value}")


def _meanings(home: Home, rng: Random) -> tuple[str, ...]:
    found: list[str] = [note for note in ("bank-owned", "estate", "vacant") if note in home.notes]
    if home.house.condition in ("poor", "fair") and rng.random() < 0.6:
        found.append("as-is")
    if home.house.homes > 1:
        found.append("income")
    for meaning, odds in (("motivated", 0.2), ("terms", 0.06), ("split", 0.05 if home.lot.frontage > 70 else 0.01), ("power", 0.04)):
        if rng.random() < odds:
            found.append(meaning)
    return tuple(found)


def _sold(books: Books, home: Home, rng: Random) -> None:
    """A recent sale was listed before: some for two days and over asking, some cut, some relisted after they had expired."""
    sale = home.present
    if not (sale.is_sale and sale.since and sale.paid) or (books.county.recorded_through - sale.since).days > 900 or rng.random() > 0.55:
        return
    agent, meanings = rng.choice(_AGENTS), _meanings(home, rng)
    contract = sale.since - timedelta(days=rng.randrange(28, 55))
    if rng.random() < 0.18:
        run = Run(contract - timedelta(days=2), int(round(sale.paid / rng.uniform(1.01, 1.07), -2)), sale.grantor, Status.CLOSED,
        sale.since, sale.paid,
                  meanings=(*meanings, "multiple"), contract=contract)  # fmt: skip
    else:
        start = contract - timedelta(days=rng.randrange(5, 170))
        cuts = rng.choice((0, 0, 1, 1, 2, 3))
        run = Run(
            start,
            int(round(sale.paid * (1.02 + 0.035 * cuts), -2)),
            sale.grantor,
            Status.CLOSED,
            sale.since,
            sale.paid,
            cuts,
            meanings,
            contract,
        )
        if rng.random() < 0.2:
            end = start - timedelta(days=rng.randrange(2, 80))
            first = Run(
                end - timedelta(days=180),
                int(round(run.asked * 1.06, -2)),
                sale.grantor,
                Status.EXPIRED,
                end,
                None,
                rng.choice((0, 1, 2)),
                meanings,
            )
            _write(books, home, first, rng, agent=rng.choice(_AGENTS))
    _write(books, home, run, rng, agent=agent)


def _offered(books: Books, home: Home, rng: Random) -> None:
    """A property that is for sale, or was and did not sell."""
    house, through = home.house, books.county.recorded_through
    eager = bool(home.notes & {"estate", "bank-owned", "divorce", "vacant", "foreclosure"})
    if house.kind == "exempt" or house.worth < 4_000 or rng.random() > (0.14 if eager else 0.021 if house.improvement_value else 0.012):
        return
    if home.present.since and (through - home.present.since).days < 250:
        return
    asked, meanings, seller = int(round(house.worth * rng.uniform(0.97, 1.16), -2)), _meanings(home, rng), home.present.owner
    agent = rng.choice(_AGENTS) if rng.random() > 0.07 else None
    draw = rng.random()
    if draw < 0.34:
        run = Run(through - timedelta(days=rng.randrange(1, 210)), asked, seller, cuts=rng.choice((0, 0, 1, 2)), meanings=meanings)
        if rng.random() < 0.4:
            # It came back under a new number after its first listing had run out.
            end = run.start - timedelta(days=rng.randrange(1, 70))
            earlier = Run(
                end - timedelta(days=180), int(round(asked * 1.07, -2)), seller, Status.EXPIRED, end, None, rng.choice((0, 1, 2)), meanings
            )
            _write(books, home, earlier, rng, agent=agent)
    elif draw < 0.44:
        start = through - timedelta(days=rng.randrange(20, 90))
        run = Run(
            start, asked, seller, Status.PENDING, None, None, 0, (*meanings, "multiple"), start + timedelta(days=rng.randrange(2, 18))
        )
    elif draw < 0.47:
        run = Run(through - timedelta(days=3), asked, seller, Status.COMING_SOON, meanings=meanings)
    else:
        start = through - timedelta(days=rng.randrange(200, 900))
        status = rng.choice((Status.EXPIRED, Status.EXPIRED, Status.WITHDRAWN, Status.CANCELED))
        end = start + timedelta(days=180 if status is Status.EXPIRED else rng.randrange(20, 150))
        run = Run(start, asked, seller, status, end, None, rng.choice((0, 1, 2, 3)), meanings)
    _write(books, home, run, rng, agent=agent, auction=agent is not None and "bank-owned" in home.notes and rng.random() < 0.3)


def _to_let(books: Books, home: Home, rng: Random) -> None:
    if "let" not in home.notes or rng.random() > 0.08:
        return
    start = books.county.recorded_through - timedelta(days=rng.randrange(2, 400))
    rent = int(round(home.house.worth * 0.0085 / max(1, home.house.homes), -1))
    is_open = rng.random() < 0.5
    end = None if is_open else min(start + timedelta(days=25), books.county.recorded_through)
    run = Run(start, rent, home.present.owner, Status.ACTIVE if is_open else Status.CLOSED, end, rent)
    _write(books, home, run, rng, agent=rng.choice(_AGENTS) if rng.random() < 0.5 else None, lease=True)


def listings(books: Books, home: Home, rng: Random) -> None:
    """Tell the listings of a property."""
    _sold(books, home, rng)
    if not any(note.startswith("listed") for note in home.notes):
        _offered(books, home, rng)
    _to_let(books, home, rng)


def members(books: Books) -> None:
    """Write the listing service's offices and agents."""
    for office, name in dict.fromkeys((agent.office_number, agent.office) for agent in _AGENTS):
        books.enter("offices", OfficeMlsId=office, OfficeName=name, OfficePhone=people.telephone(Random(name)))
    for agent in _AGENTS:
        books.enter(
            "agents",
            MemberMlsId=agent.number,
            MemberFullName=agent.name,
            OfficeMlsId=agent.office_number,
            MemberDirectPhone=agent.telephone,
        )
