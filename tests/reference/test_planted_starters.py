"""Each starter search over a county of files: a parcel planted for it is found, and those that miss it by a hair are not.

All is taken in as an installation's own files are: what a search finds goes back to rows that somebody recorded.
"""

from __future__ import annotations

import csv
import tempfile
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from itertools import count
from pathlib import Path
from typing import Any

from django.test import TestCase

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import scope_of_command
from jaded_ledger.core.criteria.asking import questions, with_answers
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.find.compiler import compile
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.services import IntakeOptions, take_in
from jaded_ledger.records.models import County, World
from jaded_ledger.searches.starters import STARTERS

TODAY = date(2026, 11, 24)
GIVEN = ("HOWARD", "MARTHA", "EDWARD", "ALICE", "WALTER", "JOAN", "PETER", "RUTH", "FRANK", "HELEN", "CARL", "DORIS")
FAMILY = ("JOHNSON", "MILLER", "WALKER", "BAKER", "CARTER", "MURPHY", "COOPER", "BAILEY", "KELLY", "HOWARD", "COX", "WARD")
ELSEWHERE = {"mailing_address": "9 Elm St", "mailing_city": "Madison", "mailing_state": "WI", "mailing_zip": "53703"}
OTHER_STATE = {"mailing_address": "9 Elm St", "mailing_city": "Peoria", "mailing_state": "IL", "mailing_zip": "61602"}
GROUND = {"class": "vacant-land", "living_area": "", "beds": "", "year_built": "", "improvement_value": "0"}
Row = Mapping[str, Any]


def ago(days: int) -> date:
    return TODAY - timedelta(days)


@dataclass(frozen=True)
class Plant:
    """A parcel: what its line on the roll says beyond the usual, and its rows in other files, by kind."""

    roll: Row = field(default_factory=dict)
    files: Mapping[str, Sequence[Row]] = field(default_factory=dict)


def plant(roll: Row | None = None, **files: Sequence[Row] | Row) -> Plant:
    """Return a parcel; a kind of file has its name with underscores, and one row or several."""
    kinds = {kind.replace("_", "-"): [rows] if isinstance(rows, Mapping) else list(rows) for kind, rows in files.items()}
    return Plant(roll or {}, kinds)


def of(owner: str) -> Plant:
    return plant(ELSEWHERE | {"owner": owner})


def deed(sold: date) -> Row:
    return {"sold_on": sold, "recorded_on": sold, "deed": "warranty", "price": 200_000, "grantor": "VERA OSTROM"}


def loan(amount: int, recorded: date = date(2026, 11, 14)) -> Row:
    """Return a loan; of one so late nothing is paid back yet."""
    return {"recorded_on": recorded, "kind": "purchase", "amount": amount, "rate": 6, "term_months": 360, "lender": "FIRST BANK"}


def worth(owed: int, roll: Row | None = None, sold: date = date(2026, 11, 12), **more: Sequence[Row] | Row) -> Plant:
    """Return a parcel worth $200,000 by roll and sale, with its tax paid, and with so much owed."""
    paid = {"year": 2025, "billed": 3_000, "paid": 3_000, "due": 0}
    return plant(roll, deeds=deed(sold), loans=loan(owed), tax_years=paid, **more)


def cash(sold: date, owner: str = "", *, borrowed: bool = False) -> Plant:
    loans = [loan(100_000, sold)] if borrowed else []
    return plant({"owner": owner} if owner else {}, deeds=deed(sold), loans=loans)


def suit(status: str, due: int, kind: str = "tax") -> dict[str, Row]:
    case = {"kind": kind, "filed_on": ago(90), "status": status, "status_on": ago(30)}
    return {"cases": case, "tax_years": {"year": 2024, "billed": due, "paid": 0, "due": due}}


def step(what: str, then: str = "") -> list[Row]:
    steps = [{"step": what, "taken_on": ago(90), "lender": "FIRST BANK"}]
    return steps + ([{"step": then, "taken_on": ago(30), "lender": "FIRST BANK"}] if then else [])


