"""Saved searches against what they must come to: edits gone back in, pairs compared, a list followed and a search watched for ten days."""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import dataclass
from datetime import timedelta

from django.core.management import call_command
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisCase

from jaded_ledger.accounts.scope import Scope, scope_of_command
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.results import Plain, value_of, with_values
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists.models import Membership
from jaded_ledger.records.models import SourceFile
from jaded_ledger.searches import services
from jaded_ledger.searches.comparison import compare, lines_that_differ
from jaded_ledger.searches.followed_lists import follow
from jaded_ledger.searches.matching import WATCHED, reckon, reckon_all
from jaded_ledger.searches.models import Match, SavedSearch
from jaded_ledger.searches.services import current_version, page_of
from jaded_ledger.watch.morning import mark_read, morning_of
from jaded_ledger.watch.news import Item
from jaded_ledger.watch.reasons import reason_of
from jaded_ledger.watch.telling import run_due
from jaded_ledger.watch.watching import watch
from tests.support.demo import DemoTestCase
from tests.support.strategies import searches
from tests.support.tiers import thorough

FEW = settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
LINES = (
    "class: triplex", "class: duplex, fourplex", "beds: 3..", "owner-occupied: no", "~ pool: yes", "equity-pct: 40.., or unknown",
    "any of:\n  owner-kind: company\n  tax-due: 500..", "year-built: not 1946..1960", "last-sale: more than 5 years ago",
)  # fmt: skip


@thorough
class Random(HypothesisCase, DemoTestCase):
    @FEW
    @given(st.lists(searches().map(lambda search: Search((), search.lines)), min_size=1, max_size=5), st.data())
    def test_every_version_can_be_gone_back_to(self, edits: list[Search], data: st.DataObject) -> None:
        mine = Scope(self.scope.team, self.user, self.scope.today)
        saved = services.save(mine, SearchPage(edits[0]), "Random")
        for search in edits[1:]:
            services.save_changes(mine, saved, SearchPage(search))
        # A change that changes nothing is no version.
        kept = [search for place, search in enumerate(edits) if place == 0 or search != edits[place - 1]]
        versions = list(saved.versions.order_by("number"))
        self.assertEqual([page_of(one, mine).search for one in versions], kept)
        number = data.draw(st.integers(1, len(kept)))
        services.put_back(mine, saved, number)
        self.assertEqual(page_of(current_version(saved), mine).search, kept[number - 1])
        self.assertEqual(list(saved.versions.order_by("number"))[: len(versions)], versions)

    @FEW
    @given(*[st.lists(st.sampled_from(LINES), max_size=4)] * 2)
    def test_two_compared(self, one: list[str], other: list[str]) -> None:
        mine, theirs = (Answer(SearchPage(parse("\n".join(lines))), self.scope) for lines in (one, other))
        found = compare(mine, theirs)
        in_mine, in_theirs = (set(answer.matches.values_list("pk", flat=True)) for answer in (mine, theirs))
        told = [set(parcels.values_list("pk", flat=True)) for parcels in (found.both, found.only_one, found.only_other)]
        self.assertEqual(told, [in_mine & in_theirs, in_mine - in_theirs, in_theirs - in_mine])
        differs = lines_that_differ(mine.asked.search, theirs.asked.search)
        self.assertEqual(len(one) - len(differs.only_one), len(other) - len(differs.only_other))
        self.assertEqual(bool(differs), sorted(one) != sorted(other))


WATCHED_TEXTS = (
    'on-offer: any of "for-sale"', "status-since: last 30 days", "class: duplex\nopen-signals: 1..", "days-on-market: 60..",
    "out-of-state: yes\nany of:\n  tax-years-delinquent: 1..\n  open-signals: 1..\nequity-pct: 30..",
)  # fmt: skip


@dataclass(frozen=True)
class State:
    """A search asked anew: what each line alone leaves, what is left by all, and what is watched of that."""

    lines: tuple[frozenset[int], ...]
    matches: dict[int, dict[str, Plain]]


def state_of(search: Search, scope: Scope) -> State:
    traits = [CATALOGUE[key] for key in WATCHED]
    alone = [compile(Search(search.counties, (line,)), scope).matches for line in search.lines]
    rows = with_values(compile(search, scope).matches, traits)
    matches = {row.pk: {trait.key: value_of(row, trait) for trait in traits} for row in rows}
    return State(tuple(frozenset(one.values_list("pk", flat=True)) for one in alone), matches)


