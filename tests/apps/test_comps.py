"""Comps on the demo: what is read from the records, who may decide, what is kept, printed and told by the command."""

from __future__ import annotations

import io
import json
import re
import uuid
from datetime import date, timedelta
from typing import Any

import numpy as np
from django.contrib.gis.geos import LineString
from django.core.cache import caches
from django.core.exceptions import PermissionDenied
from django.core.management import CommandError, call_command
from django.test import Client
from django.urls import reverse
from pypdf import PdfReader

from jaded_ledger.accounts.deletion import undo_address
from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.circumstances import circumstances_of
from jaded_ledger.comps.decisions import DecisionError, decide, following_grade, key_of, put_in, set_grade, take_back
from jaded_ledger.comps.kept import keep, kept_of
from jaded_ledger.comps.list_ranges import ask_for, ask_for_nightly, compute, waiting
from jaded_ledger.comps.models import CompDecision, CompedList, CompRange, CompSettings, ConditionGrade, KeptComps
from jaded_ledger.comps.plugin import parcel_joined
from jaded_ledger.comps.sales_on_record import county_sales, forget_sales, house_of
from jaded_ledger.comps.screening import screen
from jaded_ledger.comps.settings_by_hand import SettingsError, read_constants, set_settings
from jaded_ledger.comps.tasks import read_sales
from jaded_ledger.comps.valuation import subject_of, value
from jaded_ledger.core.comps.lines import RULES, USUAL_OF_HOUSES, USUAL_OF_LAND, LineKind, PoolError, parse_line, parse_lines
from jaded_ledger.core.comps.pool import candidates
from jaded_ledger.core.comps.terms import GRADES
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep as keep_selection
from jaded_ledger.lists import services as lists
from jaded_ledger.records.jobs import queue_again
from jaded_ledger.records.models import County, CountyFactsVersion, Listing, MapFeature, Parcel, ParcelFacts, ParcelSale, RollEntry
from jaded_ledger.records.versions import facts_version
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text
from tests.support.tiers import at_all_hours, thorough

NUMBER = "12-005-014"


