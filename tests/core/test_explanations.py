"""What is told of how each figure came about, for four made-up parcels: ``explanations.txt`` has the lines, by what each rule says.

``full`` has something of everything, ``bare`` is a parcel of which every kind of record is on file and nothing is on record,
``dark`` lies in a county that has filed nothing, ``shared`` is covered by documents of several parcels.
"""

from __future__ import annotations

import unittest
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.distress import signals as s
from jaded_ledger.core.facts.explanations import EXPLAINERS, Entry, explain
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.record import Building, Exemption, Ground, Owned, Permit, Project, Rental
from jaded_ledger.core.finance.debts import LoanEvent
from jaded_ledger.core.ground import Terrain, Way
from jaded_ledger.core.market.areas import AreaFigures, Median, PriceLevels
from jaded_ledger.core.market.on_market import Change
from jaded_ledger.core.ownership.parties import Party
from jaded_ledger.core.several_parcels import Covered
from jaded_ledger.core.title.sales import DeedType
from tests.support.records import AWAY, TODAY, case, described, listing, loan, of, roll, sale

DAY = timedelta(days=1)
KINDS = (
    "auctions", "cases", "contacts", "deeds", "exemptions", "foreclosures", "layers", "liens", "listings", "loans", "permits", "projects",
    "roll", "tax-years", "vacancies", "violations",
)  # fmt: skip
ON_FILE = dict.fromkeys(KINDS, TODAY)
LINES = Path(__file__).with_name("explanations.txt")
# What is shown as recorded: of the roll, of a listing, of a building.
RECORDED = ("zoning", "list-price", "listed-beds", "stories")