def auction(day: date) -> Row:
    return {"kind": "foreclosure", "held_on": day, "status": "scheduled"}


def listing(**more: Any) -> Row:
    return {
        "OriginatingSystemName": "NORTH", "StandardStatus": "Active", "PropertyType": "Residential", "ListPrice": 200_000,
        "OriginalListPrice": 200_000, "ListingContractDate": ago(30), "OnMarketDate": ago(30), "ListOfficeMlsId": "O1",
        "ListOfficeName": "Lantern Street Realty",
    } | more  # fmt: skip


def said(remarks: str) -> Plant:
    return plant(listings=listing(PublicRemarks=remarks))


def lease(**more: Any) -> Row:
    return listing(PropertyType="Residential Lease", ListPrice="", LeaseAmount=1_500, **more)


def closed(paid: int, days: int) -> Row:
    """Return a listing that was taken after so many days."""
    began, taken = ago(60), ago(60 - days)
    return listing(
        StandardStatus="Closed", ListingContractDate=began, OnMarketDate=began, PurchaseContractDate=taken, CloseDate=taken, ClosePrice=paid
    )


def ended(status: str, days: int, **more: Any) -> Row:
    """Return a listing that ended some days ago."""
    column = {"Expired": "ExpirationDate", "Withdrawn": "WithdrawnDate", "Canceled": "CancellationDate", "Closed": "CloseDate"}[status]
    return listing(StandardStatus=status, ListingContractDate=ago(500), OnMarketDate=ago(500), **{column: ago(days)}, **more)


def empty(days: int, occupant: str = "Vacant") -> Plant:
    """Return a parcel that has been for sale for so many days: up to 20 days ago under another number."""
    before = {"ListingContractDate": ago(days), "OnMarketDate": ago(days), "StandardStatus": "Withdrawn", "WithdrawnDate": ago(20)}
    since = {"ListingContractDate": ago(20), "OnMarketDate": ago(20), "OccupantType": occupant}
    return plant(listings=[listing(**before), listing(**since)])


def price(before: int, after: int) -> Row:
    return {"FieldName": "ListPrice", "PreviousValue": before, "NewValue": after}


def priced(asked: int, rent: int) -> Plant:
    listed = listing(ListPrice=asked, OriginalListPrice=asked, TotalActualRent=rent)
    return plant({"neighborhood": "Creekside", "beds": 4}, listings=listed)


def wide(frontage: float, depth: float = 120) -> Plant:
    return plant({"neighborhood": "Wide End", "frontage": frontage, "depth": depth, "lot_sqft": frontage * depth})


@dataclass(frozen=True)
class Case:
    """The answers to what a starter asks, a parcel that it is to find, and those it is to leave, by why."""

    planted: Plant
    missed: Mapping[str, Plant]
    answers: tuple[str, ...] = ()
    neighbors: tuple[Plant, ...] = ()
    """What figures of an area or an owner need to stand on."""