class CompsCase(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.scope = Scope(cls.scope.team, cls.user, cls.scope.today)
        cls.parcel = Parcel.objects.select_related("county").get(number=NUMBER)

    def setUp(self) -> None:
        self.client = Client()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def page(self, parcel: Parcel | None = None, **asked: str) -> Any:
        return self.client.get(reverse("comps:comps", args=[(parcel or self.parcel).pk]), asked)

    def act(self, do: str, **fields: str) -> Any:
        return self.client.post(reverse("comps:act", args=[self.parcel.pk]), {"do": do, **fields})

    def plant_listing(self, parcel_id: int, closed: date) -> int:
        """Have a listing be of a short sale of a parcel, closed on a day; return its id."""
        pk = (
            Listing.objects.filter(superseded_at=None, standard_status="Closed")
            .exclude(parcel_id=parcel_id)
            .values_list("pk", flat=True)[0]
        )
        Listing.objects.filter(pk=pk).update(
            parcel_id=parcel_id, special_listing_conditions="Short Sale", listing_contract_date=None, close_date=closed
        )  # fmt: skip
        return pk

    def stranger(self) -> Scope:
        user = self.other_team()
        return Scope(user.team, user, self.scope.today)


class OnRecord(CompsCase):
    def test_the_sales_are_those_of_the_deeds(self) -> None:
        sales = county_sales(self.parcel.county, self.scope.today)
        since = self.scope.today - timedelta(730)
        deeds = ParcelSale.objects.filter(county=self.parcel.county, sold_on__gte=since, sold_on__lt=self.scope.today, price__gt=0)
        recent = candidates(sales, house_of(self.parcel, self.scope.today))
        # Every deed's sale is there, and what closed by a listing alone beside.
        there = set(zip(recent.parcel.tolist(), recent.day.tolist(), strict=True))
        self.assertLessEqual({(pk, day.toordinal()) for pk, day in deeds.values_list("parcel_id", "sold_on")}, there)
        self.assertTrue(np.all(np.diff(recent.day) >= 0))
        row = next(iter(deeds.filter(living_area__gt=0)))
        place = next(one for one in recent if (int(recent.parcel[one]), int(recent.day[one])) == (row.parcel_id, row.sold_on.toordinal()))
        facts = ParcelFacts.objects.get(pk=row.parcel_id)
        self.assertEqual((recent.price[place], recent.traits["living_area"][place]), (float(row.price), facts.living_area))
        self.assertEqual((recent.longitude[place], recent.latitude[place]), (facts.longitude, facts.latitude))

    def test_a_listing_that_closed_without_a_deed_is_a_sale_once(self) -> None:
        sold = set(ParcelSale.objects.filter(sold_on__gt=self.scope.today - timedelta(200)).values_list("parcel_id", flat=True))
        listing = Listing.objects.filter(
            county=self.parcel.county, superseded_at=None, standard_status="Active", property_type="Residential", parcel__isnull=False
        ).exclude(parcel_id__in=sold)[0]  # fmt: skip
        before = len(county_sales(self.parcel.county, self.scope.today))
        closed = self.scope.today - timedelta(20)
        Listing.objects.filter(pk=listing.pk).update(standard_status="Closed", close_date=closed, close_price=123_456)
        forget_sales()
        sales = county_sales(self.parcel.county, self.scope.today)
        self.assertEqual(len(sales), before + 1)
        self.assertIn((listing.parcel_id, closed.toordinal(), 123_456.0), zip(sales.parcel, sales.day, sales.price, strict=True))
        # Its deed is recorded sixty days later at most: then it is the same sale, and the deed's price stands.
        for apart, more in ((60, 0), (61, 1)):
            ParcelSale.objects.filter(parcel_id=listing.parcel_id).delete()
            ParcelSale.objects.create(
                parcel_id=listing.parcel_id, county=self.parcel.county, sold_on=closed - timedelta(apart), recorded_on=closed,
                price=120_000, is_resale=False,
            )  # fmt: skip
            forget_sales()
            days = county_sales(self.parcel.county, self.scope.today)
            self.assertEqual(int((days.parcel == listing.parcel_id).sum()), 1 + more, apart)

    def test_a_barrier_on_the_way_distress_and_a_resale_are_told(self) -> None:
        sales = candidates(county_sales(self.parcel.county, self.scope.today), house_of(self.parcel, self.scope.today), self.parcel.pk)
        house = house_of(self.parcel, self.scope.today)
        miles = sales.meters_from(house)
        row = int(np.nanargmin(np.where(miles > 400, miles, np.nan)))
        one = sales.take(np.array([row]))
        before = circumstances_of(one, house, self.parcel.county, {})[0]
        x, y = (house.longitude + one.longitude[0]) / 2, (house.latitude + one.latitude[0]) / 2
        across = LineString((x - 0.0004, y + 0.0004), (x + 0.0004, y - 0.0004), srid=4326)
        if not across.intersects(LineString((house.longitude, house.latitude), (one.longitude[0], one.latitude[0]))):
            across = LineString((x - 0.0004, y - 0.0004), (x + 0.0004, y + 0.0004), srid=4326)
        planted = MapFeature.objects.filter(superseded_at=None, is_barrier=False, layer="flood-zone").first()
        MapFeature.objects.filter(pk=planted.pk).update(layer="rail", name="OLD MILL SPUR", is_barrier=True, geometry=across)
        after = circumstances_of(one, house, self.parcel.county, {})[0]
        self.assertEqual(set(after.barriers) - set(before.barriers), {"Old Mill Spur"})
        key = int(one.parcel[0])
        listing = self.plant_listing(key, date.fromordinal(int(one.day[0])) + timedelta(60))
        self.assertEqual(circumstances_of(one, house, self.parcel.county, {})[0].distress, "short sale")
        Listing.objects.filter(pk=listing).update(close_date=date.fromordinal(int(one.day[0])) + timedelta(61))
        self.assertNotEqual(circumstances_of(one, house, self.parcel.county, {})[0].distress, "short sale")
        resold = ParcelSale.objects.filter(is_resale=True, county=self.parcel.county, sold_on__gt=self.scope.today - timedelta(700)).first()
        every = county_sales(self.parcel.county, self.scope.today)
        at = np.flatnonzero((every.parcel == resold.parcel_id) & (every.day == resold.sold_on.toordinal()))
        told = circumstances_of(every.take(at), house, self.parcel.county, {})[0]
        self.assertIsNotNone(told.bought_for)
        self.assertLess(told.bought_for, float(resold.price))


class Pages(CompsCase):
    def test_awkward_subjects(self) -> None:
        land = ParcelFacts.objects.filter(county__name="Odell Marsh", living_area=None, lot_sqft__isnull=False).first().parcel
        page = self.page(land)
        self.assertContains(page, "$/acre")
        found = value(land, self.scope)
        self.assertTrue(found.subject.is_land)
        self.assertEqual(value(land, self.scope, USUAL_OF_LAND).lines, USUAL_OF_LAND)
        # Neither a place nor anything of it is known: all sales are let in, and the page says so.
        ParcelFacts.objects.filter(pk=self.parcel.pk).update(
            longitude=None, latitude=None, beds=None, baths=None, year_built=None, property_class=None
        )  # fmt: skip
        page = self.page()
        self.assertContains(page, "its place is not on record, so all are let in")
        self.assertContains(page, "not known of it, so all are let in")
        ParcelFacts.objects.filter(pk=self.parcel.pk).update(living_area=None, lot_sqft=None)
        self.assertEqual(self.page().status_code, 200)
        Parcel.objects.filter(pk=self.parcel.pk).update(retired_on=date(2026, 1, 1))
        self.assertEqual(self.page().status_code, 404)

    def test_days_on_market_are_those_of_the_property_s_page(self) -> None:
        active = ParcelFacts.objects.filter(active_since__isnull=False, list_price__gt=0).select_related("parcel__county")[:20]
        self.assertGreater(len(active), 10)
        for facts in active:
            expected = facts.days_on_market + (self.scope.today - facts.active_since).days
            with self.subTest(facts.parcel.number):
                self.assertEqual(subject_of(facts.parcel, self.scope, self.scope.today).days, expected)
        never = ParcelFacts.objects.filter(ever_listed=False, living_area__isnull=False).select_related("parcel__county").first()
        self.assertIsNone(subject_of(never.parcel, self.scope, self.scope.today).days)

    def test_a_rent_for_each_square_foot_has_cents(self) -> None:
        for facts in ParcelFacts.objects.filter(county__name="Tamarack", units=1).select_related("parcel")[:40]:
            page = self.page(facts.parcel, tab="rented")
            if offers := page.context["offers"]:
                self.assertTrue(all(re.fullmatch(r"\$\d\.\d\d|·", one["per"]) for one in offers), offers[0]["per"])
                return
        self.fail("no property has one like it for rent nearby")

    def test_a_county_with_no_sale(self) -> None:
        ParcelSale.objects.all().delete()
        Listing.objects.all().update(parcel=None)
        forget_sales()
        caches["tallies"].clear()
        page = page_text(self.page().content)
        self.assertIn("No sale is left in the pool", page)
        self.assertIn("no active competition", page)
        trust = self.client.get(reverse("comps:trust", args=[self.parcel.pk]))
        self.assertContains(trust, "nothing is said")
        self.assertEqual(self.client.get(reverse("comps:report", args=[self.parcel.pk])).status_code, 200)

    def test_what_is_wrong_with_a_line_is_said_and_the_others_stand(self) -> None:
        page = self.page(lines="within: far")
        self.assertContains(page, "is not a number of mi", status_code=400)
        page = self.page(lines="outside: Nowhere")
        self.assertContains(page, "There is no area “Nowhere”", status_code=400)
        page = self.page(edit="1", lines="within: 2 mi", line="within: 3 mi", add="beds: <b>")
        self.assertContains(page, "&lt;b&gt;", status_code=400)
        self.assertContains(page, 'id="amount-within" name="amount.within" value="2"', status_code=400)
        self.assertContains(self.page(edit="1", lines="within: 2 mi", line="within: 3 mi", strike="within"), "12")
        self.assertContains(self.page(lines="within: 2 mi"), 'value="2"')
        # Nothing is narrowed: the pool is all that sold.
        found = value(self.parcel, self.scope, ())
        self.assertEqual(len(found.pool), found.pool.start)

    def test_lines_keep_the_order_in_which_they_stand(self) -> None:
        """Those of the same and those of an amount are sent under different names; what is added comes last, the likest always."""
        before = "closed: 700 days; class: same; within: 2 mi; stories: same; likest: 12"
        keys = ["closed", "class", "within", "stories", "likest"]
        sent = {"edit": "1", "lines": before, "order": keys, "line": ["class: same", "stories: same"], "amount.within": "3"}
        page = self.page(**sent, **{"amount.closed": "600", "amount.likest": "12", "add": "price: 100k to 900k"})
        after = "closed: 600 days; class: same; within: 3 mi; stories: same; price: 100,000 to 900,000; likest: 12"
        self.assertEqual(page.context["about"]["lines_text"], after)

    def test_a_limit_is_typed_where_an_amount_stood(self) -> None:
        page = self.page(edit="1", lines="area: 20 %", order="area", **{"amount.area": "under 9,000"})
        self.assertEqual(page.context["about"]["lines_text"], "area: under 9,000")
        self.assertContains(page, 'name="amount.area" value="under 9,000"')
        (line,) = page.context["about"]["lines"]
        self.assertEqual(line["reach"], f"it has {self.parcel.facts.living_area:,}")

    def test_the_opening_count_says_what_it_leaves_out(self) -> None:
        found = value(self.parcel, self.scope, ())
        every = candidates(county_sales(self.parcel.county, self.scope.today), found.subject.house, self.parcel.pk)
        self.assertEqual(found.left_out, int(np.isnan(every.traits["living_area"]).sum()))
        self.assertGreater(found.left_out, 0)
        text = page_text(self.page().content)
        self.assertIn(f"{found.pool.start:,} of {len(every):,}: {found.left_out:,} have no living area", text)

    def test_every_line_is_proposed_with_what_it_would_leave(self) -> None:
        found = value(self.parcel, self.scope)
        page = self.client.get(reverse("comps:proposed-lines", args=[self.parcel.pk]))
        proposed = dict(page.context["proposed"])
        kinds = {line.partition(":")[0] for line in proposed} | {str(line.kind) for line in found.lines}
        self.assertEqual(kinds - {"inside", "outside"}, {str(kind) for kind in RULES} - {"inside", "outside"})
        for text in [line for line, left in proposed.items() if left is not None]:
            line = parse_line(text)
            others = [one for one in found.lines if one.kind not in (line.kind, LineKind.LIKEST)]
            with self.subTest(text):
                self.assertEqual(proposed[text], len(value(self.parcel, self.scope, (*others, line), with_offers=False).pool))

    def test_the_side_of_a_barrier(self) -> None:
        """What the map's highways, rails and waters part from the subject is out, and what no line warns of is in."""
        house = house_of(self.parcel, self.scope.today)
        east = house.longitude + 0.0015
        planted = MapFeature.objects.filter(superseded_at=None, is_barrier=False, layer="flood-zone").first()
        spur = LineString((east, house.latitude - 0.1), (east, house.latitude + 0.1), srid=4326)
        MapFeature.objects.filter(pk=planted.pk).update(layer="rail", name="OLD MILL SPUR", is_barrier=True, geometry=spur)
        lines = parse_lines("within: 2 mi; closed: 730 days; class: same")
        every, same = value(self.parcel, self.scope, lines), value(self.parcel, self.scope, (*lines, parse_line("side: same")))
        across = {comp.key for comp in every.comps if any("across a barrier" in warning for warning in comp.warnings)}
        self.assertTrue(across)
        self.assertLess(len(across), len(every.comps))
        self.assertEqual({comp.key for comp in same.comps}, {comp.key for comp in every.comps} - across)

    def test_newest_first_until_another_order_is_asked(self) -> None:
        days = [comp["sold_on"] for comp in self.page().context["comps"] if comp["is_in"]]
        self.assertEqual(days, sorted(days, reverse=True))

    def test_usual_lines_are_widened_and_chosen_ones_are_not(self) -> None:
        ParcelFacts.objects.filter(pk=self.parcel.pk).update(year_built=2025, beds=6)
        self.assertTrue(value(self.parcel, self.scope).widened)
        self.assertContains(self.page(), "Widened, since too few were left")
        chosen = value(self.parcel, self.scope, USUAL_OF_HOUSES)
        self.assertEqual((chosen.widened, chosen.lines), ((), USUAL_OF_HOUSES))

    def test_the_value_is_the_weighted_median_of_the_page_s_comps(self) -> None:
        found = value(self.parcel, self.scope)
        below = sum(comp.share for comp in found.chosen if comp.adjusted.value < found.range.value)
        above = sum(comp.share for comp in found.chosen if comp.adjusted.value > found.range.value)
        self.assertLess(max(below, above), 50 + max(comp.share for comp in found.chosen) / 2)
        self.assertAlmostEqual(sum(comp.share for comp in found.chosen), 100)
        values = sorted(comp.adjusted.value for comp in found.chosen)
        self.assertEqual((found.range.low, found.range.high), (values[0], values[-1]))
        self.assertContains(self.page(), f"${found.range.value:,.0f}")

    @thorough
    def test_sorted(self) -> None:
        for key in ("miles", "closed", "price", "per", "area", "beds", "built", "adjusted", "value", "warnings", "address"):
            for sort in (key, f"-{key}"):
                self.assertContains(self.page(sort=sort), "aria-sort")
        rows = self.page(sort="-price").context["comps"]
        self.assertEqual([row["paid"] for row in rows], sorted((row["paid"] for row in rows), reverse=True))


class Decisions(CompsCase):
    def first(self) -> str:
        return next(comp["key"] for comp in self.page().context["comps"] if comp["share"] is not None)

    def test_out_with_a_reason_and_back(self) -> None:
        key, before = self.first(), value(self.parcel, self.scope)
        self.assertRedirects(self.act(f"out:{key}", reason="<script>x</script>"), reverse("comps:comps", args=[self.parcel.pk]))
        page = self.page()
        self.assertContains(page, "&lt;script&gt;x&lt;/script&gt;")
        after = value(self.parcel, self.scope)
        self.assertEqual((len(after.pool), after.out_by_hand), (len(before.pool), 1))
        self.assertEqual(after.range.count, before.range.count - 1)
        # Another team's pool is as it was.
        self.assertEqual(value(self.parcel, self.stranger()).range, before.range)
        self.act(f"back:{key}")
        self.assertEqual(value(self.parcel, self.scope).range, before.range)

    def test_put_in_by_hand(self) -> None:
        found = value(self.parcel, self.scope)
        there = {comp.parcel_id for comp in found.comps}
        sales = candidates(county_sales(self.parcel.county, self.scope.today), found.subject.house, self.parcel.pk)
        outside = [int(pk) for pk in sales.parcel if int(pk) not in there]
        other = Parcel.objects.filter(pk__in=outside, facts__living_area__gt=0).first()
        self.act("put-in", number=other.number)
        after = value(self.parcel, self.scope)
        self.assertEqual([comp.parcel_id for comp in after.comps if comp.added], [other.pk])
        self.assertEqual(len(after.pool), len(found.pool))
        unsold = Parcel.objects.filter(county=self.parcel.county, facts__never_sold=True).first()
        elsewhere = Parcel.objects.exclude(county=self.parcel.county).select_related("county").first()
        for typed, said in (
            ("nothing", "no parcel on record"), (self.parcel.number, "is the property itself"), (unsold.number, "no sale of"),
            (f"{elsewhere.county.name.lower().replace(' ', '-')}/{elsewhere.number}", "comps are of the subject"),
        ):  # fmt: skip
            with self.assertRaisesRegex(DecisionError, said):
                put_in(self.scope, self.parcel, typed)

    def test_grades_go_round(self) -> None:
        every = ["", *GRADES, ""]
        self.assertEqual([following_grade(one) for one in every[:-1]], every[1:])
        self.assertEqual(following_grade("shiny"), "")
        key = self.first()
        self.act(f"grade:{key}", grade_now="tidied")
        self.assertEqual(next(row for row in self.page().context["comps"] if row["key"] == key)["of_set"], "repaired")
        self.act(f"grade:{key}", grade_now="rebuilt")
        self.assertFalse(ConditionGrade.objects.exists())
        self.act("grade-subject", grade="as-found")
        self.act("grade-subject", grade="tidied")
        self.assertEqual(ConditionGrade.objects.get().grade, "tidied")
        # What the team set for a grade moves the price; unset it does not.
        before = value(self.parcel, self.scope).range.value
        set_settings(self.scope, self.parcel.county, "", read_constants({"grade-tidied": "10"}))
        comp = value(self.parcel, self.scope).comps[0]
        set_grade(self.scope, comp.parcel_id, comp.sold_on, "as-found")
        self.assertAlmostEqual(value(self.parcel, self.scope, USUAL_OF_HOUSES).comps[0].adjusted.steps[-1].factor, 1.1)
        self.assertNotEqual(value(self.parcel, self.scope, USUAL_OF_HOUSES).range.value, before)

    def test_what_can_t_be_decided(self) -> None:
        for text in ("", "x-2026-01-01", "1-yesterday", "1"):
            with self.assertRaises(DecisionError):
                key_of(text)
        key = key_of(self.first())
        with self.assertRaisesRegex(DecisionError, "at most 200"):
            decide(self.scope, self.parcel, key, is_in=False, reason="x" * 201)
        decide(self.scope, self.parcel, key, is_in=False, reason="x" * 200)
        with self.assertRaisesRegex(DecisionError, "no longer on record"):
            decide(self.scope, self.parcel, (0, key[1]), is_in=False)
        with self.assertRaisesRegex(DecisionError, "is graded"):
            set_grade(self.scope, *key, "shiny")
        self.assertEqual(self.act("dance").status_code, 404)

    def test_a_reader_changes_nothing(self) -> None:
        key = key_of(self.first())
        User.objects.filter(pk=self.user.pk).update(role="reader")
        reader = Scope(self.scope.team, User.objects.get(pk=self.user.pk), self.scope.today)
        found = value(self.parcel, reader)
        for act in (
            lambda: decide(reader, self.parcel, key, is_in=False), lambda: take_back(reader, self.parcel, key),
            lambda: put_in(reader, self.parcel, NUMBER), lambda: set_grade(reader, self.parcel.pk, None, "tidied"),
            lambda: keep(reader, found), lambda: set_settings(reader, self.parcel.county, "", {}),
        ):  # fmt: skip
            with self.assertRaises(PermissionDenied):
                act()
        self.assertEqual(self.act(f"out:{key[0]}-{key[1]}").status_code, 403)
        page = self.page()
        self.assertNotContains(page, "Keep today")
        self.assertNotContains(page, 'value="out:')


@at_all_hours
class Kept(CompsCase):
    def test_reopened_as_it_was_and_by_its_team_alone(self) -> None:
        kept = keep(self.scope, value(self.parcel, self.scope))
        before = page_text(self.client.get(reverse("comps:kept", args=[kept.pk])).content)
        ParcelSale.objects.all().update(price=1_000_000)
        forget_sales()
        self.assertEqual(page_text(self.client.get(reverse("comps:kept", args=[kept.pk])).content), before)
        self.assertIn(f"${kept.value:,}", before)
        self.assertContains(self.client.get(reverse("properties:more", args=[self.parcel.pk])), f"comps kept: ${kept.value:,}")
        stranger = self.stranger()
        self.client.force_login(stranger.user, backend="django.contrib.auth.backends.ModelBackend")
        for name in ("kept", "kept-report"):
            self.assertEqual(self.client.get(reverse(f"comps:{name}", args=[kept.pk])).status_code, 404)
        self.assertEqual(self.client.post(reverse("comps:remove-kept", args=[kept.pk])).status_code, 404)
        self.assertEqual(self.client.post(undo_address(kept)).status_code, 404)
        self.assertFalse(kept_of(stranger).exists())

    def test_the_report_tells_nobody_s_affairs(self) -> None:
        found = value(self.parcel, self.scope)
        comp = found.chosen[0]
        self.plant_listing(comp.parcel_id, comp.sold_on)
        self.assertContains(self.page(), "distressed sale: short sale")
        answer = self.client.get(reverse("comps:report", args=[self.parcel.pk]))
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        text = " ".join("".join(sheet.extract_text() for sheet in PdfReader(io.BytesIO(answer.content)).pages).split())
        self.assertIn(comp.address, text)
        self.assertNotIn("short sale", text.lower())
        owners = RollEntry.objects.filter(parcel_id__in=[self.parcel.pk, *(one.parcel_id for one in found.comps)], superseded_at=None)
        for name in owners.values_list("owner_name__text", flat=True):
            self.assertNotIn(name.lower(), text.lower())

    def test_a_parcel_that_was_joined(self) -> None:
        found = value(self.parcel, self.scope)
        kept, (one, other) = keep(self.scope, found), [(comp.parcel_id, comp.sold_on) for comp in found.comps[:2]]
        decide(self.scope, self.parcel, one, is_in=False, reason="first")
        decide(self.scope, self.parcel, (other[0], one[1]), is_in=True, reason="stands")
        set_grade(self.scope, self.parcel.pk, None, "tidied")
        new = Parcel.objects.filter(county=self.parcel.county).exclude(pk__in=[self.parcel.pk, one[0], other[0]]).first()
        parcel_joined(self.parcel.pk, new.pk)
        self.assertEqual(KeptComps.objects.get(pk=kept.pk).parcel_id, new.pk)
        self.assertEqual(ConditionGrade.objects.get().parcel_id, new.pk)
        self.assertEqual(set(CompDecision.objects.values_list("subject_id", flat=True)), {new.pk})
        parcel_joined(one[0], other[0])
        self.assertEqual(CompDecision.objects.get().reason, "stands")


class ByHand(CompsCase):
    def test_settings(self) -> None:
        address = reverse("comps:settings", args=[self.parcel.county_id])
        self.assertContains(self.client.get(address), "measured")
        lines = "within: 0.5 mi\nlikest: 8"
        self.client.post(address, {"living-area": "0.75", "baths": "-3", "time": "1", "size-step": "1500", "lines": lines, "garage": ""})
        kept = CompSettings.objects.get()
        self.assertEqual(set(kept.constants), {"living-area", "baths", "time", "size-step"})
        found = value(self.parcel, self.scope)
        told = {one.term.key: (round(one.value, 6), str(one.origin)) for one in found.constants.coefficients}
        self.assertEqual(told["living-area"], (0.75, "set by hand"))
        self.assertEqual(found.size_step, 1500)
        self.assertEqual(str(found.lines[-1]), "likest: 8")
        self.assertContains(self.client.get(address), 'value="0.75"')
        for key, typed in (("living-area", "2.1"), ("baths", "101"), ("baths", "much"), ("size-step", "99")):
            with self.assertRaises(SettingsError):
                read_constants({key: typed})
        page = self.client.post(address, {"baths": "much", "lines": lines})
        self.assertContains(page, "is not a number for baths", status_code=400)
        with self.assertRaises(PoolError):
            set_settings(self.scope, self.parcel.county, "far: away", {})
        # Land has its own, and so has likeness.
        typed = {"land-lot": "0.8", "likeness-miles": "2", "likeness-adjustment": "30", "likeness-months": "9", "lines": ""}
        self.client.post(address, typed)
        land = ParcelFacts.objects.filter(county=self.parcel.county, living_area=None, lot_sqft__isnull=False).first().parcel
        found = value(land, self.scope).constants
        self.assertEqual({one.term.key: round(one.value, 6) for one in found.coefficients}["lot"], 0.8)
        self.assertEqual((found.likeness.miles, found.likeness.adjustment, found.likeness.months), (2, 0.3, 9))
        houses = {one.term.key: str(one.origin) for one in value(self.parcel, self.scope).constants.coefficients}
        self.assertEqual((houses["lot"], houses["living-area"]), ("measured", "measured"))
        # Another team measures for itself.
        self.assertNotEqual(value(self.parcel, self.stranger()).size_step, 1500)


class Command(CompsCase):
    def told(self, *words: str) -> str:
        out = io.StringIO()
        call_command("comps", *words, "--team", self.scope.team.name, stdout=out)
        return out.getvalue()

    @thorough
    def test_the_same_as_the_page(self) -> None:
        about = json.loads(self.told(NUMBER, "--format", "json"))
        found = value(self.parcel, self.scope)
        self.assertEqual(about["range"]["exact"], round(found.range.value))
        self.assertEqual([comp["key"] for comp in about["comps"]], [comp.key for comp in found.comps])
        self.assertEqual([line["left"] for line in about["lines"]], [one.left for one in found.pool.balance])
        self.assertTrue(about["comps"][0]["adjusted"]["steps"] and about["trust"]["count"] and about["constants"]["rows"])
        text = self.told(NUMBER, "--lines", "within: 0.4 mi; likest: 5", "--set", "repaired")
        self.assertIn("within: 0.4 mi, of it", text)
        steps = json.loads(self.told("--backtest", "tamarack", "--format", "json"))["steps"]
        self.assertEqual(steps[-1]["way"], "the likest count most")
        self.assertIn("past sales, each told from those before it", self.told("--backtest", "Odell Marsh"))

    def test_what_is_wrong_is_said(self) -> None:
        for words, said in (
            ((), "name a parcel"), (("99-9",), "no parcel on record"), (("--backtest", "Nowhere"), "there is no county Nowhere"),
            ((NUMBER, "--lines", "far"), "is no line of a pool"),
        ):  # fmt: skip
            with self.assertRaisesRegex(CommandError, said):
                self.told(*words)


class Begin(CompsCase):
    def test_by_its_number(self) -> None:
        self.assertRedirects(
            self.client.get(reverse("worksheets:begin"), {"number": f" {NUMBER} "}), reverse("comps:comps", args=[self.parcel.pk])
        )  # fmt: skip
        self.assertContains(self.client.get(reverse("worksheets:begin"), {"number": "<b>"}), "&lt;b&gt;", status_code=400)
        self.assertEqual(County.objects.count(), 3)
        self.assertEqual(parse_lines(""), ())


class Screening(CompsCase):
    def test_the_same_as_each_page_of_its_own(self) -> None:
        facts = ParcelFacts.objects.filter(county=self.parcel.county, list_price__isnull=False, living_area__gt=0)
        rows = [*facts.order_by("parcel_id")[:6], ParcelFacts.objects.get(pk=self.parcel.pk)]
        first = value(self.parcel, self.scope).comps
        # Decisions, grades and what was put in by hand count here, too.
        decide(self.scope, self.parcel, (first[0].parcel_id, first[0].sold_on), is_in=False)
        set_grade(self.scope, first[1].parcel_id, first[1].sold_on, "rebuilt")
        set_grade(self.scope, self.parcel.pk, None, "tidied")
        set_grade(self.scope, first[2].parcel_id, first[2].sold_on, "as-found")
        set_settings(self.scope, self.parcel.county, "within: 0.5 mi; area: 30 %; likest: 9", {"grade-tidied": 0.1})
        found = list(screen(rows, self.scope))
        for one in found:
            own = value(Parcel.objects.select_related("county").get(pk=one.parcel_id), self.scope)
            self.assertEqual(one.range.count, own.range.count)
            for of_set, other in (("as-is", one.range), ("repaired", one.repaired)):
                there = own.ranges[of_set]
                self.assertEqual(other is None, there is None)
                for name in ("low", "median", "high", "value") if other else ():
                    self.assertAlmostEqual(getattr(other, name), getattr(there, name), delta=0.01)
            if own.subject.asking:
                self.assertEqual((one.is_asked, one.price), (True, own.subject.asking))
        self.assertEqual(list(screen([], self.scope)), [])

    def test_the_page_of_a_selection(self) -> None:
        selection = keep_selection(self.scope, SearchPage(parse("county: Tamarack\nlist-price: any")), [], is_all=True)
        address = reverse("comps:screening", args=[selection.key])
        page = self.client.get(address)
        self.assertContains(page, "Price against value")
        by = [row["range"] and row["price"] / row["range"].value for row in page.context["rows"]]
        known = [one for one in by if one]
        self.assertEqual(known, sorted(known))
        self.assertEqual(self.client.get(address, {"sort": "-spread"}).status_code, 200)
        self.client.force_login(self.stranger().user, backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.get(address).status_code, 404)


class Ranges(CompsCase):
    """The traits of comps: computed for a list that asks, and not computed elsewhere."""

    def setUp(self) -> None:
        super().setUp()
        facts = ParcelFacts.objects.filter(county=self.parcel.county, living_area__gt=0).order_by("parcel_id")
        self.ids = [self.parcel.pk, *facts.exclude(pk=self.parcel.pk).values_list("pk", flat=True)[:11]]
        self.list = lists.make_list(self.scope, "To value")
        lists.add(self.scope, self.list, self.ids)

    def found(self, line: str, scope: Scope | None = None) -> set[int]:
        return set(Answer(SearchPage(parse(line)), scope or self.scope).matches.values_list("pk", flat=True))

    def test_asked_computed_and_searched(self) -> None:
        page = reverse("lists:list", args=[self.list.pk])
        self.assertContains(self.client.get(page), "0 of 12 have a range")
        self.client.post(reverse("comps:list-ranges", args=[self.list.pk]), {"do": "compute"})
        self.assertContains(self.client.get(page), "Being computed")
        # What waits is queued, and worked off.
        self.assertEqual(waiting(), {self.list.pk})
        self.assertGreater(queue_again(), 0)
        self.assertEqual(compute(self.list.pk), 12)
        self.assertEqual(waiting(), set())
        self.assertContains(self.client.get(page), "12 of 12 have a range")
        own = value(self.parcel, self.scope).range
        row = CompRange.objects.get(parcel=self.parcel)
        self.assertEqual((row.median, row.value, row.count), (round(own.median), round(own.value), own.count))
        median = row.median
        self.assertEqual(self.found(f"comps-median: ${median:,}..{median}"), {self.parcel.pk} | set(
            CompRange.objects.filter(median=median).values_list("parcel_id", flat=True)
        ))  # fmt: skip
        self.assertEqual(self.found("comps-median: 1.."), set(self.ids))
        self.assertEqual(self.found("price-to-comps: under 100"), set(
            CompRange.objects.filter(price_to__lt=100).values_list("parcel_id", flat=True)
        ))  # fmt: skip
        self.assertEqual(self.found("comps-spread: 0..", self.stranger()), set())
        # In the ledger what was never computed is told apart from what is not known.
        CompRange.objects.filter(parcel=self.ids[1]).update(median=None)
        ledger = self.client.get("/", {"q": "county: Tamarack\ncomps-median: over 1"})
        line = ledger.context["lines"][-1]
        whole = ParcelFacts.objects.filter(county=self.parcel.county).count()
        self.assertEqual((line.not_computed, line.not_known), (whole - 12, 1))
        self.assertContains(ledger, f"{whole - 12:,} not computed")
        shown = self.client.get(reverse("properties:explained", args=[self.parcel.pk, "comps-median"]))
        self.assertContains(shown, f"${median:,}")
        other = Parcel.objects.filter(county=self.parcel.county).exclude(pk__in=self.ids).first()
        self.assertContains(self.client.get(reverse("properties:explained", args=[other.pk, "comps-median"])), "not computed")

    def test_each_night(self) -> None:
        address = reverse("comps:list-ranges", args=[self.list.pk])
        self.client.post(address, {"do": "nightly"})
        self.assertEqual((ask_for_nightly(), waiting()), (0, {self.list.pk}))
        compute(self.list.pk)
        self.assertEqual(ask_for_nightly(), 0, "it was computed today")
        CompedList.objects.update(computed_on=self.scope.today - timedelta(1))
        self.assertEqual((ask_for_nightly(), waiting()), (1, {self.list.pk}))
        compute(self.list.pk)
        self.client.post(address, {"do": "stop"})
        CompedList.objects.update(computed_on=self.scope.today - timedelta(1))
        self.assertEqual(ask_for_nightly(), 0)
        self.assertEqual(self.client.post(address, {"do": "dance"}).status_code, 404)
        self.client.force_login(self.stranger().user, backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.post(address, {"do": "compute"}).status_code, 404)
        # A list that is gone, and one with nothing on it.
        CompedList.objects.update(is_waiting=True)
        lists.delete_list(self.scope, self.list)
        self.assertEqual((compute(self.list.pk), waiting()), (0, set()))
        User.objects.filter(pk=self.user.pk).update(role="reader")
        with self.assertRaises(PermissionDenied):
            ask_for(Scope(self.scope.team, User.objects.get(pk=self.user.pk), self.scope.today), self.list)


class Read(CompsCase):
    def test_the_worker_reads_each_county_s_sales_ahead(self) -> None:
        forget_sales()
        read_sales(0)
        with self.assertNumQueries(1):
            # Which version of the facts stands; the sales are there.
            self.assertGreater(len(county_sales(self.parcel.county, self.scope.today)), 0)

    def test_a_restored_backup_is_read_though_its_facts_have_the_same_number(self) -> None:
        before, number = county_sales(self.parcel.county, self.scope.today), facts_version()
        sale = ParcelSale.objects.filter(county=self.parcel.county, sold_on=date.fromordinal(int(before.day[-1]))).first()
        ParcelSale.objects.filter(pk=sale.pk).update(price=54_321)
        CountyFactsVersion.objects.filter(county=self.parcel.county).update(version=uuid.uuid4())
        self.assertEqual(facts_version(), number)
        self.assertIn(54_321, county_sales(self.parcel.county, self.scope.today).price)
        self.assertNotIn(54_321, before.price)
