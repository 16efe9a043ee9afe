"""Overlap of lists against Python's sets, and whether a property has passed on."""

from __future__ import annotations

from collections import Counter
from datetime import date
from itertools import combinations
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.criteria.text import format
from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.stacking.changes_since import SinceAdded, StateNow, StateThen, changes_since
from jaded_ledger.core.stacking.combining import ways
from jaded_ledger.core.stacking.overlap import Counting, Order, combinations_of, in_order, on_at_least, pairs_of, sizes_of
from jaded_ledger.core.title.passing import Held, Passed, has_passed

SETS = st.lists(st.sets(st.integers(0, 30)), min_size=1, max_size=6)


def masks(sets: list[set[int]]) -> Counter[int]:
    return Counter(sum(1 << place for place, one in enumerate(sets) if item in one) for item in set().union(*sets))


class Overlap(TestCase):
    @given(SETS)
    def test_exactly_and_at_least(self, sets: list[set[int]]) -> None:
        every = set().union(*sets)
        for counting in Counting:
            found = {combination.lists: combination.count for combination in combinations_of(masks(sets), len(sets), counting)}
            for size in range(1, len(sets) + 1):
                for chosen in combinations(range(len(sets)), size):
                    wanted = set.intersection(*(sets[place] for place in chosen))
                    if counting is Counting.EXACTLY:
                        wanted -= set().union(*(sets[place] for place in range(len(sets)) if place not in chosen))
                    self.assertEqual(found.get(chosen, 0), len(wanted), (chosen, counting))
        self.assertEqual(sum(combination.count for combination in combinations_of(masks(sets), len(sets), Counting.EXACTLY)), len(every))

    @given(SETS)
    def test_sizes_pairs_and_depth(self, sets: list[set[int]]) -> None:
        counts = masks(sets)
        self.assertEqual(list(sizes_of(counts, len(sets))), [len(one) for one in sets])
        for pair in pairs_of(counts, len(sets)):
            one, other = sets[pair.one], sets[pair.other]
            self.assertEqual(pair.shared, len(one & other))
            smaller = min(len(one), len(other))
            self.assertEqual(pair.share, round(100 * len(one & other) / smaller, 1) if smaller else 0.0)
        self.assertEqual(on_at_least(counts, 3), sum(sum(item in one for one in sets) >= 3 for item in set().union(*sets)))

    def test_order(self) -> None:
        found = combinations_of({0b001: 5, 0b010: 9, 0b111: 1, 0b011: 2}, 3, Counting.EXACTLY)
        self.assertEqual([one.count for one in in_order(found, Order.SIZE)], [9, 5, 2, 1])
        self.assertEqual([one.count for one in in_order(found, Order.LISTS)], [1, 2, 9, 5])


class PassedOn(TestCase):
    def test_worked_cases(self) -> None:
        added = date(2025, 6, 1)
        ostrom = Held(1, ("ostrom",), date(2001, 5, 1))
        for why, then, now, wanted in (
            ("sold since", ostrom, Held(2, ("kelm",), date(2026, 2, 1)), Passed.DEED),
            ("lost to the lender since", ostrom, Held(3, ("first", "beacon"), date(2025, 9, 9)), Passed.DEED),
            ("into the family's trust: ownership goes on", ostrom, Held(4, ("ostrom",), date(2001, 5, 1)), None),
            ("moved: the same name", ostrom, ostrom, None),
            ("spelt otherwise", ostrom, Held(5, ("ostrom",), date(2001, 5, 1)), None),
            ("an older deed came to light", ostrom, Held(1, ("ostrom",), date(1999, 1, 1)), None),
            ("no deed then, one since, to strangers", Held(1, ("ostrom",), None), Held(2, ("kelm",), date(2026, 2, 1)), Passed.DEED),
            ("no deed then, the first on record is the family's", Held(1, ("ostrom",), None), Held(4, ("ostrom",), date(2026, 2, 1)), None),
            ("no deed then, an older one taken in since", Held(1, ("ostrom",), None), Held(1, ("ostrom",), date(1999, 2, 1)), None),
            ("no deeds at all, another name on the roll", Held(1, ("ostrom",), None), Held(2, ("kelm",), None), Passed.NAME),
            ("no deeds, no name then", Held(None, (), None), Held(2, ("kelm",), None), None),
            ("nothing known now", ostrom, Held(None, (), None), None),
        ):
            with self.subTest(why):
                self.assertEqual(has_passed(then, now, added), wanted)


class Together(TestCase):
    def test_three_lists(self) -> None:
        found = {way.key: way for way in ways(["A", "B", "C"], with_stale=True)}
        self.assertEqual({key: way.mask for key, way in found.items()}, {"any": None, "all": 7, "only-0": 1, "only-1": 2, "only-2": 4})
        for key, text in (
            ("any", 'on-list: any of "A", "B", "C"'), ("all", 'lists-held: all of "A", "B", "C"'),
            ("only-0", 'lists-held: any of "A"; none of "B", "C"'), ("only-1", 'lists-held: any of "B"; none of "A", "C"'),
            ("only-2", 'lists-held: any of "C"; none of "A", "B"'),
        ):  # fmt: skip
            self.assertEqual(format(found[key].search).partition(":")[2], text.partition(":")[2], key)
        exactly = {1: 5, 3: 7, 7: 2}
        self.assertEqual([found[key].count(exactly) for key in ("any", "all", "only-0", "only-1")], [14, 2, 5, 0])

    def test_paid_up_to_the_dollar(self) -> None:
        for due, now, has_paid in ((1, 0, True), (0, 0, False), (None, 0, False), (900, 1, False), (900, None, False)):
            then = StateThen(date(2026, 1, 1), None, due, OwnerKind.INDIVIDUAL)
            since = list(changes_since(then, StateNow(None, None, now, OwnerKind.INDIVIDUAL, None)))
            self.assertEqual(since, [SinceAdded.PAID_UP] if has_paid else [], (due, now))

    def test_off_the_market_since_it_was_added(self) -> None:
        day = date(2026, 1, 1)
        for then_status, since, came in (
            (StandardStatus.ACTIVE, day, True), (None, day, False), (None, date(2026, 1, 2), True), (None, date(2025, 12, 31), False),
            (None, None, False),
        ):  # fmt: skip
            then = StateThen(day, then_status, None, OwnerKind.INDIVIDUAL)
            found = list(changes_since(then, StateNow(StandardStatus.EXPIRED, since, None, OwnerKind.INDIVIDUAL, None)))
            self.assertEqual(found, [SinceAdded.OFF_MARKET] if came else [], (then_status, since))

    def test_what_came_on_the_day_itself_was_known(self) -> None:
        then = StateThen(date(2026, 1, 1), None, None, OwnerKind.INDIVIDUAL)
        for day, came in ((date(2026, 1, 1), []), (date(2026, 1, 2), [SinceAdded.DIED])):
            self.assertEqual(list(changes_since(then, StateNow(None, None, None, OwnerKind.INDIVIDUAL, day))), came)
