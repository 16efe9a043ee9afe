"""Urgency and lift over the demo: the database against the core, by hand, and against DuckDB."""

from __future__ import annotations

from collections import Counter
from datetime import date
from unittest import mock

import duckdb
from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, transaction
from django.db.models import F
from django.urls import reverse

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope, scope_of_command
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.catalogue.choices import SIGNALS, key_of
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.distress.filings import LienKind
from jaded_ledger.core.distress.lift import LEAST_CASES, OUTCOMES_IN, TRACELESS
from jaded_ledger.core.distress.signals import LIEN_SIGNALS, TOLD_BY, SignalKind
from jaded_ledger.core.distress.urgency import WEIGHTS, Scale
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.find.balance import balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.explanations import explained
from jaded_ledger.find.fill import fills
from jaded_ledger.find.line_editor import editor_of
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.results import rows
from jaded_ledger.lists import services
from jaded_ledger.lists.lifts import county_histories, lifts_on_record
from jaded_ledger.lists.models import ParcelList, UrgencyScale
from jaded_ledger.lists.tasks import count_lifts
from jaded_ledger.lists.urgency import account_of, scale_of, set_scale
from jaded_ledger.records.models import County, Coverage, Lien, Parcel, ParcelFacts
from jaded_ledger.records.reading import record_of
from jaded_ledger.records.versions import put_up_version
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough


def scores(scope: Scope) -> dict[int, int | None]:
    return dict(parcels(scope).annotate(of=F("urgency")).values_list("pk", "of"))


