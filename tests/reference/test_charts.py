"""Charts' figures and the table's totals against DuckDB, over the same values read row by row."""

from __future__ import annotations

import statistics
from collections import Counter
from datetime import date
from decimal import Decimal
from xml.etree import ElementTree

import duckdb
from django.urls import reverse

from jaded_ledger.charts.by_area import by_area
from jaded_ledger.charts.distribution import distribution
from jaded_ledger.charts.over_time import MONTH, QUARTER, YEAR, listings_over_time, period_for, sales_over_time
from jaded_ledger.charts.scatter import MOST_DOTS, scatter
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.results import value_of, with_values
from jaded_ledger.find.spread import spread_of
from jaded_ledger.find.totals import totals
from jaded_ledger.records.models import Listing, ParcelFacts, ParcelSale
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

SEARCH = "owner-occupied: no\nclass: single-family, duplex, condo"


def figure(text: str) -> float:
    return float(text.replace("$", "").replace(",", "").replace("−", "-").replace(" %", ""))


@thorough
class Figures(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.matches = compile(parse(SEARCH), cls.scope).matches
        cls.parcels = cls.matches.count()

    def values(self, key: str, parcels=None) -> list:
        trait = CATALOGUE[key]
        return [value_of(facts, trait) for facts in with_values(self.matches if parcels is None else parcels, [trait])]

    def test_a_distribution_counts_every_known_value_once(self) -> None:
        for key in ("assessed-value", "year-built", "last-sale", "equity-pct", "years-owned", "lot-acres"):
            with self.subTest(key):
                spread = spread_of(self.matches, CATALOGUE[key])
                values = [value for value in self.values(key) if value not in (None, "none")]
                duck = duckdb.connect()
                kind = "DATE" if isinstance(values[0], date) else "DOUBLE"
                duck.execute(f"CREATE TABLE held (v {kind})")
                duck.executemany("INSERT INTO held VALUES (?)", [[value] for value in values])
                self.assertEqual(spread.known, len(values))
                for place, count in enumerate(spread.counts):
                    low, before = spread.from_to(place)
                    ends = [f"v >= '{low}'" if low is not None else "true", f"v < '{before}'" if before is not None else "true"]
                    found = duck.execute(f"SELECT count(*) FROM held WHERE {' AND '.join(ends)}").fetchone()
                    self.assertEqual((count,), found, spread.reads(place))

    def test_what_a_bar_adds_finds_what_it_counts(self) -> None:
        for key in ("assessed-value", "last-sale", "baths"):
            spread = spread_of(self.matches, CATALOGUE[key])
            for place in (0, 1, len(spread.counts) - 1):
                low, high = spread.typed(place)
                text = f"{low}..{high}"
                if key == "last-sale":
                    text = f"between {low} and {high}" if low and high else f"since {low}" if low else f"before {spread.edges[1]}"
                found = compile(parse(f"{SEARCH}\n{key}: {text}"), self.scope).matches.count()
                self.assertEqual(found, spread.counts[place], (key, text))

    def test_values_are_counted_beside_the_opening(self) -> None:
        opening = compile(parse(""), self.scope).opening
        chart = distribution(self.matches, CATALOGUE["class"], self.parcels, opening)
        counts, every = Counter(self.values("class")), Counter(self.values("class", opening))
        self.assertEqual({row[0]: int(row[1].replace(",", "")) for row in chart.rows}, dict(counts))
        for value, _, percent, beside, of_all in chart.rows:
            self.assertAlmostEqual(float(percent), 100 * counts[value] / counts.total(), delta=0.051)
            self.assertEqual(int(beside.replace(",", "")), every[value])
            self.assertAlmostEqual(float(of_all), 100 * every[value] / (every.total() - every[None]), delta=0.051)
        self.assertEqual(len(chart.drawings[0].boxes), len(chart.drawings[0].behind))

    def test_medians_by_area(self) -> None:
        price, zip_code = CATALOGUE["last-sale-price"], CATALOGUE["zip"]
        chart = by_area(self.matches, price, zip_code, self.parcels)
        duck = duckdb.connect()
        duck.execute("CREATE TABLE held (area TEXT, v DOUBLE)")
        held = zip(self.values("zip"), self.values("last-sale-price"), strict=True)
        duck.executemany("INSERT INTO held VALUES (?, ?)", [[area, v] for area, v in held if area and v not in (None, "none")])
        theirs = {
            area: (n, middle) for area, n, middle in duck.execute("SELECT area, count(*), median(v) FROM held GROUP BY area").fetchall()
        }
        ours = {area: (int(n.replace(",", "")), figure(middle)) for area, n, middle in chart.rows}
        self.assertEqual(ours.keys(), theirs.keys())
        for area, (count, middle) in theirs.items():
            self.assertEqual(ours[area][0], count)
            self.assertAlmostEqual(ours[area][1], middle, delta=0.51)
        known = sum(count for count, _ in theirs.values())
        self.assertIn(f"{known:,} of {self.parcels:,} parcels; of {self.parcels - known:,} it is not known", chart.notes)

    def test_two_traits_stand_where_their_values_are(self) -> None:
        for search, is_drawn_as_dots in ((f"{SEARCH}\nbeds: 4..", True), ("class: single-family", False)):
            matches = compile(parse(search), self.scope).matches
            parcels = matches.count()
            chart = scatter(matches, CATALOGUE["assessed-value"], CATALOGUE["living-area"], parcels)
            pairs = [
                (a, b)
                for a, b in zip(self.values("assessed-value", matches), self.values("living-area", matches), strict=True)
                if a is not None and b is not None
            ]
            drawing, scales = chart.drawings[0], chart.scales
            within = [(a, b) for a, b in pairs if scales["x"].low <= a <= scales["x"].high and scales["y"].low <= b <= scales["y"].high]
            self.assertEqual(bool(drawing.dots), is_drawn_as_dots)
            drawn = drawing.dots.count("M") if is_drawn_as_dots else sum(int(box.reads.replace(",", "")) for box in drawing.boxes)
            self.assertEqual(drawn, len(within))
            self.assertEqual(len(within) <= MOST_DOTS, is_drawn_as_dots)
            self.assertGreater(len(within), 0.97 * len(pairs))
            self.assertEqual(sum(int(row[1].replace(",", "")) for row in chart.rows), len(pairs))
            if is_drawn_as_dots:
                left, top, right, bottom = drawing.plot
                a, b = within[0]
                x = left + (right - left) * (a - scales["x"].low) / (scales["x"].high - scales["x"].low)
                y = bottom - (bottom - top) * (b - scales["y"].low) / (scales["y"].high - scales["y"].low)
                dots = [tuple(map(float, dot.removesuffix("h0").split())) for dot in drawing.dots.split("M")[1:]]
                self.assertLess(min(abs(x - p) + abs(y - q) for p, q in dots), 0.5)

    def test_sales_and_listings_over_time(self) -> None:
        ids = set(self.matches.values_list("pk", flat=True))
        sales = [(day.year, price) for pk, day, price in ParcelSale.objects.values_list("parcel_id", "sold_on", "price") if pk in ids]
        chart = sales_over_time(self.matches)
        self.assertIn(f"{len(sales):,} sales, not only the last of each parcel", chart.notes)
        for year, count, middle in chart.rows:
            prices = [price for of, price in sales if str(of) == year]
            self.assertEqual(int(count.replace(",", "")), len(prices))
            if prices:
                self.assertAlmostEqual(figure(middle), float(statistics.median(prices)), delta=0.51)
        listings = listings_over_time(self.matches)
        listed = Listing.objects.filter(superseded_at=None, parcel__in=ids).count()
        self.assertEqual(sum(int(row[1].replace(",", "")) for row in listings.rows), listed)
        self.assertIs(period_for(date(2024, 1, 1), date(2025, 12, 31)), MONTH)
        self.assertIs(period_for(date(2018, 12, 1), date(2026, 11, 1)), QUARTER)
        self.assertIs(period_for(date(2018, 1, 1), date(2026, 11, 1)), YEAR)

    def test_totals_against_the_rows(self) -> None:
        keys = ("assessed-value", "last-sale-price", "beds", "last-sale", "class", "owner-occupied", "owner-name", "equity-pct")
        found = totals(self.matches, [CATALOGUE[key] for key in keys])
        self.assertEqual(found.parcels, self.parcels)
        for total in found.columns:
            key = total.trait.key
            values = [value for value in self.values(key) if value not in (None, "none")]
            self.assertEqual(total.known, len(values), key)
            if key == "last-sale":
                middle = sorted(values)[(len(values) - 1) // 2]
                self.assertEqual(total.middle, f"{middle.day} {middle:%b %Y}")
            elif total.trait.is_range:
                self.assertAlmostEqual(figure(total.middle), statistics.median(map(float, values)), delta=0.51, msg=key)
            if key in ("assessed-value", "beds"):
                self.assertEqual(figure(total.sum), sum(values), key)
            if key == "last-sale-price":
                # A price for several parcels is added once, not once for each of them.
                rows = self.matches.exclude(last_sale_price=None).values_list("last_sale_price", "sale_parcels")
                self.assertTrue(any(several and several > 1 for _, several in rows))
                self.assertAlmostEqual(figure(total.sum), float(sum(Decimal(price) / (several or 1) for price, several in rows)), delta=1)
            if key in ("class", "owner-occupied"):
                value, share = total.middle.removesuffix(" %").rsplit(" ", 1)
                counts = Counter("yes" if value is True else "no" if value is False else value for value in values)
                self.assertAlmostEqual(int(share), 100 * counts[value] / len(values), delta=0.51)
            if key == "owner-name":
                self.assertEqual(total.sum, f"{len(set(values)):,} different")
            if key in ("equity-pct", "last-sale"):
                self.assertEqual(total.sum, "", "percents and days don't add up")

    def test_of_nothing_there_is_nothing_to_draw(self) -> None:
        none = compile(parse("beds: 40.."), self.scope).matches
        self.assertEqual(distribution(none, CATALOGUE["beds"], 0).drawings, ())
        self.assertEqual(distribution(none, CATALOGUE["class"], 0).drawings, ())
        self.assertEqual(scatter(none, CATALOGUE["beds"], CATALOGUE["baths"], 0).drawings, ())
        self.assertEqual(by_area(none, CATALOGUE["beds"], CATALOGUE["zip"], 0).drawings, ())
        self.assertEqual(sales_over_time(none).drawings, ())
        self.assertEqual(
            [total.known for total in totals(none, [CATALOGUE["beds"], CATALOGUE["class"], CATALOGUE["owner-name"]]).columns], [0, 0, 0]
        )


class Pages(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def test_every_chart_is_a_file_of_its_own(self) -> None:
        for query in (
            {"chart": "distribution", "x": "equity", "beside": "1"},
            {"chart": "distribution", "x": "class"},
            {"chart": "scatter", "x": "last sale", "y": "assessed value"},
            {"chart": "areas", "x": "last-sale-price", "by": "city"},
            {"chart": "sales"},
            {"chart": "listings"},
        ):
            with self.subTest(query):
                answer = self.client.get(reverse("charts:file"), query)
                self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/svg+xml; charset=utf-8"))
                self.assertIn("attachment", answer["Content-Disposition"])
                self.assertLess(len(answer.content), 200_000)
                self.assertNotIn(b"var(--", answer.content)
                root = ElementTree.fromstring(answer.content)
                self.assertTrue(root.tag.endswith("svg"))
                page = self.client.post(reverse("charts:chart"), query)
                self.assertContains(page, "The same figures as a table")
                self.assertLess(len(page.content), 200_000)

    def test_what_can_not_be_drawn_says_why(self) -> None:
        for query, told in (
            ({"x": "qwxyz"}, "is not a trait"),
            ({"x": "remarks"}, "differs from parcel to parcel"),
            ({"chart": "scatter", "x": "class"}, "is no figure and no day"),
            ({"q": "beds: x"}, "is not a figure"),
        ):
            with self.subTest(query):
                self.assertContains(self.client.post(reverse("charts:chart"), query), told)
        self.assertEqual(self.client.get(reverse("charts:file"), {"x": "qwxyz"}).status_code, 404)
        self.assertEqual(self.client.get(reverse("charts:file"), {"drawing": "7"}).status_code, 404)

    def test_a_trait_is_chosen_by_what_people_call_it(self) -> None:
        for typed, drawn in (
            ("bedz", "Distribution of beds"),
            ("3 beds", "Distribution of beds"),
            ("absentee", "Values of owner occupied"),
        ):
            with self.subTest(typed):
                self.assertContains(self.client.post(reverse("charts:chart"), {"x": typed}), drawn)

    def test_without_a_word_it_draws_what_was_asked_last(self) -> None:
        self.assertContains(self.client.post(reverse("charts:chart"), {"q": "beds: 3..\nclass: duplex"}), "Values of class")
        self.assertContains(self.client.post(reverse("charts:chart"), {"q": 'remarks: any of "as is"'}), "Distribution of assessed value")
        self.assertEqual(ParcelFacts.objects.count(), 12_500)