CASES = {
    "absentee-equity": Case(
        worth(80_000, ELSEWHERE),
        {
            "it owes more": worth(81_000, ELSEWHERE),
            "a lien is more": worth(80_000, ELSEWHERE, liens={"recorded_on": ago(5), "kind": "judgment", "amount": 1_000}),
            "its owner lives there": worth(80_000),
            "it is an office": worth(80_000, ELSEWHERE | {"class": "office"}),
        },
        ("60..",),
    ),
    "long-held-clear": Case(
        plant(deeds=deed(date(2006, 11, 24))),
        {
            "a day short of twenty years": plant(deeds=deed(date(2006, 11, 25))),
            "a loan is open": plant(deeds=deed(date(2006, 11, 24)), loans=loan(20_000)),
        },
        ("20..",),
    ),
    "owners-of-several": Case(
        of("QUILLON PROPERTIES LLC"),
        {"one of two": of("FENWICK PROPERTIES LLC"), "a city’s": of("CITY OF ALDER")},
        ("3..",),
        tuple(map(of, ("QUILLON PROPERTIES LLC",) * 2 + ("FENWICK PROPERTIES LLC",) + ("CITY OF ALDER",) * 2)),
    ),
    "tired-landlords": Case(
        plant(ELSEWHERE, deeds=deed(date(2009, 5, 1)), violations={"opened_on": ago(40)}),
        {
            "bought of late": plant(ELSEWHERE, deeds=deed(ago(200)), violations={"opened_on": ago(40)}),
            "no trouble": plant(ELSEWHERE, deeds=deed(date(2009, 5, 1))),
            "its owner lives there": plant(deeds=deed(date(2009, 5, 1)), violations={"opened_on": ago(40)}),
        },
    ),
    "tax-suit": Case(
        plant(**suit("filed", 5_000)),
        {
            "a dollar less is due": plant(**suit("filed", 4_999)),
            "it was dismissed": plant(**suit("dismissed", 5_000)),
            "the suit is about something else": plant(**suit("filed", 5_000, "civil")),
        },
        ("5000..",),
    ),
    "pre-foreclosure-equity": Case(
        worth(140_000, sold=ago(200), foreclosures=step("lis-pendens")),
        {
            "reinstated": worth(140_000, sold=ago(200), foreclosures=step("lis-pendens", "reinstated")),
            "sold": worth(140_000, sold=ago(200), foreclosures=step("lis-pendens", "sold")),
            "it owes more": worth(141_000, sold=ago(200), foreclosures=step("lis-pendens")),
        },
        ("30..",),
    ),
    "auctions-ahead": Case(
        plant(auctions=auction(TODAY + timedelta(60))),
        {"a day later": plant(auctions=auction(TODAY + timedelta(61)))},
        ("next 60 days",),
    ),
    "power-of-sale": Case(
        said("Sold under POWER OF SALE, see schedule A."),
        {
            "it says that it is none": said("No power of sale here."),
            "no longer offered": plant(listings=ended("Withdrawn", 2, PublicRemarks="Sold under power of sale.")),
        },
    ),
    "lender-government": Case(
        plant({"owner": "FIRST NATIONAL BANK"}),
        {
            "a company that is no bank": plant({"owner": "RIVERBANK ORCHARDS LLC"}),
            "the bank’s office": plant({"owner": "SECOND NATIONAL BANK", "class": "office"}),
        },
    ),
    "short-sales": Case(
        plant(listings=listing(SpecialListingConditions="Short Sale")),
        {
            "lender-owned": plant(listings=listing(SpecialListingConditions="Real Estate Owned")),
            "it ran out": plant(listings=ended("Expired", 3, SpecialListingConditions="Short Sale")),
        },
    ),
    "estates-inherited": Case(
        plant({"owner": "ESTATE OF VERA OSTROM"}),
        {
            "a company named after one": plant({"owner": "ESTATE VIEW LLC"}),
            "the case is over": plant(cases={"kind": "probate", "filed_on": ago(300), "status": "disposed", "status_on": ago(9)}),
        },
    ),
    "executor-selling": Case(
        plant(listings=listing(OwnerName="OSTROM VERA EXECUTOR")),
        {
            "a trustee": plant(listings=listing(OwnerName="OSTROM VERA TRUSTEE")),
            "not for sale": plant(listings=ended("Canceled", 3, OwnerName="OSTROM VERA EXECUTOR")),
        },
    ),
    "vacant-long": Case(empty(60), {"a day short": empty(59), "let": empty(60, "Tenant")}, ("60..",)),
    "expired-lately": Case(
        plant(listings=ended("Expired", 90)),
        {
            "a day earlier": plant(listings=ended("Expired", 91)),
            "withdrawn": plant(listings=ended("Withdrawn", 20)),
            "listed anew": plant(listings=[ended("Expired", 90), listing()]),
        },
        ("last 90 days",),
    ),
    "expired-long-ago": Case(
        plant(listings=ended("Expired", 366)),
        {"a day later": plant(listings=ended("Expired", 365))},
        ("more than 1 year ago",),
    ),
    "by-owner": Case(
        plant(listings=lease(ListOfficeMlsId="", ListOfficeName="")),
        {"an office lets it": plant(listings=lease()), "an office sells it": plant(listings=listing())},
    ),
    "cut-twice": Case(
        plant(listings=listing(ListPrice=180_000), listing_events=[price(200_000, 190_000), price(190_000, 180_000)]),
        {
            "once": plant(listings=listing(ListPrice=190_000), listing_events=price(200_000, 190_000)),
            "down, and up again": plant(listings=listing(), listing_events=[price(200_000, 190_000), price(190_000, 200_000)]),
        },
    ),
    "under-assessed": Case(
        plant(listings=listing(ListPrice=160_000)), {"a hair more": plant(listings=listing(ListPrice=161_000))}, ("..80",)
    ),
    "under-median-yield": Case(
        priced(180_000, 1_200),
        {"dearer": priced(182_000, 1_300), "less rent": priced(180_000, 1_199)},
        ("..90", "8.."),
        tuple(priced(200_000, 1_000) for _ in range(9)),
    ),
    "fast-over-asking": Case(
        plant(listings=closed(201_000, 7)),
        {"at asking": plant(listings=closed(200_000, 7)), "a day slower": plant(listings=closed(201_000, 8))},
        ("..7",),
    ),
    "cash-people": Case(
        cash(date(2025, 11, 24)),
        {
            "a day earlier": cash(date(2025, 11, 23)),
            "with a loan": cash(ago(100), borrowed=True),
            "a company": cash(ago(100), "NORTH DUNES LLC"),
        },
        ("last 12 months",),
    ),
    "cash-companies": Case(
        cash(date(2025, 11, 24), "SOUTH DUNES LLC"),
        {"a day earlier": cash(date(2025, 11, 23), "EAST DUNES LLC"), "with a loan": cash(ago(100), "WEST DUNES LLC", borrowed=True)},
        ("last 12 months",),
    ),
    "raw-land-out-of-state": Case(
        plant(GROUND | OTHER_STATE),
        {
            "owned elsewhere in the state": plant(GROUND | ELSEWHERE),
            "a shed stands on it": plant(GROUND | OTHER_STATE | {"improvement_value": 900}),
        },
    ),
    "wide-lots": Case(
        wide(75), {"a foot short": wide(74), "too little ground": wide(75, 60)}, ("150..",), tuple(wide(50) for _ in range(9))
    ),
    "waterfront-elsewhere": Case(
        plant(ELSEWHERE | {"waterfront": "Y"}),
        {"not on the water": plant(ELSEWHERE | {"waterfront": "N"}), "its owner lives there": plant({"waterfront": "Y"})},
    ),
    "needs-work": Case(said("Needs TLC."), {"none is due": said("No deferred maintenance."), "gutters": said("New gutters.")}),
    "terms": Case(said("Owner financing."), {"not here": said("No owner financing."), "lived in": said("Owner occupied.")}),
    "income": Case(said("Income property."), {"none": said("No rental income."), "of the area": said("A low income area.")}),
    "development": Case(
        said("May be split."),
        {"a house’s form": said("A split level home."), "sold": plant(listings=ended("Closed", 3, PublicRemarks="May be split."))},
    ),
}


