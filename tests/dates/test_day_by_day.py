"""The program on days unlike others: a leap day, a year's end, the changes of the clock; or on those that ``bin/dates`` is given."""

from __future__ import annotations

import os
import unittest
from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from unittest import mock
from zoneinfo import ZoneInfo

from django.test import SimpleTestCase, override_settings
from django.urls import reverse

from jaded_ledger.accounts.audit import AuditFilter
from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.balance import balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.records.clock import today
from jaded_ledger.records.derivation import derive, let_time_pass
from jaded_ledger.records.models import Parcel, ParcelFacts, World
from jaded_ledger.searches.starters import STARTERS
from tests.support.clock import machine_at
from tests.support.demo import DemoTestCase
from tests.support.hours import HOURS
from tests.support.tiers import thorough

DAYS = [date.fromisoformat(day) for day in os.environ.get("JADED_LEDGER_TEST_DAYS", " ".join(hour[:10] for hour in HOURS)).split()]
ZONES = ("America/New_York", "America/Los_Angeles", "Pacific/Honolulu")
SPANS = (
    "in the last 1 month", "in the last 3 months", "in the last 1 year", "in the last 4 years", "more than 1 month ago",
    "more than 5 years ago", "since 2024-02-29", "before 2024-02-29",
)  # fmt: skip
_BACKEND = "django.contrib.auth.backends.ModelBackend"


class OnThatDay(DemoTestCase):
    day: date

    @classmethod
    def setUpClass(cls) -> None:
        cls.enterClassContext(override_settings(PINNED_TODAY=cls.day))
        super().setUpClass()

    def test_what_time_changes_is_derived_and_nothing_else(self) -> None:
        odell = list(Parcel.objects.filter(county__name="Odell Marsh").values_list("id", flat=True))
        ParcelFacts.objects.exclude(parcel__in=odell).update(changes_on=None)
        self.assertEqual(today(), self.day)
        let_time_pass()
        self.assertFalse(ParcelFacts.objects.filter(changes_on__lte=self.day).exists())
        self.assertEqual(list(derive(odell).values()), [0], "nothing was missed")

    def test_spans_of_days_are_as_counted_one_by_one(self) -> None:
        scope = Scope(self.scope.team, None, self.day)
        sold = list(ParcelFacts.objects.values_list("last_sale", flat=True))
        for text in SPANS:
            with self.subTest(text):
                found = balance(compile(parse(f"last-sale: {text}"), scope)).matches
                self.assertEqual(found, sum(day is not None and self.holds(text, day) for day in sold))

    def holds(self, text: str, day: date) -> bool:
        """Return whether a day is within a span, counted by the calendar alone."""
        words = text.split()
        if words[0] in ("since", "before"):
            edge = date.fromisoformat(words[1])
            return day >= edge if words[0] == "since" else day < edge
        count = int(words[3] if words[0] == "in" else words[2])
        edge = self.back(count * (12 if "year" in text else 1))
        return edge <= day <= self.day if words[0] == "in" else day < edge

    def back(self, months: int) -> date:
        """Return the same day of an earlier month, or its last where it has no such day (common practice)."""
        whole = self.day.year * 12 + self.day.month - 1 - months
        year, month = divmod(whole, 12)
        day = self.day.day
        while True:
            try:
                return date(year, month + 1, day)
            except ValueError:
                day -= 1

    def test_every_page_and_starter_answers(self) -> None:
        self.client.force_login(self.user, backend=_BACKEND)
        parcel = ParcelFacts.objects.filter(loan_balance__gt=0).values_list("parcel_id", flat=True)[0]
        own = [reverse(f"properties:{name}", args=[parcel]) for name in ("property", "more")]
        for path in ("/", "/lists/", "/searches/", "/deals/", "/outreach/", "/records/", "/you/audit/", *own):
            self.assertEqual(self.client.get(path).status_code, 200, path)
        for starter in STARTERS:
            self.assertLess(self.client.get(reverse("searches:starter", args=[starter.key]), follow=True).status_code, 400, starter.key)


class Clocks(SimpleTestCase):
    """The day in each time zone, a quarter of an hour apart, from the day before through the day after."""

    day: date

    def test_a_day_begins_at_its_own_midnight(self) -> None:
        moment = datetime.combine(self.day - timedelta(days=1), datetime.min.time(), UTC)
        with mock.patch.object(World.objects, "order_by", return_value=World.objects.none()), override_settings(PINNED_TODAY=None):
            for _ in range(4 * 24 * 3):
                moment += timedelta(minutes=15)
                with machine_at(moment, goes_on=False):
                    for zone in ZONES:
                        self.assertEqual(today(zone), moment.astimezone(ZoneInfo(zone)).date())

    def test_the_audit_has_whole_days(self) -> None:
        for zone in ZONES:
            scope = Scope(Team(name="x", time_zone=zone), None, self.day)
            ends = [AuditFilter(day, day).span(scope) for day in (self.day - timedelta(days=1), self.day, self.day + timedelta(days=1))]
            for (_, end), (begin, _) in pairwise(ends):
                self.assertEqual(end, begin, "no moment is in two days or in none")
            hours = (ends[1][1].astimezone(UTC) - ends[1][0].astimezone(UTC)).total_seconds() / 3600
            before, after = (
                ZoneInfo(zone).utcoffset(datetime.combine(self.day + timedelta(days=far), datetime.min.time())) for far in (0, 1)
            )
            assert before is not None
            assert after is not None
            self.assertEqual(hours, 24 - (after - before).total_seconds() / 3600)


def _on_each_day(case: type[unittest.TestCase]) -> None:
    """Put a class of the same tests into this module for each day, in the place of one that is of none."""
    for day in DAYS:
        name = f"{case.__name__}_{day:%Y_%m_%d}"
        globals()[name] = thorough(type(name, (case,), {"day": day, "__module__": __name__, "__qualname__": name}))


_on_each_day(OnThatDay)
_on_each_day(Clocks)
del OnThatDay, Clocks