def full() -> Findings:
    """A rented duplex with an owner out of the county, two flips, four loans, and trouble of every kind."""
    bought, sold, married = date(2012, 3, 1), date(2014, 3, 1), date(2015, 6, 1)
    first, line = (
        loan(date(2014, 3, 1), lender="FERN SAVINGS BANK"),
        loan(date(2019, 2, 2), "credit-line", 20_000, None, lender="QUAY CREDIT UNION"),
    )
    assumed, old = loan(date(2020, 1, 6), "second", 30_000, None, 120), loan(date(2012, 3, 1), number="L-1", lender="ODELL BANK")
    latest = listing(
        "M-2",
        date(2026, 9, 1),
        source="M",
        list_price=Decimal(190_000),
        original_list_price=Decimal(210_000),
        conditions="Short Sale",
        expiration_date=date(2026, 11, 20),
        actual_rent=Decimal(1_550),
        scheduled_income=Decimal(24_000),
        key=2,
    )
    return of(
        ON_FILE,
        county={"zips": frozenset({"44001", "44002"}), "levels": PriceLevels({2014: Median(Decimal(80), 5)}, Median(Decimal(100), 5))},
        roll=roll(
            mailing=AWAY, property_class=2, units=2, living_area=1_500, lot_sqft=15_000, frontage=120.0, depth=125.0,
            land_value=Decimal(40_000),
            improvement_value=Decimal(110_000), market_value=Decimal(160_000), homestead=False, owner_kind="individual",
            owner_role="trustee",
            house_number=12, hoa_fee=Decimal(25), waterfront=False, zoning="R2", beds=3,
        ),
        buildings=[Building(2, 1.0, 1, False, None, "", 22), Building(1, 2.0, 2, None, None, "", 21)],
        dwellings=3,
        project=Project("Lock Quarter", ("Pool", "Dock"), 4),
        transfers=[
            sale(bought, 60_000), sale(sold, 100_000), sale(married, None, deed=DeedType.QUITCLAIM, is_related=True),
            sale(date(2013, 1, 2), 1_000),
        ],
        loans=[old, first, line, assumed],
        loan_events={"L-1": [LoanEvent(date(2014, 3, 9), "release", "L-1", None, 9)]},
        filed=s.Filed(
            tax_years=[
                s.TaxYear(2020, None, None, Decimal(100_000), Decimal(1_900), Decimal(0), 1),
                s.TaxYear(2024, None, None, Decimal(120_000), Decimal(2_000), Decimal(500), 2),
                s.TaxYear(2025, None, None, Decimal(150_000), Decimal(2_100), Decimal(2_100), 3),
            ],
            cases=[
                case("tax", date(2024, 5, 1), case_number="T-1", status_on=date(2024, 6, 1)),
                case("eviction", date(2013, 5, 1), case_number="E-0", status="disposed", status_on=date(2013, 6, 1)),
                case("eviction", date(2026, 5, 1), case_number="E-1", status_on=date(2026, 6, 1)),
                case("probate", date(2026, 1, 5)), case("divorce", date(2026, 1, 6)), case("bankruptcy", date(2026, 1, 7)),
            ],
            steps=[
                s.Step(date(2021, 1, 4), "lis-pendens", None, 1), s.Step(date(2021, 3, 4), "reinstated", None, 2),
                s.Step(date(2026, 2, 2), "notice-of-default", Decimal(50_000), 3), s.Step(date(2026, 8, 2), "sale-scheduled", None, 4),
            ],
            auctions=[
                s.Auction(date(2021, 3, 30), "foreclosure", "canceled", None, 1),
                s.Auction(date(2026, 12, 4), "foreclosure", "scheduled", None, 2),
                s.Auction(date(2026, 11, 10), "foreclosure", "postponed", None, 3),
            ],
            liens=[
                s.Lien(date(2025, 1, 1), "mechanics", Decimal(4_000), "N-1", None, 1),
                s.Lien(date(2025, 2, 1), "mechanics", Decimal(900), "N-2", date(2025, 9, 1), 2),
                s.Lien(date(2025, 3, 1), "hoa", None, "N-3", None, 3),
            ],
            violations=[s.Episode(date(2025, 4, 1), None, 1), s.Episode(date(2016, 4, 1), date(2016, 5, 1), 2)],
            vacancies=[s.Episode(date(2026, 4, 1), None, 1)],
        ),
        permits=[Permit(date(2020, 1, 1), "roof", Decimal(8_000), 1), Permit(date(2022, 1, 1), "", None, 2)],
        rentals=[Rental(date(2025, 1, 1), None, Decimal(900), "1", 1), Rental(date(2025, 1, 1), None, Decimal(700), "2", 2)],
        exemptions=[Exemption(date(2015, 1, 1), TODAY, "senior", 1), Exemption(date(2016, 1, 1), None, "veteran", 2)],
        listings=[
            listing("M-1", date(2026, 7, 1), "Expired", source="M", expiration_date=date(2026, 8, 10), list_price=Decimal(210_000), key=1),
            latest, listing("R-1", date(2024, 7, 1), "Closed", property_type="Residential Lease", lease_amount=Decimal(950), key=3),
        ],
        described={
            2: described(
                beds=4, full_baths=2, half_baths=1, living_area=1_600, waterfront=True, association_fee=Decimal(30), seller_kind="trust",
                seller_role="executor",
            ),
        },
        changes={
            "M-2": [
                Change(date(2026, 10, 1), "ListPrice", "210000", "190000", 7),
                Change(date(2026, 10, 21), "StandardStatus", "Active", "Pending", 8),
            ],
        },
        owned=Owned(2, True, False, True),
        ground=Ground(("AE", "X"), "local", 12.25, feet_to={Way.HIGHWAY: 5_280.4, Way.RAIL: 411.6}, terrain=Terrain(612, 4.5)),
        area=AreaFigures(
            name="Fern Hill", frontage=Median(Decimal(100), 9), asked={(2, 3): [Decimal(n) for n in (180_000, 200_000)]},
            square_foot={None: Median(Decimal(90), 5)}, stated=(("Sales of the last twelve months", "31"),),
        ),
    )  # fmt: skip


def bare() -> Findings:
    return of(ON_FILE, roll=roll(mailing=None), ground=Ground((), None, None))


def dark() -> Findings:
    return of({})


