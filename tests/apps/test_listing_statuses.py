"""What a line about a price counts: listings on the market, and past ones; and what a day ahead or a whole number is offered as."""

from __future__ import annotations

from django.urls import reverse

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.catalogue.choices import STATUSES
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError, format, parse
from jaded_ledger.find.balance import balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.line_editor import date_presets
from jaded_ledger.find.listing_statuses import status_counts
from jaded_ledger.find.spread import Spread, spread_of
from jaded_ledger.find.suggestions import first_of, offered
from jaded_ledger.records.models import ParcelFacts
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text

ON = [choice.code for choice in STATUSES if choice.key in ("active", "coming-soon")]


class Counted(DemoTestCase):
    def counts(self, text: str) -> tuple[int, int, int] | None:
        search = parse(text)
        found = status_counts(search, balance(compile(search, self.scope)), self.scope)
        return found and (found.place, found.on_market, found.others)

    def test_against_the_facts(self) -> None:
        priced = ParcelFacts.objects.filter(list_price__lte=300_000)
        on, others = priced.filter(status__in=ON).count(), priced.exclude(status__in=ON).count()
        self.assertGreater(min(on, others), 0)
        self.assertEqual(self.counts("list-price: ..300k"), (0, on, others))
        # Up to its line; what comes behind does not count for it.
        self.assertEqual(self.counts("list-price: ..300k\nbeds: 99"), (0, on, others))
        threes = priced.filter(beds=3)
        self.assertEqual(
            self.counts("beds: 3\n~ days-on-market: 5..\nlist-price: ..300k"),
            (2, threes.filter(status__in=ON).count(), threes.exclude(status__in=ON).count()),
        )

    def test_only_where_it_is_not_said(self) -> None:
        for text in (
            "beds: 3", 'on-offer: any of "for-sale"\nlist-price: ..300k', "status: closed\nlist-price: ..300k", "list-price: ..1",
            "~ list-price: ..300k", "list-price: ask", "last-listed: since 2020-01-01", "list-price: ..300k, or unknown",
            "any of:\n  list-price: ..300k\n  beds: 3",
        ):  # fmt: skip
            self.assertIsNone(self.counts(text), text)

    def test_a_click_limits_the_search(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        text = "list-price: ..300k"
        _, on, others = self.counts(text) or (0, 0, 0)
        said = page_text(self.client.get("/", {"q": text}).content)
        self.assertIn(f"{on:,} on the market, {others:,} past or pending listings", said)
        page = self.client.post(reverse("find:change"), {"q": text, "do": "include:on-offer:for-sale"}, follow=True)
        limited = f'{text}\non-offer: any of "for-sale"'
        self.assertIn(format(parse(limited)), page.context["text"])
        self.assertEqual(page.context["balance"].matches, on)
        self.assertNotIn("past or pending", page_text(page.content))


class SaidInTheReadme(DemoTestCase):
    def test_it_is_understood(self) -> None:
        for typed, line in (
            ("list price under 300k", "list-price: ..299999"), ("last sale before 4/30/2014", "last-sale: before 2014-04-30"),
            ("two-flat", "class: duplex"), ("absentee", "owner-occupied: no"), ("3 beds or more", "beds: 3.."),
            ("sold more than 5 years ago", "last-sale: more than 5 years ago"),
        ):  # fmt: skip
            with self.subTest(typed):
                found = first_of(offered(typed, Search(), self.scope), typed)
                self.assertEqual(format(parse(found.line)), format(parse(line)))


class Misfits(DemoTestCase):
    def test_a_number_names_the_county_that_it_fits(self) -> None:
        for text, why in (
            ("county: Odell Marsh\nparcel-number: 12-001-014", "is a parcel number of Tamarack County, which is not in this search"),
            ("parcel-number: 12-001-014-003-9", "as Tamarack has it"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(CriteriaError, why):
                compile(parse(text), self.scope)


class Offered(DemoTestCase):
    def test_days_ahead(self) -> None:
        for key, first in (("auction", "in the next 14 days"), ("expires", "in the next 14 days"), ("last-sale", "more than 5 years ago")):
            presets = date_presets(CATALOGUE[key])
            self.assertEqual(presets[0], first)
            for preset in presets:
                parse(f"{key}: {preset}")

    def test_whole_numbers_are_said_as_numbers(self) -> None:
        spread = spread_of(ParcelFacts.objects.all(), CATALOGUE["beds"])
        assert spread is not None
        self.assertTrue(spread.is_by_value)
        said = [spread.reads(place) for place in range(len(spread.counts))]
        self.assertEqual(said[1], str(spread.edges[1]))
        self.assertRegex(said[0], r"^up to [0-9]+$")
        self.assertRegex(said[-1], r"^[0-9]+ or more$")
        # What a bar is called is what its search finds.
        for place, text in enumerate(said):
            low, high = spread.typed(place)
            asked = compile(parse(f"beds: {low}..{high}" if low != high else f"beds: {low}"), self.scope).matches
            self.assertEqual(asked.count(), spread.counts[place], text)
        marks = [spread.mark(place) for place in range(len(spread.counts))]
        self.assertEqual(marks[1], str(spread.edges[1]))

    def test_other_figures_say_from_where_to_where(self) -> None:
        def reads(key: str, *edges: float) -> list[str]:
            found = Spread(CATALOGUE[key], edges, (1,) * (len(edges) - 1), 3, edges[0], edges[-1])
            self.assertFalse(found.is_by_value)
            return [found.reads(place) for place in range(len(found.counts))]

        self.assertEqual(reads("list-price", 0, 100_000, 200_000, 300_000), ["up to $99,999", "$100,000 to $199,999", "$200,000 or more"])
        self.assertEqual(reads("price-cut", 0, 2.5, 5, 7.5), ["under 2.5 %", "2.5 % to under 5 %", "5 % or more"])
