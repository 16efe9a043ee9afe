"""Rhythms and news, by their boundaries and against a comparison of whole states."""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.watching.news import News, NewsKind, Stay, news_between
from jaded_ledger.core.watching.rhythms import Rhythm, Schedule, Times, proposed

CHICAGO = Times(6, "America/Chicago")
MONDAY = date(2026, 11, 23)


def at(day: date, hour: int, minute: int = 0, zone: str = "America/Chicago") -> datetime:
    return datetime(day.year, day.month, day.day, hour, minute, tzinfo=ZoneInfo(zone))


class Due(unittest.TestCase):
    def test_each_morning_from_its_hour_on(self) -> None:
        schedule, before = Schedule(Rhythm.MORNING), at(MONDAY, 6)
        tuesday = MONDAY + timedelta(1)
        self.assertFalse(schedule.is_due(CHICAGO, before, at(tuesday, 5, 59)))
        self.assertTrue(schedule.is_due(CHICAGO, before, at(tuesday, 6)))
        # Told at the very moment, it is not due again; after days off it is, once.
        self.assertFalse(schedule.is_due(CHICAGO, at(tuesday, 6), at(tuesday, 23)))
        self.assertTrue(schedule.is_due(CHICAGO, at(MONDAY, 5, 59), at(MONDAY + timedelta(9), 12)))

    def test_the_hour_is_the_teams_own(self) -> None:
        """Common practice: six in Chicago is noon in UTC in winter, eleven in summer."""
        for day, noon in ((date(2026, 1, 15), 12), (date(2026, 7, 15), 11)):
            due = Schedule(Rhythm.MORNING).last_due(CHICAGO, at(day, 23))
            self.assertEqual(due.astimezone(UTC), datetime(day.year, day.month, day.day, noon, tzinfo=UTC))

    def test_weekly_on_its_days(self) -> None:
        schedule = Schedule(Rhythm.WEEKLY, (1, 4))
        thursday = MONDAY + timedelta(3)
        self.assertFalse(schedule.is_due(CHICAGO, at(MONDAY, 6), at(thursday, 5, 59)))
        self.assertTrue(schedule.is_due(CHICAGO, at(MONDAY, 6), at(thursday, 6)))
        self.assertEqual(schedule.last_due(CHICAGO, at(MONDAY, 5)), at(thursday - timedelta(7), 6))
        once = Schedule(Rhythm.WEEKLY, (1,))
        self.assertEqual(once.last_due(CHICAGO, at(MONDAY, 5, 59)), at(MONDAY - timedelta(7), 6))
        self.assertIsNone(Schedule(Rhythm.WEEKLY).last_due(CHICAGO, at(MONDAY, 6)))

    def test_at_once_is_at_most_once_an_hour(self) -> None:
        told, schedule = at(MONDAY, 9), Schedule(Rhythm.AT_ONCE)
        an_hour = timedelta(hours=1)
        self.assertTrue(schedule.is_due(CHICAGO, told, told + an_hour))
        self.assertTrue(schedule.is_due(CHICAGO, told, told + 30 * an_hour))
        self.assertFalse(schedule.is_due(CHICAGO, told, told + an_hour - timedelta(seconds=1)))


class Proposed(unittest.TestCase):
    def test_by_its_own_past(self) -> None:
        few = [0] * 30
        few[3], few[20] = 4, 2
        for new, rhythm, is_too_wide in (
            ([0] * 30, Rhythm.AT_ONCE, False),
            # New in two weeks of four: that is not most weeks without.
            (few, Rhythm.MORNING, False),
            ([0] * 22 + [40] + [0] * 7, Rhythm.AT_ONCE, False),
            ([5] * 30, Rhythm.MORNING, False),
            ([5] * 29 + [6], Rhythm.WEEKLY, True),
            ([30] * 30, Rhythm.WEEKLY, True),
            ([0], Rhythm.MORNING, False),
            ([], Rhythm.MORNING, False),
            ([100] * 30 + [1] * 30, Rhythm.MORNING, False),
        ):
            with self.subTest(new):
                told = proposed(new)
                self.assertEqual((told.rhythm, told.is_too_wide), (rhythm, is_too_wide))


START = datetime(2026, 11, 1, 6, tzinfo=UTC)


def hour(number: int) -> datetime:
    return START + timedelta(hours=number)


ALL = ("status", "list-price")


