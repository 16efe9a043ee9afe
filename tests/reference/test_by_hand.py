"""Facts of the demo's properties worked out by hand from their recorded rows, which each comment sums up. Today is 24 Nov 2026.

Balances were worked out with numpy-financial's fv and pmt, payments counted on the fingers.
"""

from __future__ import annotations

from datetime import date

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.results import value_of, with_values
from tests.support.demo import DemoTestCase

BY_HAND = {
    # Bought 1 Jun 2008, the deed and a loan of 34,700 at 5.5 % over 360 months from 4 Jun both recorded on the 10th: 221 payments.
    # Tax of four years: 1,064.07 + 1,989.85 + 1,845.55 + 1,694.91. Assessed 6,600 + 72,500 at 80 %. A suit at judgment; default, lis
    # pendens, judgment, sale scheduled; the auction of 22 Nov was postponed and no other is on file. Homestead.
    ("Pike Hollow", "100-067-06"): {
        "tax-years-delinquent": 4, "tax-due": 6_594, "tax-suit": "judgment", "foreclosure-stage": "sale-scheduled", "auction": NONE,
        "years-owned": 18, "assessed-value": 79_100, "owner-occupied": True, "cash-purchase": False, "open-loans": 1,
        "loan-balance": 20_221, "open-signals": 6,
    },
    # No deed on record. Tax of three years: 21,897.56 + 20,324.53 + 18,682.12; nobody but the owner was served. To be auctioned.
    # 871,200 sq ft are 20 acres of 43,560; 660 ft of frontage are 26 lots of 25 ft. The tax bill goes to a box in another ZIP Code.
    ("Odell Marsh", "010229021"): {
        "never-sold": True, "years-owned": None, "tax-due": 60_904, "auction": date(2027, 2, 4), "auction-kind": "tax", "lot-acres": 20.0,
        "possible-lots": 26, "owner-occupied": False, "free-and-clear": True, "last-sale": None,
    },
    # Bought 26 Mar 1996 for 22,600, sold 22 Oct for 37,500, 210 days later. The loan's term ended on 1 Nov 2026 but its lender is
    # foreclosing: what is owed is not known. Violations of 7 Jan 2024 and 5 Feb 2025 are open. The auction of 10 Nov is past.
    ("Pike Hollow", "100-104-13"): {
        "flips": 1, "flip-margin": 14_900, "flip-days": 210, "years-owned": 30, "loan-balance": None, "free-and-clear": None,
        "code-violation": date(2025, 2, 5), "auction": NONE, "foreclosure-stage": "sale-scheduled",
    },
    # A bank's since the sheriff's deed of 3 Jul 2025, which wiped out its loan. Asked 139,100, then 133,400, now 124,100: 15,000 of
    # 139,100 less; against 129,400 on the roll; on the market since 20 Oct. The last sale was on 18 Feb 2022.
    ("Pike Hollow", "100-069-21"): {
        "acquired": "foreclosure", "foreclosure-stage": "bank-owned", "last-sale": date(2022, 2, 18), "last-sale-price": 111_000,
        "last-deed": "sheriff", "last-transfer": date(2025, 7, 3), "open-loans": 0, "price-cut": 10.78, "price-cuts": 2,
        "days-on-market": 35, "list-to-assessed": 95.9, "ownership": "bank", "owner-kind": "lender", "out-of-state": True,
    },
    # Listed 23 Jul 2025 to 16 Jan 2026, 177 days; again 19 days later, 4 Feb to 5 May, 90 days: cumulative 267. Sold with the
    # lot beside for 420,700, last asked 403,600, no loan recorded. Let for 2,060: 24,720 a year. Offered to let by its owner since 7 Apr.
    ("Odell Marsh", "010206010"): {
        "days-on-market": 90, "cumulative-days": 267, "relistings": 1, "sale-to-list": 104.24, "competition": ("at-or-above-list",),
        "cash-purchase": True, "asking-yield": 6.12, "offer": "by-owner-for-rent", "on-offer": ("for-rent",), "status": "closed",
        "sale-parcels": 2, "last-sale-price": 420_700,
    },
    # Heirs, elsewhere. Tax of three years: 6,698.08 + 6,216.49 + 5,715.31. Suit at judgment, probate filed, empty since 2024.
    ("Tamarack", "12-034-012"): {
        "owner-kind": "estate", "tax-due": 18_630, "tax-judgment": date(2025, 12, 4), "probate": date(2025, 4, 9),
        "vacancy": date(2024, 7, 19), "owner-occupied": False, "open-signals": 5, "never-sold": True,
    },
    # Bought 11 Dec 2010 for 51,100, resold 29 Oct 2011 for 74,400 after 322 days; nothing since.
    ("Tamarack", "12-001-014"): {
        "flips": 1, "flip-margin": 23_300, "flip-days": 322, "years-owned": 15, "last-sale-price": 74_400, "sales-10y": 0,
    },
    # A personal representative's deed at a price is a sale. Four refinances, each replacing the loan before; the last of 26,600 at
    # 6.25 % over 240 months from 13 Jan 2026: ten payments. A builder's lien of 27,682.
    ("Tamarack", "12-018-020"): {
        "last-sale": date(1994, 5, 24), "acquired": "sale", "years-owned": 32, "open-loans": 1, "loan-balance": 26_028,
        "mechanics-lien": date(2020, 12, 26), "lien-total": 27_682, "last-loan": date(2026, 1, 21), "last-loan-kind": "refinance",
    },
    # No deeds, so since when it is owned is not known; one eviction filed; the violation was closed; offered to let by an agency.
    ("Pike Hollow", "100-041-09"): {
        "years-owned": None, "evictions": 1, "code-violation": NONE, "offer": "agency-for-rent", "owner-kind": "company",
        "tired-landlord": None, "list-price": NONE,
    },
    # 87,500, now 83,800: 3,700 of 87,500. On the market since 12 May: 196 days. Nothing is built on it. A divorce is filed; it is long
    # on the market, and its price was cut.
    ("Odell Marsh", "010233029"): {
        "price-cut": 4.23, "days-on-market": 179, "raw-land": True, "divorce": date(2026, 8, 13), "sales-10y": 1,
        "signals": ("divorce", "long-on-the-market", "price-cuts"), "owner-occupied": False,
    },
    # Four cousins are people, but no couple.
    ("Odell Marsh", "010117003"): {"owner-kind": "several-people", "owner-occupied": False, "never-sold": True,
        "improvement-value": 29_700},
    # Expired 18 Sep, back 35 days later, longer than the county's 30: a new count, 32 days from 23 Oct. The areas differ: 1,296, 1,242.
    ("Tamarack", "12-005-014"): {
        "relistings": 0, "days-on-market": 32, "cumulative-days": 32, "bankruptcy": date(2024, 11, 7), "years-owned": 22,
        "living-area": 1_296, "listed-living-area": 1_242,
    },
    # Into the owner's trust for 10 dollars: still owned since 23 Mar 2013. 76,900 at 3.375 % over 360 months from 24 Mar 2013: 164
    # payments. Offered without an agent.
    ("Odell Marsh", "010118002"): {
        "years-owned": 13, "acquired": "sale", "last-sale": date(2013, 3, 23), "last-transfer": date(2020, 10, 27), "open-loans": 1,
        "loan-balance": 51_171, "offer": "by-owner-for-sale", "owner-kind": "trust",
    },
    # 43,500 on 10 Jan 1991, 66,500 on 29 Jul: 200 days. Lost to the bank in 2023, which has it auctioned; on the market since 29 May.
    ("Tamarack", "12-116-001"): {
        "flips": 1, "flip-margin": 23_000, "flip-days": 200, "acquired": "foreclosure", "open-loans": 0, "offer": "auction",
        "days-on-market": 179, "last-sale": date(2022, 1, 21),
    },
    # Six deeds; two sales of ten years, the second below the first: no flip. From 7 Apr to the contract of 31 Aug 2025: 146 days.
    # Closed at 208,100, last asked 202,900. A loan was recorded with the deed.
    ("Tamarack", "12-003-005"): {
        "sales-10y": 2, "flips": 0, "days-on-market": 146, "sale-to-list": 102.56, "cash-purchase": False, "years-owned": 1,
        "price-cuts": 2,
    },
    # An estate in care of a relative; a unit of a condominium; 237,000, now 225,500; probate listing.
    ("Tamarack", "12-299-006-009"): {
        "owner-role": "care-of", "owner-kind": "estate", "tenure": "condominium", "price-cut": 4.85, "ownership": "estate",
        "probate": date(2025, 12, 26), "vacancy": date(2025, 8, 7),
    },
    # The association's lien of 2019 was released in 2020.
    ("Tamarack", "12-302-003-032"): {"hoa-lien": NONE, "lien-total": 0, "project": "270 Harbour Front"},
    # One quitclaim without a price: a gift, not a sale. The tax suit ended when the tax was paid.
    ("Odell Marsh", "010103004"): {
        "never-sold": True, "acquired": "gift", "years-owned": 14, "last-deed": "quitclaim", "tax-suit": "disposed",
        "tax-years-delinquent": 0,
    },
    # 79,400 at 6.75 % over 180 months from 8 Aug 2026: three payments. Listed 10 Apr, contract 23 Jun: 74 days; 115,600 of 117,900.
    ("Odell Marsh", "010213025"): {
        "loan-balance": 78_628, "days-on-market": 74, "sale-to-list": 98.05, "last-sale": date(2026, 7, 23), "owner-occupied": True,
    },
    # 1,797.40 + 3,305.96. Elsewhere, owned 21 years, a house, a violation on record though closed: a tired landlord.
    ("Tamarack", "12-147-018"): {
        "tax-due": 5_103, "tax-years-delinquent": 2, "vacancy": date(2024, 5, 25), "code-violation": NONE, "years-owned": 21,
        "tired-landlord": True, "out-of-state": True,
    },
    # 35,400 of 2017 stood at 31,887 when 30,100 were lent in 2022, more than four fifths: replaced, released or not. 49 payments since.
    ("Tamarack", "12-155-003"): {"open-loans": 1, "loan-balance": 28_098, "last-loan": date(2022, 10, 25), "free-and-clear": False},
    # 3,487.50 + 6,472.71 + 5,952.11; judgment; to be auctioned on 10 Feb. Bought in 2018 without a loan. Listed 180 days, expired.
    ("Tamarack", "12-009-022"): {
        "tax-due": 15_912, "auction": date(2027, 2, 10), "cash-purchase": True, "status": "expired", "days-on-market": 180,
        "last-sale-price": 177_000,
    },
}  # fmt: skip


class ByHand(DemoTestCase):
    def test_twenty_properties(self) -> None:
        self.assertGreaterEqual(len(BY_HAND), 20)
        for (county, number), facts in BY_HAND.items():
            traits = [CATALOGUE[key] for key in facts]
            row = with_values(parcels(self.scope).filter(parcel__number=number, county__name=county), traits).get()
            for trait in traits:
                with self.subTest(f"{county} {number} {trait.key}"):
                    self.assertEqual(value_of(row, trait), facts[trait.key])
