"""Comps: pools, adjustments and ranges against plain arithmetic; warnings; size steps; and that no later sale is looked at."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace
from datetime import date, timedelta
from itertools import combinations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.comps.adjustments import Graded, adjust, adjusted_values
from jaded_ledger.core.comps.constants import ENOUGH, Coefficient, Constants, measure, set_by_hand, shipped
from jaded_ledger.core.comps.likeness import (
    SHIPPED_LIKENESS,
    Likeness,
    Origin,
    Trial,
    flattest,
    measure_likeness,
    weighted_median,
    weights_of,
)
from jaded_ledger.core.comps.lines import RULES, LineKind, PoolError, PoolLine, bounds, holds, parse_line, parse_lines
from jaded_ledger.core.comps.pool import candidates, narrow, widen
from jaded_ledger.core.comps.pool import effects as effects_of
from jaded_ledger.core.comps.ranges import Range, doubts_about, range_of
from jaded_ledger.core.comps.sales import House, Sales, sales_of
from jaded_ledger.core.comps.size_step import size_step
from jaded_ledger.core.comps.terms import AGES, BATHS, BEDS, LIVING, LOT, OF_HOUSES, kind_term
from jaded_ledger.core.comps.trust import ENOUGH as ENOUGH_TO_TRUST
from jaded_ledger.core.comps.trust import METHOD, back_test
from jaded_ledger.core.comps.warnings import OLD, Circumstances, Warned, road_rank, warnings_of
from tests.support.tiers import deep

DAY = date(2026, 11, 24)
DEGREE_A_MILE = 1609.344 / 111_320
HOUSE = {
    "property_class": 1.0,
    "living_area": 1_200.0,
    "lot_sqft": 5_000.0,
    "beds": 3.0,
    "baths": 2.0,
    "year_built": 1960.0,
    "stories": 1.0,
}
SUBJECT = House(DAY, -88.0, 0.0, HOUSE)


def sale(days: int = 30, price: float = 240_000, miles: float = 0.2, parcel: int = 1, **traits: float | None):
    """Return a sale so many days before, so many miles to the east on the equator; a trait that is None is unknown."""
    return (parcel, DAY - timedelta(days), price, -88.0 + miles * DEGREE_A_MILE, 0.0, {**HOUSE, **traits})


def random_sales(count: int, seed: int = 7) -> Sales:
    """Return sales of which the price is known to follow from what was sold, but for a little noise."""
    draw = np.random.default_rng(seed)
    rows = []
    for parcel in range(count):
        area, baths, beds = draw.integers(700, 2_600), draw.integers(2, 7) / 2, draw.integers(1, 6)
        days = int(draw.integers(1, 720))
        log = 6 + 0.6 * math.log(area) + 0.05 * baths - 0.004 * days / 30.4375 + draw.normal(0, 0.05)
        rows.append((
            parcel, DAY - timedelta(days), math.exp(log), -88 + draw.uniform(-0.03, 0.03), draw.uniform(-0.03, 0.03),
            {"property_class": float(draw.integers(1, 3)), "living_area": float(area), "baths": float(baths), "beds": float(beds),
             "year_built": float(draw.integers(1900, 2020)), "lot_sqft": float(draw.integers(2_000, 12_000)),
             "neighborhood": float(parcel % 2)},
        ))  # fmt: skip
    return sales_of(rows)


def plain(*pairs: tuple, monthly: float = 0.0) -> Constants:
    coefficients = tuple(Coefficient(term, value, Origin.MEASURED, 1.0) for term, value in pairs)
    return Constants(DAY, coefficients, monthly, Origin.MEASURED, SHIPPED_LIKENESS, 0.1, 500)


WORDS = ("poor", "fair", "average", "good", "excellent")
NAMES = {("condition", float(code)): word for code, word in enumerate(WORDS)}


class RecordedCondition(unittest.TestCase):
    """A worse recorded condition never makes a price higher, whatever few sales tell (common practice of assessors' scales)."""

    @staticmethod
    def sales(effects: dict[str, float], counts: dict[str, int]) -> Sales:
        """Return sales whose log price a condition changes by so much, so many of each."""
        table = random_sales(sum(counts.values()))
        codes = np.repeat([float(WORDS.index(word)) for word in counts], list(counts.values()))
        np.random.default_rng(3).shuffle(codes)
        change = np.array([effects.get(WORDS[int(code)], 0.0) for code in codes])
        return replace(table, price=table.price * np.exp(change), traits={**table.traits, "condition": codes})

    def values(self, table: Sales) -> list[float]:
        """Return what the same sale would have brought in each condition, the worst first."""
        constants = measure(table, DAY, NAMES)
        house = table.house(0)
        return [
            float(adjusted_values(table.take([0]), replace(house, traits={**house.traits, "condition": float(code)}), constants)[0][0])
            for code in range(len(WORDS))
        ]

    def test_what_is_not_measured_is_as_far_from_average_as_its_milder_neighbor(self) -> None:
        table = self.sales({"fair": -0.15, "good": 0.1, "poor": 0.3}, {"average": 500, "good": 150, "fair": 100, "poor": 6})
        poor, fair, average, good, excellent = self.values(table)
        self.assertEqual(poor, fair)
        self.assertEqual(excellent, good)
        self.assertLess(fair, 0.92 * average)
        self.assertGreater(good, 1.05 * average)
        found = {one.term.label: one for one in measure(table, DAY, NAMES).coefficients if one.term.trait == "condition"}
        self.assertEqual({label: str(one.origin) for label, one in found.items()}, {
            "condition poor": "as the next milder condition", "condition fair": "measured", "condition good": "measured",
            "condition excellent": "as the next milder condition",
        })  # fmt: skip
        self.assertEqual(found["condition poor"].value, found["condition fair"].value)
        by_hand = set_by_hand(measure(table, DAY, NAMES), {found["condition poor"].term.key: -0.4})
        self.assertIn(-0.4, [one.value for one in by_hand.coefficients])

    def test_sales_that_tell_the_wrong_order_tell_nothing(self) -> None:
        for effects in ({"fair": 0.2, "good": -0.2}, {"poor": 0.1, "fair": -0.1}, {}):
            with self.subTest(effects):
                values = self.values(self.sales(effects, {"average": 400, "good": 100, "fair": 100, "poor": 100}))
                self.assertEqual(values, sorted(values))

    def test_another_condition_is_the_commonest(self) -> None:
        values = self.values(self.sales({"average": -0.2, "fair": -0.1}, {"good": 400, "average": 100, "fair": 100}))
        self.assertEqual(values, sorted(values))
        self.assertEqual(values[0], values[2])

    def test_words_without_an_order_stay_kinds(self) -> None:
        table = self.sales({"fair": -0.15}, {"average": 300, "fair": 100})
        found = measure(table, DAY, {("condition", 1.0): "C4", ("condition", 2.0): "C3"}).coefficients
        self.assertEqual([one.term.label for one in found if one.term.trait == "condition"], ["condition C4"])


class Ages(unittest.TestCase):
    def test_a_house_is_as_old_as_on_the_day_of_the_sale(self) -> None:
        """Both houses age until today, and time has a term of its own: two of one year differ by nothing, four years by four."""
        constants = plain((AGES[2], -0.002))
        for built, here, years in ((1900, 1900, 0), (1900, 1896, 4), (1896, 1900, -4)):
            table = sales_of([sale(days=700, year_built=float(built))])
            (found,) = adjust(table, [0], replace(SUBJECT, traits={**HOUSE, "year_built": float(here)}), constants)
            with self.subTest(built=built, here=here):
                self.assertAlmostEqual(found.value, 240_000 * math.exp(-0.002 * years), places=6)
                self.assertAlmostEqual(
                    float(adjusted_values(table, replace(SUBJECT, traits={**HOUSE, "year_built": float(here)}), constants)[0][0]),
                    found.value,
                )


class Lines(unittest.TestCase):
    def test_read_as_they_are_written(self) -> None:
        for kind, rule in RULES.items():
            if kind is not LineKind.PRICE:
                line = PoolLine(
                    kind, 0.0 if rule.is_same else rule.usual, "Harbor blocks" if kind in (LineKind.INSIDE, LineKind.OUTSIDE) else ""
                )
                self.assertEqual(parse_line(str(line)), line)
            if rule.limits:
                limited = parse_line(f"{kind}: {rule.limits}")
                self.assertIsNotNone(limited.limits)
                self.assertEqual(parse_line(str(limited)), limited)
        self.assertEqual(parse_line("built: 20"), parse_line("Built:20 years"))
        self.assertEqual([line.kind for line in parse_lines("likest: 5; within: 1 mi\narea: 10 %")][-1], LineKind.LIKEST)

    def test_limits_as_people_say_them(self) -> None:
        """An end that is named is let in or not, as the words say; a year is no figure with a comma."""
        for text, kept, within, without in (
            ("area: under 1350", "area: under 1,350", (1_349, 1), (1_350, 1_351)),
            ("area: up to 1,350 sq ft", "area: at most 1,350", (1_350,), (1_351,)),
            ("built: before 1965", "built: before 1965", (1_964,), (1_965,)),
            ("built: 1950 to 1970", "built: 1950 to 1970", (1_950, 1_970), (1_949, 1_971)),
            ("lot: over 5000", "lot: over 5,000", (5_001,), (5_000,)),
            ("beds: 3 or more", "beds: at least 3", (3, 4), (2,)),
            ("price: 205k to 260k", "price: 205,000 to 260,000", (205_000, 260_000), (204_999, 260_001)),
            ("price: $205k-$260k", "price: 205,000 to 260,000", (230_000,), (1,)),
        ):
            with self.subTest(text):
                line = parse_line(text)
                self.assertEqual((str(line), parse_line(str(line))), (kept, line))
                self.assertEqual(
                    line.limits.hold(np.array([*within, *without, math.nan])).tolist(), [True] * len(within) + [False] * (len(without) + 1)
                )

    def test_a_limit_asks_nothing_of_the_subject(self) -> None:
        table = sales_of([sale(days=10, living_area=1_300.0), sale(days=10, living_area=1_400.0)])
        unknown = replace(SUBJECT, traits={})
        self.assertEqual(holds(parse_line("area: under 1350"), table, unknown).tolist(), [True, False])
        self.assertEqual(holds(parse_line("area: 20"), table, unknown).tolist(), [True, True])

    def test_what_is_no_limit_says_what_is(self) -> None:
        for text, said in (
            ("price: 205k", "write “price: 205k to 260k”"), ("price: cheap", "write “price: 205k to 260k”"),
            ("area: under much", "limits no living area"), ("lot: 9 to 3", "limits no lot"), ("area: big", "or “area: under 1,350”"),
            ("side: other", "can only be “same”"), ("stories: under 2", "can only be “same”"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(PoolError, said):
                parse_line(text)

    @given(st.text(st.characters(blacklist_categories=("Cs", "Cc", "Zl", "Zp", "Zs")), min_size=1, max_size=40))
    def test_any_name_of_an_area(self, name: str) -> None:
        lines = (PoolLine(LineKind.OUTSIDE, name=name), PoolLine(LineKind.INSIDE, name=f'x; "{name}"'), PoolLine(LineKind.LIKEST, 3))
        for text in ("; ".join(map(str, lines)), "\n".join(map(str, lines))):
            self.assertEqual(parse_lines(text), lines)

    def test_what_is_wrong_is_said(self) -> None:
        for text, said in (
            ("radius: 1 mi", "is no line of a pool"), ("within", "wants a value"), ("class: other", "only be “same”"),
            ("area: lots", "is not a number"), ("within: 0", "goes up to 100 mi"), ("closed: 731 days", "goes up to 730 days"),
            ("area: nan", "goes up to"), ("area: -1", "goes up to"), ("likest: 2.5", "goes up to"),
            ("within: 1 mi; within: 2 mi", "stands twice"),
        ):  # fmt: skip
            with self.assertRaisesRegex(PoolError, said):
                parse_lines(text)
        self.assertEqual(parse_lines(""), ())

    def test_bounds_are_let_in(self) -> None:
        table = sales_of([
            sale(parcel=1, living_area=960), sale(parcel=2, living_area=959), sale(parcel=3, living_area=1_440),
            sale(parcel=4, living_area=1_441),
            sale(parcel=5, living_area=None),
        ])  # fmt: skip
        self.assertEqual(table.parcel[holds(parse_line("area: 20 %"), table, SUBJECT)].tolist(), [1, 3])
        days = sales_of([sale(days=365, parcel=1), sale(days=366, parcel=2)])
        self.assertEqual(days.parcel[holds(parse_line("closed: 365 days"), days, SUBJECT)].tolist(), [1])
        miles = sales_of([sale(miles=0.999, parcel=1), sale(miles=1.001, parcel=2)])
        self.assertEqual(miles.parcel[holds(parse_line("within: 1 mi"), miles, SUBJECT)].tolist(), [1])
        beds = sales_of([sale(beds=2, parcel=1), sale(beds=4, parcel=2), sale(beds=1, parcel=3), sale(beds=5, parcel=4)])
        self.assertEqual(beds.parcel[holds(parse_line("beds: 1"), beds, SUBJECT)].tolist(), [1, 2])
        # Where the subject's own is unknown a line lets all in, and those of which it is unknown.
        unknown = replace(SUBJECT, traits={})
        self.assertTrue(holds(parse_line("area: 20 %"), table, unknown).all())
        self.assertEqual(bounds(parse_line("built: 5 years"), 1960), (1955, 1965))

    def test_a_pool_looks_back_24_months_and_not_at_the_subject_or_its_day(self) -> None:
        table = sales_of(
            [sale(days=0, parcel=1), sale(days=1, parcel=2), sale(days=730, parcel=3), sale(days=731, parcel=4), sale(parcel=5)]
        )
        self.assertEqual(sorted(candidates(table, SUBJECT, 5).parcel.tolist()), [2, 3])


class Pools(unittest.TestCase):
    LINES = parse_lines("within: 1.5 mi; closed: 300 days; class: same; area: 25 %; beds: 1; built: 40 years; likest: 6")

    def test_the_ledger_against_brute_force(self) -> None:
        table, constants = random_sales(600), plain((LIVING, 0.5), (BATHS, 0.04))
        subject = replace(SUBJECT, latitude=0.0)
        pool = narrow(table, subject, self.LINES, constants)
        masks = [holds(line, table, subject) for line in self.LINES[:-1]]
        every = [row for row in range(len(table)) if all(mask[row] for mask in masks)]
        left = len(table)
        for number, balance in enumerate(pool.balance[:-1]):
            now = sum(all(mask[row] for mask in masks[: number + 1]) for row in range(len(table)))
            others = [mask for place, mask in enumerate(masks) if place != number]
            without = sum(all(mask[row] for mask in others) for row in range(len(table)))
            self.assertEqual((balance.removed, balance.left, balance.gain), (left - now, now, without - len(every)))
            left = now
        self.assertEqual(len(pool), 6)
        self.assertEqual((pool.balance[-1].removed, pool.balance[-1].left), (len(every) - 6, 6))
        # The likest are those that count most.
        _, closeness = adjusted_values(table.take(np.array(every)), subject, constants)
        self.assertEqual(set(pool.rows.tolist()), {every[place] for place in np.argsort(-closeness)[:6]})

    def test_unknown_ones_are_told_apart(self) -> None:
        table = sales_of([sale(parcel=1), sale(parcel=2, beds=None), sale(parcel=3, beds=9)])
        balance = narrow(table, SUBJECT, parse_lines("beds: 1"), plain()).balance[0]
        self.assertEqual((balance.removed, balance.left, balance.unknown), (2, 1, 1))

    def test_widened_in_order_and_only_as_far_as_needed(self) -> None:
        lines = parse_lines("within: 1 mi; closed: 180 days; class: same; area: 20 %; baths: 0; beds: 0")
        near = [sale(days=10, parcel=1), sale(days=20, parcel=2)]
        self.assertEqual(widen(sales_of([*near, sale(days=30, parcel=3)]), SUBJECT, lines), (lines, ()))
        later, steps = widen(sales_of([*near, sale(days=300, parcel=3)]), SUBJECT, lines)
        self.assertEqual([str(line) for line in later][:2], ["within: 1 mi", "closed: 365 days"])
        self.assertEqual([step.count for step in steps], [3])
        # A year is the first step, two years the second; of more, sales are not read.
        year = parse_lines("closed: 365 days; class: same")
        later, _ = widen(sales_of([*near, sale(days=500, parcel=3)]), SUBJECT, year)
        self.assertEqual(str(later[0]), "closed: 730 days")
        _, steps = widen(sales_of(near), SUBJECT, parse_lines("closed: 730 days; class: same"))
        self.assertEqual([step.after for step in steps], [None])
        _, steps = widen(sales_of([*near, sale(miles=1.9, parcel=3)]), SUBJECT, lines)
        self.assertEqual([str(step.before) for step in steps], ["closed: 180 days", "within: 1 mi"])
        near_by = parse_lines("within: 0.25 mi; class: same")
        for miles, reached in ((0.45, ["within: 0.5 mi"]), (1.9, ["within: 0.5 mi", "within: 2 mi"])):
            _, steps = widen(sales_of([*near, sale(miles=miles, parcel=3)]), SUBJECT, near_by)
            self.assertEqual([step.after and str(step.after) for step in steps], reached)
        _, steps = widen(sales_of([*near, sale(living_area=1_550, parcel=3)]), SUBJECT, lines)
        self.assertEqual([str(step.after) for step in steps], ["closed: 365 days", "within: 2 mi", "area: 30 %"])
        _, steps = widen(sales_of([*near, sale(baths=1, parcel=3)]), SUBJECT, lines)
        self.assertEqual(steps[-1].after, None)
        _, steps = widen(sales_of([*near, sale(beds=4, parcel=3)]), SUBJECT, lines)
        self.assertEqual(str(steps[-1].after), "beds: 1")
        # Nothing is left to widen but the class, which stays: a shop is not told by houses.
        final, _ = widen(sales_of([]), SUBJECT, lines)
        self.assertEqual(final, (PoolLine(LineKind.CLASS),))

    def test_a_limit_is_never_widened(self) -> None:
        table = sales_of([sale(days=10, living_area=2_000.0) for _ in range(5)])
        lines = parse_lines("area: under 1350; likest: 12")
        self.assertEqual(widen(table, SUBJECT, lines), (lines, ()))

    def test_what_a_proposed_line_would_leave(self) -> None:
        table = sales_of([sale(days=10, living_area=float(area)) for area in (1_200, 1_300, 1_400, 1_500)])
        lines = parse_lines("area: 500; likest: 2")
        proposed = [parse_line("area: under 1350"), parse_line("beds: 1"), parse_line("likest: 3"), parse_line("side: same")]
        inside = {"": np.array([True, False, False, False])}
        self.assertEqual(effects_of(table, SUBJECT, lines, proposed, inside), [2, 4, 3, 1])

    def test_drawn_areas_are_never_widened(self) -> None:
        table = sales_of([sale(parcel=1), sale(parcel=2)])
        lines = parse_lines("outside: Marina")
        inside = {"Marina": np.array([True, False])}
        self.assertEqual(narrow(table, SUBJECT, lines, plain(), inside).rows.tolist(), [1])
        self.assertEqual(narrow(table, SUBJECT, parse_lines("inside: Marina"), plain(), inside).rows.tolist(), [0])
        self.assertEqual(widen(table, SUBJECT, lines, inside)[0], lines)


class Adjustments(unittest.TestCase):
    def test_by_hand(self) -> None:
        # 1,000 sq ft against 1,200 at half: × 1.2^0.5; one bath more at 4 %: × e^0.04; 60 days at 0.5 % a month.
        table = sales_of([sale(days=60, price=200_000, living_area=1_000, baths=1.0)])
        constants = plain((LIVING, 0.5), (BATHS, 0.04), monthly=0.005)
        (found,) = adjust(table, [0], SUBJECT, constants)
        months = 60 / (365.25 / 12)
        expected = 200_000 * math.exp(0.005 * months) * 1.2**0.5 * math.exp(0.04)
        self.assertAlmostEqual(found.value, expected, places=4)
        self.assertEqual([step.key for step in found.steps], ["time", "living-area", "baths"])
        self.assertAlmostEqual(found.price + sum(step.dollars for step in found.steps), found.value, places=6)
        self.assertAlmostEqual(found.steps[1].dollars, 200_000 * math.exp(0.005 * months) * (1.2**0.5 - 1), places=4)
        self.assertAlmostEqual(float(adjusted_values(table, SUBJECT, constants)[0][0]), expected, places=4)

    def test_a_share_of_the_square_foot_for_a_small_difference(self) -> None:
        # Common practice: half of $/sq ft for each square foot more. 200 $/sq ft, 10 sq ft more: 1,000 dollars.
        (found,) = adjust(sales_of([sale(price=240_000, living_area=1_190)]), [0], SUBJECT, shipped(DAY))
        self.assertAlmostEqual(found.dollars, 0.5 * 240_000 / 1_190 * 10, delta=10)

    def test_what_is_unknown_is_named_and_changes_nothing(self) -> None:
        (found,) = adjust(sales_of([sale(price=100_000, living_area=None, baths=None)]), [0], SUBJECT, plain((LIVING, 0.5), (BATHS, 0.1)))
        self.assertEqual((found.value, found.unknown, found.steps), (100_000, ("living area", "baths"), ()))
        # It counts less than one that is known to be alike.
        table = sales_of([sale(parcel=1), sale(parcel=2, baths=None)])
        _, closeness = adjusted_values(table, SUBJECT, plain((BATHS, 0.1)))
        self.assertGreater(closeness[0], closeness[1])

    def test_graded_conditions(self) -> None:
        table = sales_of([sale(parcel=1), sale(parcel=2)])
        graded = Graded("as-found", {0: "rebuilt"}, {"as-found": 0.0, "rebuilt": math.log(1.25)})
        first, second = adjust(table, [0, 1], SUBJECT, plain(), graded)
        self.assertAlmostEqual(first.value, 240_000 / 1.25)
        # One that nobody graded is not adjusted.
        self.assertEqual(second.value, 240_000)

    @deep(60)
    @given(st.floats(0.05, 1.5), st.floats(-0.2, 0.2), st.integers(400, 5_000), st.integers(400, 5_000))
    def test_there_and_back(self, share: float, bath: float, one: int, other: int) -> None:
        constants = plain((LIVING, share), (BATHS, bath))
        table = sales_of([sale(days=1, price=100_000, living_area=float(one), baths=3.0)])
        there = adjust(table, [0], replace(SUBJECT, traits={**HOUSE, "living_area": float(other)}), constants)[0].value
        back = sales_of([sale(days=1, price=there, living_area=float(other), baths=2.0)])
        again = adjust(back, [0], replace(SUBJECT, traits={**HOUSE, "living_area": float(one), "baths": 3.0}), constants)[0].value
        self.assertAlmostEqual(again, 100_000, delta=0.01)


class Ranges(unittest.TestCase):
    def test_by_hand(self) -> None:
        found = range_of([100.0, 110.0, 120.0], [0.0, 0.0, 0.0])
        assert found is not None
        self.assertEqual((found.count, found.low, found.median, found.high), (3, 100, 110, 120))
        self.assertAlmostEqual(found.value, 110)
        self.assertAlmostEqual(found.spread, 100 * 20 / 110)
        self.assertAlmostEqual(found.difference(99), -10)
        self.assertIsNone(range_of([], []))

    def test_the_likest_count_most_and_one_far_off_moves_little(self) -> None:
        prices = [100.0, 101.0, 102.0, 103.0, 104.0, 105.0, 900.0]
        even = range_of(prices, [0.0] * 7)
        assert even is not None
        self.assertAlmostEqual(even.value, 103)
        leaning = range_of(prices, [0.0, -0.2, -0.4, -0.6, -0.8, -1.0, -1.2])
        assert leaning is not None
        self.assertLess(leaning.value, 102.5)
        self.assertAlmostEqual(sum(leaning.shares), 1)
        self.assertEqual(sorted(leaning.shares, reverse=True), list(leaning.shares))
        # However far apart they lie, every comp counts for something.
        self.assertGreater(min(range_of(prices, [0.0] * 6 + [-9_000.0]).shares), 0)

    def test_at_least_four_comps_count_where_there_are_four(self) -> None:
        for count in range(1, 13):
            shares = np.array(range_of([1.0] * count, [-40.0 * place for place in range(count)]).shares)
            self.assertAlmostEqual(1 / (shares**2).sum(), min(4, count), places=4, msg=str(count))
        # What is flat enough stays as it is.
        flat = np.log([0.3, 0.25, 0.2, 0.15, 0.1])
        np.testing.assert_allclose(weights_of(flat), [0.3, 0.25, 0.2, 0.15, 0.1])

    @deep(60)
    @given(st.lists(st.tuples(st.floats(-5, 5), st.integers(1, 9)), min_size=1, max_size=9))
    def test_a_weighted_median_is_the_median_of_each_repeated_as_often_as_it_weighs(self, rows: list[tuple[float, int]]) -> None:
        values, counts = np.array([row[0] for row in rows]), np.array([row[1] for row in rows], dtype=float)
        found = float(weighted_median(values, counts / counts.sum()))
        self.assertTrue(values.min() - 1e-9 <= found <= values.max() + 1e-9)
        even = np.full(len(rows), 1 / len(rows))
        self.assertAlmostEqual(float(weighted_median(values, even)), float(np.median(values)))
        # Between the middles of two weights it follows the line through both (Edgeworth's weighted median, with interpolation).
        order = np.argsort(values, kind="stable")
        middles = np.cumsum(counts[order]) - counts[order] / 2
        self.assertAlmostEqual(found, float(np.interp(counts.sum() / 2, middles, values[order])))


class Doubts(unittest.TestCase):
    """What is said of a range of few comps, and of an after-repair value below the value as is."""

    def ranges(self, as_is: list[float], repaired: list[float]) -> tuple[Range | None, Range | None]:
        return range_of(as_is, [0.0] * len(as_is)), range_of(repaired, [0.0] * len(repaired))

    def test_fewer_than_three_comps_are_said(self) -> None:
        as_is, repaired = self.ranges([100.0] * 3, [120.0] * 2)
        self.assertEqual(doubts_about(as_is, repaired, is_repaired=False), ())
        self.assertEqual(doubts_about(as_is, repaired, is_repaired=True), ("Only 2 comps: fewer than 3 say little.",))
        self.assertEqual(doubts_about(None, range_of([5.0], [0.0]), is_repaired=True), ("Only 1 comp: fewer than 3 say little.",))
        self.assertEqual(doubts_about(None, None, is_repaired=True), ())

    def test_an_after_repair_value_below_as_is_is_a_conflict_in_both_sets(self) -> None:
        as_is, repaired = self.ranges([299_427.0] * 12, [238_796.0] * 3)
        for is_repaired in (True, False):
            self.assertEqual(doubts_about(as_is, repaired, is_repaired=is_repaired), (
                "The value after repair ($238,796 from 3 comps) is below the value as is ($299,427 from 12 comps). "
                    "Check the comps of both.",
            ))  # fmt: skip
        # The same value is none.
        self.assertEqual(doubts_about(*self.ranges([5.0] * 3, [5.0] * 3), is_repaired=True), ())


class Flattest(unittest.TestCase):
    """Sharp weights are taken only where past sales clearly ask for them."""

    def trial(self, miles: float, effective: float, losses: list[float], own: float = 0.1, plain_miss: float = 0.1) -> Trial:
        return Trial(Likeness(miles, 0.1), np.array(losses), effective, own, plain_miss)

    def test_one_standard_error_is_as_good_and_more_is_not(self) -> None:
        best = self.trial(0.25, 2, [0.0, 0.0, 0.0, 0.0])
        # Differences 0, 0, 2, 2: their mean is 1, their standard error 1.1547 / 2 = 0.577.
        worse = self.trial(4, 9, [0.0, 0.0, 2.0, 2.0])
        self.assertEqual(flattest([best, worse]).miles, 0.25)
        # Differences 0, 0, 0, 1: mean and standard error are both 0.25.
        as_good = self.trial(4, 9, [0.0, 0.0, 0.0, 1.0])
        self.assertEqual(flattest([best, as_good]).miles, 4)
        # Of those that are as good the one by which most comps count.
        self.assertEqual(flattest([best, self.trial(2, 8, [0.0] * 4), as_good]).miles, 4)

    def test_weights_that_lose_to_the_plain_median_are_out(self) -> None:
        sharp, flat = self.trial(0.25, 2, [0.0] * 4, own=0.1031), self.trial(1, 9, [1.0] * 4, own=0.103)
        self.assertEqual(flattest([sharp, flat]).miles, 1)
        # Where all lose, the flattest is closest to that median.
        self.assertEqual(flattest([sharp, self.trial(1, 9, [1.0] * 4, own=0.2)]).miles, 1)

    def test_without_past_sales_enough_the_shipped_one_stands(self) -> None:
        few = random_sales(ENOUGH)
        left, parts = np.zeros(len(few)), np.zeros((len(few), 1))
        self.assertEqual(measure_likeness(few.take(slice(0, 40)), left[:40], parts[:40]), SHIPPED_LIKENESS)
        self.assertEqual(measure_likeness(few, left, parts).origin, Origin.MEASURED)

    def test_an_unplaced_comp_counts_like_one_a_mile_away(self) -> None:
        likeness = Likeness(0.5, 0.1)
        one, other = likeness.closeness(np.array([np.nan, 1.0]), np.zeros(2), np.zeros(2))
        self.assertEqual(one, other)
        self.assertAlmostEqual(one, -2)


class Repaired(unittest.TestCase):
    def test_the_condition_on_record_does_not_change_what_was_sold_after_repair(self) -> None:
        condition = kind_term("condition", 1, "poor")
        constants = plain((LIVING, 0.5), (condition, -0.4))
        poor = replace(SUBJECT, traits={**HOUSE, "condition": 1.0})
        table = sales_of([sale(condition=4.0, living_area=1_000.0)])
        as_is, repaired = (adjust(table, [0], poor, by)[0] for by in (constants, constants.of_repaired))
        self.assertEqual([step.key for step in as_is.steps], ["living-area", "condition-1"])
        self.assertEqual([step.key for step in repaired.steps], ["living-area"])
        self.assertGreater(repaired.value, as_is.value)
        self.assertGreater(repaired.closeness, as_is.closeness)


class Measured(unittest.TestCase):
    def test_what_went_in_comes_out(self) -> None:
        found = measure(random_sales(900), DAY)
        values = {one.term.key: one.value for one in found.coefficients}
        self.assertAlmostEqual(values["living-area"], 0.6, delta=0.03)
        self.assertAlmostEqual(values["baths"], 0.05, delta=0.01)
        self.assertAlmostEqual(values["beds"], 0, delta=0.01)
        self.assertAlmostEqual(found.monthly, 0.004, delta=0.001)
        self.assertAlmostEqual(found.noise, 0.05, delta=0.01)

    def test_against_least_squares(self) -> None:
        # With many sales and little noise, held small and weighed or not, the coefficients are those of numpy's least squares.
        table = random_sales(2_000, seed=3)
        found = {one.term.key: one.value for one in measure(table, DAY).coefficients}
        columns = [one.term.of_sales(table) for one in measure(table, DAY).coefficients]
        design = np.column_stack([np.ones(len(table)), *columns, -table.months_before(DAY)])
        straight, *_ = np.linalg.lstsq(design, np.log(table.price), rcond=None)
        for key, value in zip(found, straight[1:], strict=False):
            self.assertAlmostEqual(found[key], value, delta=0.01, msg=key)

    def test_too_few_sales(self) -> None:
        self.assertFalse(measure(random_sales(ENOUGH - 1), DAY).is_measured)
        for count in (ENOUGH, ENOUGH + 50):
            self.assertTrue(measure(random_sales(count), DAY).is_measured)
        fallback = measure(random_sales(5), DAY, yearly_growth=6.0)
        self.assertEqual([(one.term.key, one.value) for one in fallback.coefficients], [("living-area", 0.5)])
        self.assertAlmostEqual(math.exp(12 * fallback.monthly), 1.06)
        self.assertEqual(measure(sales_of([]), DAY).monthly, 0)

    def test_set_by_hand(self) -> None:
        found = set_by_hand(plain((LIVING, 0.6)), {"living-area": 0.4, "beds": 0.02, "time": 0.01}, OF_HOUSES)
        told = {one.term.key: (one.value, one.origin) for one in found.coefficients}
        self.assertEqual(told, {"living-area": (0.4, Origin.BY_HAND), "beds": (0.02, Origin.BY_HAND)})
        self.assertEqual((found.monthly, found.time_origin), (0.01, Origin.BY_HAND))
        self.assertEqual(set_by_hand(plain((LIVING, 0.6)), {}, OF_HOUSES), plain((LIVING, 0.6)))

    def test_land_is_told_by_its_lot(self) -> None:
        draw = np.random.default_rng(2)
        rows = []
        for parcel in range(200):
            lot = float(draw.integers(4_000, 400_000))
            rows.append((parcel, DAY - timedelta(int(draw.integers(1, 700))), 30 * lot**0.7, -88.0, 0.0, {"lot_sqft": lot}))
        found = {one.term.key: one.value for one in measure(sales_of(rows), DAY, is_land=True).coefficients}
        self.assertAlmostEqual(found[LOT.key], 0.7, delta=0.02)


class Trusted(unittest.TestCase):
    LINES = parse_lines("within: 5 mi; closed: 730 days; area: 30 %; likest: 12")

    def test_the_method_told_noisy_prices_better_than_a_median(self) -> None:
        table = random_sales(500)
        rows = [row for row in table if table.day[row] > DAY.toordinal() - 200]
        trust = back_test(table, rows, self.LINES, lambda day: measure(table, day))
        assert trust.method is not None
        self.assertEqual((trust.method.way, trust.sales), (METHOD, len(rows)))
        # Prices vary by 5 % of themselves; half of such misses lie within 0.67 of that, plus what the comps' own noise adds.
        self.assertLess(trust.method.median, 6)
        self.assertLess(trust.method.median, trust.steps[0].median / 2)

    def test_withheld_of_few(self) -> None:
        table = random_sales(300)
        last = list(table)[-ENOUGH_TO_TRUST:]
        self.assertIsNotNone(back_test(table, last, self.LINES, lambda day: measure(table, day)).method)
        self.assertIsNone(back_test(table, last[1:], self.LINES, lambda day: measure(table, day)).method)
        self.assertIsNone(back_test(table, [], self.LINES, lambda day: measure(table, day)).method)

    @deep(20)
    @given(st.lists(st.tuples(st.integers(0, 300), st.floats(1_000, 5_000_000), st.integers(300, 5_000)), min_size=1, max_size=30))
    def test_later_sales_change_nothing(self, later: list[tuple[int, float, int]]) -> None:
        table = random_sales(260)
        row = len(table) - 100
        day = date.fromordinal(int(table.day[row]))
        added = [(900 + number, day + timedelta(ahead), price, -88.0, 0.0, {**HOUSE, "living_area": float(area)})
                 for number, (ahead, price, area) in enumerate(later)]  # fmt: skip
        rows = []
        for one in table:
            house = table.house(one)
            rows.append((int(table.parcel[one]), house.day, float(table.price[one]), house.longitude, house.latitude, house.traits))
        more = sales_of([*rows, *added])
        same = int(np.flatnonzero((more.parcel == table.parcel[row]) & (more.day == table.day[row]))[0])
        before = back_test(table, [row], self.LINES, lambda on: measure(table, on))
        after = back_test(more, [same], self.LINES, lambda on: measure(more, on))
        self.assertEqual(before, after)


class Warnings(unittest.TestCase):
    def test_each_and_only_it(self) -> None:
        roads = {1.0: "Local", 2.0: "Minor Arterial"}
        subject = House(DAY, traits={**HOUSE, "waterfront": 0.0, "road_class": 1.0, "condition": 5.0})
        none = Circumstances()
        like = House(DAY - timedelta(OLD), traits=dict(subject.traits))
        cases = [
            (like, none, []),
            (replace(like, day=DAY - timedelta(OLD + 1)), none, [Warned.OLD]),
            (replace(like, traits={**like.traits, "living_area": 1_500.0}), none, [Warned.SIZE_STEP]),
            (replace(like, traits={**like.traits, "living_area": 1_499.0}), none, []),
            (replace(like, traits={**like.traits, "road_class": 2.0}), none, [Warned.BUSIER]),
            (replace(like, traits={**like.traits, "road_class": 9.0}), none, []),
            (replace(like, traits={**like.traits, "waterfront": 1.0}), none, [Warned.ON_WATER]),
            (replace(like, traits={**like.traits, "stories": 2.0}), none, [Warned.STORIES]),
            (replace(like, traits={**like.traits, "condition": 6.0}), none, [Warned.CONDITION]),
            (replace(like, traits={}), none, []),
            (like, Circumstances(barriers=("Rail", "Creek")), [Warned.BARRIER, Warned.BARRIER]),
            (like, Circumstances(distress="short sale"), [Warned.DISTRESSED]),
            (like, Circumstances(bought_for=100_000.0), [Warned.RESALE]),
            (like, Circumstances(grade="rebuilt"), [Warned.CONDITION]),
            (like, Circumstances(grade="as-found"), []),
        ]
        # What sold after repair is in another condition on purpose.
        other = replace(like, traits={**like.traits, "condition": 6.0})
        self.assertEqual(warnings_of(subject, other, none, subject_grade="as-found", is_repaired=True), [])
        for comp, about, expected in cases:
            found = warnings_of(subject, comp, about, size_step=1_500.0, roads=roads, subject_grade="as-found")
            self.assertEqual([one.what for one in found], expected)
        busy = replace(subject, traits={**subject.traits, "road_class": 2.0, "waterfront": 1.0})
        self.assertEqual([one.what for one in warnings_of(busy, like, none, roads=roads)], [Warned.QUIETER, Warned.OFF_WATER])
        self.assertEqual([road_rank(text) for text in ("Interstate highway", "Major Collector", "alley")], [3, 1, None])


class SizeSteps(unittest.TestCase):
    def prices(self, drop: float, count: int = 200, at: float = 1_600, seed: int = 4):
        draw = np.random.default_rng(seed)
        areas = draw.uniform(800, 2_600, count)
        return areas, np.exp(6 - 0.1 * np.log(areas) + draw.normal(0, 0.08, count)) * np.where(areas > at, 1 - drop, 1)

    def test_found_where_it_was_put(self) -> None:
        self.assertAlmostEqual(size_step(*self.prices(0.2)), 1_600, delta=30)

    def test_none_where_price_falls_steadily(self) -> None:
        found = [size_step(*self.prices(0, seed=seed)) for seed in range(100)]
        self.assertLessEqual(sum(one is not None for one in found), 5)
        self.assertIsNone(size_step(*self.prices(0.2, count=39)))
        self.assertIsNotNone(size_step(*self.prices(0.3, count=40)))
        self.assertIsNone(size_step(np.full(60, 1_000.0), np.full(60, 200.0)))

    def test_against_every_split(self) -> None:
        areas, prices = self.prices(0.15, count=60)
        order = np.argsort(areas)
        sizes, logs = areas[order], np.log(prices[order])
        best = None
        for cut in range(9, 52):
            design = np.column_stack([np.ones(60), np.log(sizes), np.arange(60) >= cut])
            left = logs - design @ np.linalg.lstsq(design, logs, rcond=None)[0]
            best = min(best or (np.inf, 0), (float(left @ left), cut))
        self.assertAlmostEqual(size_step(areas, prices), (sizes[best[1] - 1] + sizes[best[1]]) / 2, delta=5.01)


class Places(unittest.TestCase):
    def test_distances_of_a_thousand_feet(self) -> None:
        # A minute of latitude is a nautical mile, 1,852 m (NIST Special Publication 811, table 8), within the earth's flattening.
        table = sales_of([(1, DAY - timedelta(1), 1.0, -88.0, 45.0 + 1 / 60, {})])
        self.assertAlmostEqual(float(table.meters_from(House(DAY, -88.0, 45.0))[0]), 1_852, delta=8)
        self.assertTrue(np.isnan(table.meters_from(House(DAY))[0]))
        ordered = sales_of([sale(days=days, parcel=days) for days in (5, 300, 20)])
        self.assertTrue(all(one <= other for one, other in combinations(ordered.day.tolist(), 2)))
        self.assertEqual(BEDS.text_of(-0.042), "−4.1 % each")


if __name__ == "__main__":
    unittest.main()