class NewsOfOne(unittest.TestCase):
    def told(self, *stays: Stay, since: int = 0, until: int = 10, traits: tuple[str, ...] = ALL) -> str | None:
        found = news_between(stays, hour(since), hour(until), traits)
        return found.kind.value if found else None

    def test_new_and_gone_by_the_moment_itself(self) -> None:
        self.assertEqual(self.told(Stay(hour(1), None, {})), "new")
        # What came at the very moment up to which was read is read; what came at the last moment is told.
        self.assertIsNone(self.told(Stay(hour(0), None, {})))
        self.assertEqual(self.told(Stay(hour(10), None, {})), "new")
        self.assertIsNone(self.told(Stay(hour(11), None, {})))
        self.assertEqual(self.told(Stay(hour(-5), hour(10), {})), "gone")
        self.assertIsNone(self.told(Stay(hour(-5), hour(11), {})))
        self.assertIsNone(self.told(Stay(hour(-5), hour(0), {})))
        self.assertIsNone(self.told(Stay(hour(2), hour(5), {})))

    def test_what_an_edit_brings_and_takes_is_no_news(self) -> None:
        self.assertIsNone(self.told(Stay(hour(1), None, {}, by_edit=True)))
        self.assertIsNone(self.told(Stay(hour(-1), hour(3), {}, left_by_edit=True)))

    def test_back(self) -> None:
        self.assertEqual(self.told(Stay(hour(-9), hour(-5), {}), Stay(hour(2), None, {})), "back")
        self.assertEqual(self.told(Stay(hour(-9), hour(-5), {}, left_by_edit=True), Stay(hour(2), None, {})), "new")
        # Gone and back between two mornings is nothing, unless something else changed.
        self.assertIsNone(self.told(Stay(hour(-9), hour(3), {}), Stay(hour(5), None, {})))
        cheaper = Stay(hour(5), None, {"list-price": 90})
        self.assertEqual(self.told(Stay(hour(-9), hour(3), {"list-price": 100}), cheaper), "cheaper")
        pending, active = {"status": "pending"}, {"status": "active"}
        self.assertEqual(self.told(Stay(hour(-9), None, active, ((hour(4), pending),))), "back")

    def test_changed_by_what_is_watched(self) -> None:
        for before, after, told in (
            ({"list-price": 100}, {"list-price": 99}, "cheaper"),
            ({"list-price": 100}, {"list-price": 101}, "changed"),
            ({"list-price": 100}, {}, "changed"),
            ({}, {"list-price": 100}, "changed"),
            ({"status": "active"}, {"status": "pending"}, "changed"),
            ({"owner-name": "A"}, {"owner-name": "B"}, None),
        ):
            with self.subTest(before=before, after=after):
                self.assertEqual(self.told(Stay(hour(-9), None, after, ((hour(4), before),))), told)
        stay = Stay(hour(-9), None, {"list-price": 90}, ((hour(4), {"list-price": 100}),))
        self.assertIsNone(self.told(stay, traits=("status",)))
        self.assertIsNone(self.told(stay, since=4))
        self.assertEqual(self.told(stay, until=4), "cheaper")
        self.assertIsNone(self.told(stay, until=3))
        # Up and down again is nothing.
        there_and_back = Stay(hour(-9), None, {"list-price": 100}, ((hour(2), {"list-price": 100}), (hour(4), {"list-price": 120})))
        self.assertIsNone(self.told(there_and_back))
        self.assertEqual(self.told(there_and_back, until=3), "changed")