class Urgency(DemoTestCase):
    def setUp(self) -> None:
        self.scope = scope_of_command()

    def parcel(self, number: str) -> Parcel:
        return Parcel.objects.select_related("county").get(number=number, county__name="Tamarack")

    def score_by_core(self, pk: int, scope: Scope) -> int:
        parcel = Parcel.objects.select_related("county").get(pk=pk)
        return account_of(parcel, Findings(record_of(parcel), scope.today), scope).score

    @thorough
    def test_the_database_and_the_core_agree(self) -> None:
        found = scores(self.scope)
        ordered = sorted(found, key=lambda pk: (-(found[pk] or 0), pk))
        # The highest, and some of all others; those on lists, stale ones too, are among them.
        sample = [*ordered[:60], *ordered[60::211]]
        for pk in sample:
            self.assertEqual(found[pk], self.score_by_core(pk, self.scope), pk)
        self.assertGreater(sum(1 for pk in sample if found[pk]), 60)
        codes = {choice.key: choice.code for choice in SIGNALS}
        self.assertEqual([codes[key_of(kind)] for kind in SignalKind], list(range(1, len(SignalKind) + 1)))

    def test_worked_by_hand(self) -> None:
        """929 Lantern St on 24 Nov 2026; each weight times 0.5 to the power of days over 365.25."""
        told = explained(self.parcel("12-009-022"), CATALOGUE["urgency"], self.scope)
        self.assertEqual(
            [(line.entry.label, line.entry.text) for line in told.lines],
            [
                ("Tax auction", "40"),  # to be held on 10 Feb 2027
                ("Tax delinquent", "20"),  # confirmed 6 days ago: 20 × 0.9887
                ("Tax judgment", "17"),  # 312 days: 30 × 0.5532
                ("Tax suit", "11"),  # 434 days: 25 × 0.4388
                ("Expired or withdrawn listing", "10"),  # 189 days: 15 × 0.6986
                ("On “Tax unpaid 2026”", "9"),  # 40 days: 10 × 0.9269
                ("On “Absentee, Harbour”", "5"),  # 400 days: 10 × 0.4681
                ("In all", "112"),
            ],
        )
        self.assertEqual(told.value, "100")
        self.assertIn("no more than 100", told.lines[-1].entry.note)
        self.assertEqual([len(line.rows) for line in told.lines], [1, 1, 1, 1, 1, 0, 0, 0])

    def test_it_is_asked_sorted_and_has_an_editor(self) -> None:
        found = scores(self.scope)
        for text, wanted in (
            ("urgency: 50..", {pk for pk, score in found.items() if score is not None and score >= 50}),
            ("urgency: 10..20", {pk for pk, score in found.items() if score is not None and 10 <= score <= 20}),
            ("urgency: 100", {pk for pk, score in found.items() if score == 100}),
            ("urgency: not ..0", {pk for pk, score in found.items() if score is not None and score > 0}),
        ):
            compiled = compile(parse(text), self.scope)
            self.assertEqual(set(compiled.matches.values_list("pk", flat=True)), wanted, text)
            self.assertEqual(balance(compiled).matches, len(wanted))
            self.assertTrue(wanted)
        shown = rows(compile(parse(""), self.scope).matches, ("urgency",), "-urgency", 1)
        self.assertEqual([int(row.cells[0].text) for row in shown], sorted((score or 0 for score in found.values()), reverse=True)[:50])
        everything = compile(parse(""), self.scope)
        editor = editor_of(CATALOGUE["urgency"], None, "", "", everything, fills(everything.counties)["urgency"])
        self.assertEqual(editor.trait.key, "urgency")

    def test_unknown_is_not_zero(self) -> None:
        one, other = ParcelFacts.objects.order_by("pk")[:2]
        ParcelFacts.objects.filter(pk__in=[one.pk, other.pk]).update(signals=None, signal_days=None)
        made = services.make_list(self.scope, "Told by a neighbor", type="reason")
        services.add(self.scope, made, [other.pk])
        found = scores(self.scope)
        self.assertIsNone(found[one.pk])
        on_others = sum(10 for row in services.Membership.objects.filter(parcel=other.pk, removed=None).exclude(list=made))
        self.assertGreaterEqual(found[other.pk] or 0, 10)
        self.assertLessEqual(found[other.pk] or 0, 10 + on_others)
        asked = compile(parse("urgency: 0..100"), self.scope)
        self.assertFalse(asked.matches.filter(pk=one.pk).exists())
        self.assertEqual(balance(asked).lines[0].unknown, 1)

    def test_a_team_has_its_own_weights(self) -> None:
        other = Scope(self.other_team().team, None, self.scope.today)
        before, theirs = scores(self.scope), scores(other)
        weights = {**WEIGHTS, SignalKind.PROBATE: 90, SignalKind.TAX_DELINQUENT: 0}
        absentee = ParcelList.objects.get(name="Absentee, Harbour")
        set_scale(self.scope, Scale(weights, 24), {absentee.pk: 3})
        kept = UrgencyScale.objects.get(team=self.scope.team)
        self.assertEqual(kept.weights, {"probate": 90, "tax-delinquent": 0})
        self.assertEqual(scale_of(self.scope.team).weights, weights)
        after = scores(self.scope)
        self.assertNotEqual(after, before)
        for pk in sorted(after, key=lambda pk: -(after[pk] or 0))[:25]:
            self.assertEqual(after[pk], self.score_by_core(pk, self.scope))
        self.assertEqual(scores(other), theirs)
        # What ships is not kept: it follows what ships later.
        set_scale(self.scope, Scale(), {absentee.pk: 10})
        self.assertEqual(UrgencyScale.objects.get(team=self.scope.team).weights, {})
        self.assertEqual(scores(self.scope), before)
        with self.assertRaises(IntegrityError), transaction.atomic():
            UrgencyScale.objects.filter(team=self.scope.team).update(half_life=0)

    def test_only_lists_of_reasons_that_are_not_stale_count(self) -> None:
        pk = ParcelFacts.objects.filter(signals=[]).exclude(owned_since=None).first().pk
        kinds = {"reason": 20, "campaign": 20, "working-set": 20}
        for kind, weight in kinds.items():
            made = services.make_list(self.scope, f"As a {kind}", type=kind, weight=weight)
            services.add(self.scope, made, [pk])
        before = scores(self.scope)[pk] or 0
        self.assertGreaterEqual(before, 20)
        held = ParcelFacts.objects.get(pk=pk)
        ParcelFacts.objects.filter(pk=pk).update(owned_since=date(2026, 11, 20))
        parcel = Parcel.objects.get(pk=pk)
        lines = explained(parcel, CATALOGUE["urgency"], self.scope).lines
        self.assertIn("stale", " ".join(line.entry.note for line in lines))
        self.assertEqual(scores(self.scope)[pk], 0)
        ParcelFacts.objects.filter(pk=pk).update(owned_since=held.owned_since)
        self.assertEqual(scores(self.scope)[pk], before)

    def test_the_page(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("lists:urgency"))
        self.assertEqual(len(page.context["lines"]), len(SignalKind))
        sent = {name: page.context["form"][name].value() for name in page.context["form"].fields}
        wrong = self.client.post(reverse("lists:urgency"), sent | {"probate": "101", "vacancy": "many", "half_life": "0"})
        self.assertEqual(wrong.status_code, 400)
        for part in ("points of probate", "points of vacancy", "months in which", "many", "Nothing is kept yet"):
            self.assertContains(wrong, part, status_code=400, msg_prefix=part)
        self.assertFalse(UrgencyScale.objects.exists())
        self.assertContains(self.client.post(reverse("lists:urgency"), sent | {"probate": "77"}, follow=True), "your own")
        self.assertEqual(UrgencyScale.objects.get().weights, {"probate": 77})
        self.client.post(reverse("lists:urgency"), {"as-shipped": "1"})
        self.assertEqual(UrgencyScale.objects.get().weights, {})
        # How many have a sign open is what Find finds, most urgent first.
        for line in page.context["lines"]:
            if line.open_now:
                found = self.client.get(line.find)
                self.assertEqual(found.context["balance"].matches, line.open_now, line.kind)
        User.objects.filter(pk=self.user.pk).update(role=User.Role.READER)
        self.assertEqual(self.client.post(reverse("lists:urgency"), sent).status_code, 403)
        with self.assertRaises(PermissionDenied):
            set_scale(Scope(self.user.team, User.objects.get(pk=self.user.pk), self.scope.today), Scale(), {})