class CountyOfFiles:
    """The rows of a county's files, parcel by parcel."""

    def __init__(self) -> None:
        self.rows: dict[str, list[dict[str, Any]]] = defaultdict(list)
        self._serial = count(1)
        self._owners: Iterator[str] = (f"{family} {given}" for given in GIVEN for family in FAMILY)

    def add(self, parcel: Plant) -> str:
        """Write down a parcel; return its number."""
        serial = next(self._serial)
        number = f"{serial:04d}"
        owner = str(parcel.roll.get("owner") or next(self._owners))
        usual = {
            "parcel_number": number, "house_number": serial, "street": "Plant St", "city": "Alder", "zip": "53300",
            "class": "single-family", "units": 1, "beds": 3, "living_area": 1_200, "year_built": 1960, "land_value": 50_000,
            "improvement_value": 150_000, "market_value": 200_000, "owner": owner, "mailing_address": f"{serial} Plant St",
            "mailing_city": "Alder", "mailing_state": "WI", "mailing_zip": "53300",
        }  # fmt: skip
        self.rows["roll"].append(usual | dict(parcel.roll))
        for kind, rows in parcel.files.items():
            for row in rows:
                self._enter(kind, row, number, owner)
        return number

    def _enter(self, kind: str, row: Row, number: str, owner: str) -> None:
        key = f"{number}-{len(self.rows[kind])}"
        own: dict[str, Any] = {"parcel_number": number}
        if kind == "listings":
            own = {"ParcelNumber": number, "ListingId": key}
        if kind == "listing-events":
            # One a day, of the parcel's last listing.
            moment = f"{ago(20 - len(self.rows[kind]))}T12:00:00Z"
            listing_id = self.rows["listings"][-1]["ListingId"]
            own = {"OriginatingSystemName": "NORTH", "ResourceRecordID": listing_id, "ModificationTimestamp": moment}
        if kind == "deeds":
            own |= {"grantee": owner, "document_number": key}
        if kind == "loans":
            own |= {"borrower": owner, "document_number": key}
        if kind == "cases":
            own |= {"case_number": key}
        self.rows[kind].append(dict(row) | own)

    def take_in(self, county: County, folder: Path) -> None:
        """Take all in, a file of each kind, in the order in which they build on each other."""
        for kind in (kind for kind in KINDS if self.rows[kind]):
            rows = self.rows[kind]
            path = folder / f"{kind}.csv"
            with path.open("w", newline="") as file:
                writer = csv.DictWriter(file, [column.name for column in KINDS[kind].described])
                writer.writeheader()
                writer.writerows(rows)
            taken = take_in(path, IntakeOptions(kind, county, TODAY, begins=kind == "roll"))
            assert (taken.read, taken.refused) == (len(rows), 0), f"{kind}: {taken.read} read, {taken.refused} refused"