@thorough
class TenDays(DemoTestCase):
    """Lists follow searches and a user watches them, through ten days: each day as the whole states of before and after compare."""

    def test_each_day_is_the_search_asked_anew(self) -> None:
        mine = Scope(self.scope.team, self.user, self.scope.today)
        self.told: Counter[str] = Counter()
        saved = [services.save(self.scope, SearchPage(parse(text)), text[:60]) for text in WATCHED_TEXTS]
        SavedSearch.objects.update(is_shared=True)
        lists = []
        for one in saved:
            reckon(one, self.scope)
            lists.append(follow(self.scope, one, f"Follows {one}"[:70], page_of(current_version(one), self.scope)))
            watch(mine, one, "morning")
        before = self.states(saved, mine)
        changed = 0
        for _ in range(10):
            call_command("demo_day", verbosity=0, stdout=open("/dev/null", "w"))  # noqa: SIM115
            reckon_all()
            # The round that tells finds what was reckoned; another at once finds nothing to do.
            self.assertEqual((run_due(every=True).watches, run_due().asked), (len(saved), 0))
            scope = scope_of_command()
            after = self.states(saved, Scope(mine.team, mine.user, scope.today))
            for one, which in zip(saved, lists, strict=True):
                anew = set(after[one.pk].matches)
                on_it = set(Membership.objects.filter(list=which, removed=None).values_list("parcel_id", flat=True))
                self.assertEqual(on_it, anew, f"{one} on {scope.today}")
                there = Match.objects.filter(search=one)
                self.assertEqual(set(there.filter(left_at=None).values_list("parcel_id", flat=True)), anew)
                came = there.filter(left_at=None, entered_at__date=scope.today).values_list("parcel_id", flat=True)
                added = Membership.objects.filter(list=which, removed=None, added_on=scope.today).values_list("parcel_id", flat=True)
                self.assertEqual(set(came), set(added))
                changed += len(came)
            self.check_morning(Scope(mine.team, mine.user, scope.today), before, after)
            before = after
        self.assertGreater(changed, 0)
        # Whoever left and came back has a row for each time.
        self.assertGreater(Match.objects.exclude(left_at=None).count(), 0)
        for kind in ("new", "gone", "changed", "cheaper", "by a row", "by the day"):
            self.assertGreater(self.told[kind], 0, kind)

    @staticmethod
    def states(saved: list[SavedSearch], scope: Scope) -> dict[int, State]:
        return {one.pk: state_of(page_of(current_version(one), scope).search, scope) for one in saved}

    def check_morning(self, scope: Scope, before: dict[int, State], after: dict[int, State]) -> None:
        found = morning_of(scope)
        by_search: dict[int, list[Item]] = defaultdict(list)
        for item in found.items:
            by_search[item.watch.search_id].append(item)
        for pk, now_state in after.items():
            then, now = before[pk].matches, now_state.matches
            came, went = now.keys() - then.keys(), then.keys() - now.keys()
            other = {parcel for parcel in now.keys() & then.keys() if self.known(now[parcel]) != self.known(then[parcel])}
            told = {kind: {one.parcel_id for one in by_search[pk] if one.news.kind.value in kind} for kind in (("new", "back"), ("gone",))}
            self.assertEqual(told[("gone",)], went)
            self.assertEqual(told[("new", "back")] - other, came)
            self.assertEqual({one.parcel_id for one in by_search[pk]}, came | went | other)
            for item in by_search[pk]:
                self.told[item.news.kind.value] += 1
                if item.parcel_id in other:
                    was, is_now = self.known(then[item.parcel_id]), self.known(now[item.parcel_id])
                    is_cheaper = "list-price" in was and "list-price" in is_now and is_now["list-price"] < was["list-price"]
                    self.assertIn(item.news.kind.value, ("cheaper", "back") if is_cheaper else ("changed", "back"))
                    self.assertEqual(item.news.differs(WATCHED), [key for key in WATCHED if was.get(key) != is_now.get(key)])
            for item in by_search[pk][:12]:
                self.check_reason(item, scope, before[pk], now_state)
        mark_read(scope, found.watches)
        self.assertEqual(morning_of(scope).items, ())

    @staticmethod
    def known(values: dict[str, Plain]) -> dict[str, Plain]:
        return {key: value for key, value in values.items() if value not in (None, NONE)}

    def check_reason(self, item: Item, scope: Scope, before: State, now: State) -> None:
        reason = reason_of(item, scope)
        self.assertEqual(reason.unknown, "")
        if item.parcel_id in before.matches and item.parcel_id in now.matches:
            self.assertTrue(reason.traits)
            return
        self.assertEqual(len(reason.lines), len(now.lines))
        for line, then, is_now in zip(reason.lines, before.lines, now.lines, strict=True):
            self.assertEqual(line.before == "held", item.parcel_id in then)
            self.assertEqual(line.now == "holds", item.parcel_id in is_now)
            pairs = {"held": "holds", "did not hold": "does not hold", "not known": "not known"}
            self.assertEqual(line.is_other, pairs[line.before] != line.now)
            for row in line.rows:
                self.told["by a row"] += 1
                # Its file may have begun before the run before, but was not done then; what ended is named as well.
                moments = [moment for moment in (row.row.recorded_at, row.row.superseded_at) if moment]
                files = dict(SourceFile.objects.filter(taken_in_at__in=moments).values_list("taken_in_at", "seconds"))
                seen = [moment + timedelta(seconds=files.get(moment, 0)) for moment in moments]
                self.assertTrue(any(reason.since < moment <= reason.at for moment in seen))
            self.told["by the day"] += line.because.startswith("the day")
            self.assertEqual(bool(line.rows or line.because), line.is_other)