_LIFT = """
WITH firsts AS (SELECT county, parcel, kind, year(day) AS in_year, min(day) AS day FROM signs GROUP BY ALL),
reach AS (SELECT county, min(day) AS earliest FROM outcomes GROUP BY county),
cases AS (
  SELECT firsts.*, EXISTS (
    FROM outcomes o WHERE o.parcel = firsts.parcel AND o.day > firsts.day AND o.day <= firsts.day + INTERVAL 1 YEAR
  ) AS is_hit
  FROM firsts JOIN reach USING (county) JOIN counties USING (county) JOIN told USING (county, kind)
  WHERE firsts.day <= counties.through - INTERVAL 1 YEAR AND firsts.day >= earliest
),
yearly AS (SELECT county, year(day) AS in_year, count(DISTINCT parcel) AS came FROM outcomes GROUP BY ALL),
ever AS (SELECT DISTINCT county, parcel, kind FROM signs),
yearly_with AS (
  SELECT ever.county, kind, year(day) AS in_year, count(DISTINCT parcel) AS came FROM ever JOIN outcomes USING (county, parcel) GROUP BY ALL
),
with_sign AS (SELECT county, kind, count(*) AS parcels FROM ever GROUP BY ALL),
by_year AS (SELECT county, kind, in_year, count(*) AS cases, count(*) FILTER (is_hit) AS hits FROM cases GROUP BY ALL)
SELECT kind, sum(cases), sum(hits),
  sum(cases * (coalesce(yearly.came, 0) - coalesce(yearly_with.came, 0)) / (counties.parcels - with_sign.parcels))
FROM by_year JOIN counties USING (county) JOIN with_sign USING (county, kind)
LEFT JOIN yearly USING (county, in_year) LEFT JOIN yearly_with USING (county, kind, in_year)
GROUP BY kind
"""