def shared() -> Findings:
    """Two lots under one land contract, a blanket loan that was partly released, and a pair bought and resold."""
    seller, buyer = Party("HELEN OSTROM", "individual", ("ostrom",)), Party("DORA KELM", "individual", ("kelm",))
    pair, unshared = Covered(("12-034-008",), Decimal("0.25")), Covered(tuple(f"9-{n}" for n in range(6)), None)
    lent = loan(date(2016, 11, 24), "refinance", 36_000, "0", covered=pair, lender="FERN SAVINGS BANK")
    second = loan(date(2017, 11, 24), "second", 9_000, "0", covered=unshared)
    return of(
        ON_FILE | {"auctions": TODAY - 9 * DAY},
        filed=s.Filed(auctions=[s.Auction(TODAY - 2 * DAY, "tax", "scheduled", None, 1)]),
        county={"levels": PriceLevels({2016: Median(Decimal(80), 5)}, Median(Decimal(100), 5))},
        roll=roll(
            living_area=1_000, land_value=Decimal(10_000), improvement_value=Decimal(0), property_class=None, land_use="1RES", units=2,
            beds=4,
            owner_name="KELM DORA", owner_kind="individual",
        ),
        area=AreaFigures(name="Fern Hill", rents={(2, 2): Median(Decimal(815), 6)}),
        transfers=[
            sale(date(2014, 5, 1), 50_000, covered=unshared), sale(date(2014, 6, 1), 20_000), sale(date(2015, 6, 1), 90_000, covered=pair),
            sale(date(2016, 5, 1), 120_000, deed=DeedType.LAND_CONTRACT, covered=pair, grantor=seller, grantee=buyer),
        ],
        loans=[lent, second, loan(date(2016, 4, 25), amount=70_000, borrower=seller)],
        loan_events={
            lent.number: [
                LoanEvent(date(2020, 1, 4), "partial-release", lent.number, Decimal(6_000), 8),
                LoanEvent(date(2021, 1, 4), "partial-release", lent.number, None, 9),
            ],
        },
    )  # fmt: skip


PARCELS = {"full": full, "bare": bare, "dark": dark, "shared": shared}


def line(entry: Entry) -> str:
    """Return an entry as the file has it; a sum with = before it, and its rows in brackets."""
    rows = " ".join(f"[{source.kind} {source.key}]" for source in entry.sources)
    return f"{'=' if entry.is_sum else '-'} {' | '.join((entry.label, entry.text, entry.note))} {rows}".rstrip(" |")


def told() -> dict[tuple[str, str], list[str]]:
    """Return the lines of the file, by parcel and trait."""
    found: dict[tuple[str, str], list[str]] = {}
    parcel, traits = "", [""]
    for text in LINES.read_text().splitlines():
        if text.startswith("# "):
            parcel = text[2:]
        elif text and text[0] not in "-=":
            traits = text.split(", ")
            found |= {(parcel, trait): [] for trait in traits}
        elif text:
            for trait in traits:
                found[parcel, trait].append(text)
    return found


class Explanations(unittest.TestCase):
    def test_each_figure_is_told_in_full(self) -> None:
        expected = told()
        keys = [*EXPLAINERS, *RECORDED]
        self.assertEqual({trait for _, trait in expected}, set(keys))
        for name, parcel in PARCELS.items():
            found = parcel()
            for key in keys:
                with self.subTest(f"{name}: {key}"):
                    explanation = explain(found, CATALOGUE[key], None)
                    self.assertEqual([line(entry) for entry in explanation.entries], expected[name, key])

    def test_the_rule_goes_with_the_lines(self) -> None:
        found = dark()
        for key in ("equity", "zoning"):
            explanation = explain(found, CATALOGUE[key], 5)
            self.assertEqual((explanation.value, explanation.rule), (5, CATALOGUE[key].rule or "as recorded"))

    def test_a_landlord_s_dwelling_is_residential_by_its_class(self) -> None:
        """Single-family to land for building are, and no class is not known; the classes are in the order of the catalogue."""
        for kind, said in ((1, "yes"), (8, "yes"), (9, "no"), (None, "·")):
            found = of(ON_FILE, roll=roll(property_class=kind))
            entries = {entry.label: entry.text for entry in explain(found, CATALOGUE["tired-landlord"], None).entries}
            self.assertEqual(entries["Residential"], said, kind)