class WhenAndWhat(unittest.TestCase):
    """What is told beside the kind: the moment, which stay, and what was watched before and after."""

    def news(self, *stays: Stay, since: int = 0, until: int = 10, traits: tuple[str, ...] = ALL) -> News:
        found = news_between(stays, hour(since), hour(until), traits)
        assert found is not None
        return found

    def test_the_latest_change_that_was_not_read(self) -> None:
        prices = [{"list-price": price} for price in (130, 120, 110)]
        stay = Stay(hour(-9), None, {"list-price": 100}, tuple(zip(map(hour, (2, 4, 6)), prices, strict=True)))
        for since, until, at, before, after in ((0, 10, 6, 130, 100), (0, 4, 4, 130, 110), (2, 4, 4, 120, 110), (4, 5, None, None, None)):
            with self.subTest(since=since, until=until):
                if at is None:
                    self.assertIsNone(news_between([stay], hour(since), hour(until), ALL))
                    continue
                found = self.news(stay, since=since, until=until)
                self.assertEqual((found.at, found.before, found.after), (hour(at), {"list-price": before}, {"list-price": after}))
        # What is watched anew since it came back is told of the moment at which it came.
        back = Stay(hour(5), None, {"list-price": 90})
        self.assertEqual(self.news(Stay(hour(-9), hour(3), {"list-price": 100}), back).at, hour(5))

    def test_back_is_told_of_the_stay_before_the_last(self) -> None:
        first = Stay(hour(-9), hour(-7), {"list-price": 1})
        third = Stay(hour(-6), hour(-2), {"list-price": 3})
        now = Stay(hour(2), None, {"list-price": 4})
        found = self.news(first, Stay(hour(-5), hour(-3), {"list-price": 2}, left_by_edit=True), now)
        self.assertEqual(
            (found.kind, found.at, found.stay, found.before, found.after), (NewsKind.BACK, hour(2), now, {"list-price": 1}, now.watched)
        )
        self.assertEqual(self.news(first, third, now).before, {"list-price": 3})
        at_once = Stay(hour(1), hour(2), {"list-price": 5})
        self.assertEqual(self.news(at_once, now).kind, NewsKind.BACK)
        self.assertEqual(self.news(replace(at_once, left_at=hour(3)), now).kind, NewsKind.NEW)
        self.assertEqual(self.news(now).before, {})

    def test_gone_is_told_of_the_last_stay(self) -> None:
        first, last = Stay(hour(-9), hour(3), {"list-price": 1}), Stay(hour(5), hour(8), {"list-price": 2})
        found = self.news(first, last)
        self.assertEqual(
            (found.kind, found.at, found.stay, found.before, found.after),
            (NewsKind.GONE, hour(8), last, {"list-price": 1}, {"list-price": 2}),
        )
        self.assertEqual(self.news(first, last, until=4).at, hour(3))

    def test_back_on_the_market_only_from_off_it_and_where_it_is_watched(self) -> None:
        for was, now, traits, kind in (
            ("pending", "active", ALL, NewsKind.BACK),
            ("pending", "coming-soon", ALL, NewsKind.BACK),
            ("active", "coming-soon", ALL, NewsKind.CHANGED),
            ("pending", "closed", ALL, NewsKind.CHANGED),
            ("", "active", ALL, NewsKind.CHANGED),
        ):
            with self.subTest(was=was, now=now):
                self.assertIs(self.news(Stay(hour(-9), None, {"status": now}, ((hour(4), {"status": was}),)), traits=traits).kind, kind)
        both = Stay(hour(-9), None, {"status": "active", "list-price": 90}, ((hour(4), {"status": "pending", "list-price": 100}),))
        self.assertIs(self.news(both).kind, NewsKind.BACK)
        self.assertIs(self.news(both, traits=("list-price",)).kind, NewsKind.CHEAPER)
        self.assertIs(self.news(both, traits=("status",)).kind, NewsKind.BACK)

    def test_which_traits_differ(self) -> None:
        stay = Stay(hour(-9), None, {"list-price": 90, "status": "active"}, ((hour(4), {"list-price": 100, "status": "active"}),))
        self.assertEqual(self.news(stay).differs(ALL), ["list-price"])
        self.assertEqual(self.news(Stay(hour(2), None, {"list-price": 90})).differs(ALL), [])
        self.assertEqual(self.news(Stay(hour(-2), hour(2), {"list-price": 90})).differs(ALL), [])


STATES = st.lists(st.one_of(st.none(), st.sampled_from([{"list-price": 90}, {"list-price": 100}, {}])), min_size=3, max_size=12)


def stays_of(states: list[dict[str, int] | None]) -> list[Stay]:
    """Return the stays of a parcel that matched, hour by hour, with what is watched of it; None where it did not match."""
    stays: list[Stay] = []
    here: Stay | None = None
    for number, state in enumerate(states):
        if here and state is None:
            stays[-1] = Stay(here.entered_at, hour(number), here.watched, here.changes)
            here = None
        elif here and state is not None and state != here.watched:
            here = stays[-1] = Stay(here.entered_at, None, state, (*here.changes, (hour(number), here.watched)))
        elif not here and state is not None:
            here = Stay(hour(number), None, state)
            stays.append(here)
    return stays


class AgainstWholeStates(unittest.TestCase):
    @given(STATES, st.data())
    def test_the_state_then_and_the_state_now(self, states: list[dict[str, int] | None], data: st.DataObject) -> None:
        since = data.draw(st.integers(0, len(states) - 2))
        until = data.draw(st.integers(since + 1, len(states) - 1))
        told = news_between(stays_of(states), hour(since), hour(until), ("list-price",))
        before, now = states[since], states[until]
        if before is None and now is None:
            self.assertIsNone(told)
        elif before is None:
            self.assertEqual(
                told.kind,
                NewsKind.BACK if any(one is not None for one in states[:since]) or self.came_twice(states[since:until]) else NewsKind.NEW,
            )
        elif now is None:
            self.assertIs(told.kind, NewsKind.GONE)
        elif before == now:
            self.assertIsNone(told)
        else:
            is_cheaper = before.get("list-price") == 100 and now.get("list-price") == 90
            self.assertIs(told.kind, NewsKind.CHEAPER if is_cheaper else NewsKind.CHANGED)
            self.assertEqual((dict(told.before), dict(told.after)), (before, now))

    @staticmethod
    def came_twice(states: list[dict[str, int] | None]) -> bool:
        """Whether it came and left before it came at last."""
        matched = [one is not None for one in states]
        return any(here and not then for here, then in pairwise(matched))