@thorough
class LiftOnRecord(DemoTestCase):
    """What became of signs, counted once more by DuckDB from the same days."""

    def tables(self) -> duckdb.DuckDBPyConnection:
        duck = duckdb.connect()
        duck.execute("CREATE TABLE signs (county INT, parcel INT, kind VARCHAR, day DATE)")
        duck.execute("CREATE TABLE outcomes (county INT, parcel INT, day DATE)")
        duck.execute("CREATE TABLE counties (county INT, parcels INT, through DATE)")
        duck.execute("CREATE TABLE told (county INT, kind VARCHAR)")
        kinds = dict(zip((choice.code for choice in SIGNALS), SignalKind, strict=True))
        signs, outcomes = [], []
        for county, parcel, codes, days, came in ParcelFacts.objects.values_list(
            "county", "parcel", "signs_ever", "signs_ever_days", "outcome_days"
        ):
            signs += [(county, parcel, kinds[code].value, day) for code, day in zip(codes or (), days or (), strict=True)]
            outcomes += [(county, parcel, day) for day in came or ()]
        duck.executemany("INSERT INTO signs VALUES (?, ?, ?, ?)", signs)
        duck.executemany("INSERT INTO outcomes VALUES (?, ?, ?)", outcomes)
        for county in County.objects.all():
            on_file = dict(Coverage.objects.filter(county=county).values_list("kind", "recorded_through"))
            through = min(on_file[kind] for kind in OUTCOMES_IN)
            count = ParcelFacts.objects.filter(county=county).count()
            duck.execute("INSERT INTO counties VALUES (?, ?, ?)", [county.pk, count, through])
            told = [(county.pk, kind.value) for kind, record in TOLD_BY.items() if record in on_file]
            duck.executemany("INSERT INTO told VALUES (?, ?)", told)
        return duck

    def test_against_duckdb(self) -> None:
        wanted = {kind: (cases, hits, expected) for kind, cases, hits, expected in self.tables().execute(_LIFT).fetchall()}
        found = lifts_on_record()
        self.assertEqual({one.kind for one in found}, set(SignalKind))
        for one in found:
            cases, hits, expected = wanted.get(one.kind.value, (0, 0, 0.0))
            self.assertEqual((one.cases, one.hits), (cases, hits), one.kind)
            self.assertAlmostEqual(one.expected, float(expected), places=6, msg=one.kind)
        said = [one for one in found if not one.is_withheld]
        self.assertGreater(len(said), 10)
        for one in found:
            self.assertEqual(one.is_withheld, one.kind in TRACELESS or one.cases < LEAST_CASES)
        self.assertEqual(lifts_on_record(), found)

    def test_owners_in_distress_sell_more_often(self) -> None:
        """Common practice: within a year some do, most don't. A range above 1 is more than chance."""
        found = {one.kind: one for one in lifts_on_record()}
        for kind in (SignalKind.PROBATE, SignalKind.NOTICE_OF_DEFAULT, SignalKind.LIS_PENDENS, SignalKind.TAX_SUIT, SignalKind.DIVORCE):
            with self.subTest(kind=kind):
                self.assertGreater(found[kind].range[0], 1)
                self.assertTrue(0.05 < found[kind].share < 0.5, found[kind].share)

    def test_the_worker_counts_it_before_somebody_looks(self) -> None:
        put_up_version([])
        count_lifts(0)
        with mock.patch("jaded_ledger.lists.lifts.lifts", side_effect=AssertionError("counted again")):
            self.assertEqual(len(lifts_on_record()), len(SignalKind))
            put_up_version([])
            with self.assertRaisesRegex(AssertionError, "counted again"):
                lifts_on_record()

    def test_the_days_are_those_of_the_recorded_rows(self) -> None:
        """Liens, released ones too, as they were taken in."""
        kinds = {choice.code: kind for choice, kind in zip(SIGNALS, SignalKind, strict=True)}
        recorded: Counter[tuple[str, int, date]] = Counter()
        on_record = set(ParcelFacts.objects.values_list("parcel", flat=True))
        for kind, parcel, day in Lien.objects.filter(superseded_at=None).values_list("kind", "parcels", "recorded_on"):
            if parcel in on_record:
                recorded[LIEN_SIGNALS[LienKind(kind)], parcel, day] = 1
        kept: Counter[tuple[str, int, date]] = Counter()
        for pk, codes, days in ParcelFacts.objects.filter(signs_ever__isnull=False).values_list("pk", "signs_ever", "signs_ever_days"):
            for code, day in zip(codes, days, strict=True):
                if kinds[code] in LIEN_SIGNALS.values():
                    kept[kinds[code], pk, day] = 1
        self.assertEqual(kept, recorded)
        self.assertGreater(len(kept), 200)

    def test_those_who_sold_are_not_missing(self) -> None:
        """An inheritance or an unsold listing of an owner before this one is among the signs, though none of this one's."""
        closed = 0
        for county in county_histories():
            for history in county.histories:
                closed += sum(kind is SignalKind.UNSOLD_LISTING and any(day > on for day in history.outcomes) for kind, on in history.signs)
        self.assertGreater(closed, 50)
