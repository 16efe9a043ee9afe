"""The inputs of a worksheet: what is assumed until somebody says otherwise, and what each can be.

The assumed values are common practice among investors, from memory; those of a rental are the ones that the worked example of a
two-flat in ``test_worksheets`` counts with. Each can be set by a team. A worksheet rests on them, so a change of one is a decision.
"""

from __future__ import annotations

import math
import unittest

from jaded_ledger.core.deals.expressions import FigureUnit
from jaded_ledger.core.deals.inputs import BARE, INPUTS, InputError, checked, input_named, read_number

ASSUMED = {
    "buying-costs": 2.5, "repair-rate": 20, "insurance-rate": 0.6, "utilities": 1_200, "selling-costs": 7,
    "resale.months": 6, "resale.wanted-profit": 30_000, "resale.wanted-margin": 10, "offer.share": 70, "offer.fee": 0,
    "rental.vacancy": 7, "rental.management": 9, "rental.maintenance": 7, "rental.reserve": 5, "rental.change": 0, "rental.repairs": 0,
    "rental.wanted-return": 8, "rental.wanted-cap": 7, "rental.wanted-cover": 1.25,
    "assignment.fee": 8_000, "assignment.costs": 500, "assignment.buyer-margin": 15, "assignment.waiting": 3_000,
    "refinance.share": 75, "refinance.rate": 6.75, "refinance.years": 30, "refinance.costs": 2, "refinance.months": 8,
    "split.least-width": 25, "split.least-depth": 80, "split.least-area": 2_500, "split.cost-each": 6_500, "split.clearing": 0,
    "split.months": 12, "split.wanted-profit": 30_000,
    "titles.cost-each": 6_000, "titles.fixed": 15_000, "titles.months": 12, "titles.wanted-profit": 40_000,
    "hold.years": 10, "hold.rent-growth": 2.5, "hold.renewal": 2, "hold.turnover": 2_500, "hold.expense-growth": 3,
    "hold.value-growth": 2.5, "hold.discount": 8,
    "seller.commission": 5.5, "seller.transfer-tax": 0.4, "seller.closing": 0.8, "seller.concessions": 0,
}  # fmt: skip
LOANS = {
    # share of the price, rate, years, points, years of interest only
    "bridge": (75, 10.5, 30, 2, 30), "bridge-second": (0, 13, 30, 3, 30),
    "mortgage": (70, 6.75, 30, 0, 0), "mortgage-second": (0, 9, 15, 0, 0), "seller": (0, 6, 30, 0, 0),
}  # fmt: skip
OF_LOANS = ("share", "rate", "years", "points", "interest-only")
MONEY = 1e11
"""More money than any house is worth; nothing larger is a slip of the finger that can be computed with."""
BOUNDS = {
    "discount": (-MONEY, MONEY), "discount-rate": (-1_000, 100), "living-area": (0, 1e7), "insurance-rate": (0, 20),
    "rental.change": (-100, 1_000), "rental.wanted-return": (0, 1_000), "rental.wanted-cap": (0, 1_000), "rental.wanted-cover": (0, 100),
    "refinance.years": (0, 50), "split.frontage": (0, 1e6), "split.depth": (0, 1e6), "split.area": (0, 1e9),
    "split.least-width": (1, 1e4), "split.least-depth": (1, 1e4), "split.least-area": (1, 1e7), "hold.years": (1, 30),
    "hold.rent-growth": (-50, 50), "hold.renewal": (-50, 50), "hold.expense-growth": (-50, 50), "hold.value-growth": (-50, 50),
    "hold.discount": (-50, 100),
    **{f"{loan}.share": (0, 200) for loan in LOANS}, **{f"{loan}.years": (0, 50) for loan in LOANS},
    **{f"{loan}.points": (0, 50) for loan in LOANS}, **{f"{loan}.interest-only": (0, 50) for loan in LOANS},
}  # fmt: skip
BY_UNIT = {FigureUnit.PERCENT: (0, 100), FigureUnit.MONTHS: (0, 600), FigureUnit.MONEY: (0, MONEY), FigureUnit.MONEY_A_YEAR: (0, MONEY)}


class Assumed(unittest.TestCase):
    def test_what_is_assumed_is_common_practice(self) -> None:
        loans = {f"{loan}.{name}": value for loan, values in LOANS.items() for name, value in zip(OF_LOANS, values, strict=True)}
        self.assertEqual({key: one.usual for key, one in INPUTS.items() if one.usual is not None}, ASSUMED | loans)

    def test_what_is_assumed_can_be_set_by_a_team_and_nothing_else_can(self) -> None:
        assumed = {key for key, one in INPUTS.items() if one.usual is not None}
        fixed = {"rental.repairs", "split.clearing", "seller.concessions"}
        self.assertEqual({key for key, one in INPUTS.items() if one.can_default}, assumed - fixed)

    def test_a_bare_sheet_assumes_no_cost(self) -> None:
        """Costs and loans begin at nothing; goals, terms and growth are no costs."""
        self.assertLessEqual(BARE, {key for key, one in INPUTS.items() if one.can_default})
        self.assertFalse({key for key in BARE if "wanted" in key or "months" in key or "growth" in key or key.endswith(".rate")})


class Bounds(unittest.TestCase):
    def test_each_has_its_own(self) -> None:
        for key, one in INPUTS.items():
            with self.subTest(key):
                self.assertEqual((one.least, one.most), BOUNDS[key] if key in BOUNDS else BY_UNIT[one.unit])

    def test_the_ends_can_be_and_what_lies_beyond_can_not(self) -> None:
        for key, one in INPUTS.items():
            with self.subTest(key):
                self.assertEqual((checked(one, one.least), checked(one, one.most)), (one.least, one.most))
                below, above = math.nextafter(one.least, -math.inf), math.nextafter(one.most, math.inf)
                for beyond in (below, above, math.nan, math.inf, True, "7", None):
                    with self.assertRaises(InputError):
                        checked(one, beyond)

    def test_the_message_says_what_it_can_be(self) -> None:
        for value, message in (
            (101, "vacancy goes from 0 to 100; 101 does not"), (1_234.5, "vacancy goes from 0 to 100; 1,234.5 does not"),
            ("x" * 40, f"vacancy is a number, not {'x' * 30}$"),
        ):  # fmt: skip
            with self.assertRaisesRegex(InputError, message):
                checked(INPUTS["rental.vacancy"], value)

    def test_one_that_does_not_exist(self) -> None:
        self.assertIs(input_named("price"), INPUTS["price"])
        with self.assertRaisesRegex(InputError, f"no input {'y' * 60}; .* price, list-price, discount, discount-rate, arv$"):
            input_named("y" * 70)


class Read(unittest.TestCase):
    def test_as_people_type_it(self) -> None:
        for typed, value in (
            ("$184,500", 184_500), ("184.5k", 184_500), ("1.2M", 1_200_000), ("7 %", 7), ("7%", 7), ("−2", -2),
            ("198,000 - 25,000", 173_000), ("3 × 400", 1_200), (" 0 ", 0), ("(2+3)*4", 20),
        ):  # fmt: skip
            with self.subTest(typed):
                self.assertEqual(read_number(typed, "price"), value)

    def test_what_is_none_says_so(self) -> None:
        for typed in ("", "x", "1/0", "9" * 400, "1e999", "nan", "-inf"):
            with self.subTest(typed), self.assertRaisesRegex(InputError, "is not a number for the price; write it as 184,500 or 2.5"):
                read_number(typed, "the price")
        with self.assertRaisesRegex(InputError, f"^“{'z' * 30}” is"):
            read_number("z" * 31, "the price")