class Planted(TestCase):
    numbers: dict[str, tuple[str, dict[str, str]]]

    @classmethod
    def setUpTestData(cls) -> None:
        Team.objects.create(name="Lantern Street Realty")
        World.objects.create(today=TODAY)
        county = County.objects.create(name="Alder", state="WI", parcel_number_mask="NNNN", assessment_ratio=1)
        files = CountyOfFiles()
        cls.numbers = {}
        for key, case in CASES.items():
            cls.numbers[key] = (files.add(case.planted), {why: files.add(one) for why, one in case.missed.items()})
            for one in case.neighbors:
                files.add(one)
        with tempfile.TemporaryDirectory() as folder:
            files.take_in(county, Path(folder))

    def found(self, search: Search) -> set[str]:
        return set(compile(search, scope_of_command()).matches.values_list("parcel__number", flat=True))

    def test_each_finds_what_was_planted_for_it_and_nothing_that_misses(self) -> None:
        self.assertEqual([one.key for one in STARTERS], list(CASES))
        for starter in STARTERS:
            planted, missed = self.numbers[starter.key]
            traits = [question.criterion.trait for question in questions(starter.search)]
            search = with_answers(starter.search, list(zip(traits, CASES[starter.key].answers, strict=True)))
            found = self.found(search)
            with self.subTest(starter.key):
                self.assertIn(planted, found)
            # By a hair: without the line that takes it off it would be found.
            lines = search.lines
            but_one = set().union(*(self.found(Search(search.counties, lines[:at] + lines[at + 1 :])) for at in range(len(lines))))
            for why, number in missed.items():
                with self.subTest(starter.key, why=why):
                    self.assertNotIn(number, found)
                    self.assertIn(number, but_one)
