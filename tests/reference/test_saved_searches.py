"""Saved searches against what they must come to: random edits gone back in, random pairs compared, a list followed through ten days."""

from __future__ import annotations

from django.core.management import call_command
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisCase

from jaded_ledger.accounts.scope import Scope, scope_of_command
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists.models import Membership
from jaded_ledger.searches import services
from jaded_ledger.searches.comparison import compare, lines_that_differ
from jaded_ledger.searches.followed_lists import follow
from jaded_ledger.searches.matching import reckon, reckon_all
from jaded_ledger.searches.models import Match
from jaded_ledger.searches.services import current_version, page_of
from tests.demo import DemoTestCase
from tests.strategies import searches

FEW = settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
LINES = (
    "class: triplex", "class: duplex, fourplex", "beds: 3..", "owner-occupied: no", "~ pool: yes", "equity-pct: 40.., or unknown",
    "any of:\n  owner-kind: company\n  tax-due: 500..", "year-built: not 1946..1960", "last-sale: more than 5 years ago",
)  # fmt: skip


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


class TenDays(DemoTestCase):
    TEXTS = ('on-offer: any of "for-sale"', "status-since: last 30 days", "class: duplex\nopen-signals: 1..", "days-on-market: 60..")

    def test_a_list_that_follows_is_the_search_asked_anew(self) -> None:
        saved = [services.save(self.scope, SearchPage(parse(text)), text) for text in self.TEXTS]
        lists = []
        for one in saved:
            reckon(one, self.scope)
            lists.append(follow(self.scope, one, f"Follows {one}", page_of(current_version(one), self.scope)))
        changed = 0
        for _ in range(10):
            call_command("demo_day", verbosity=0, stdout=open("/dev/null", "w"))  # noqa: SIM115
            reckon_all()
            scope = scope_of_command()
            for one, which in zip(saved, lists, strict=True):
                anew = set(Answer(page_of(current_version(one), scope), scope).matches.values_list("pk", flat=True))
                on_it = set(Membership.objects.filter(list=which, removed=None).values_list("parcel_id", flat=True))
                self.assertEqual(on_it, anew, f"{one} on {scope.today}")
                there = Match.objects.filter(search=one)
                self.assertEqual(set(there.filter(left_at=None).values_list("parcel_id", flat=True)), anew)
                came = there.filter(left_at=None, entered_at__date=scope.today).values_list("parcel_id", flat=True)
                added = Membership.objects.filter(list=which, removed=None, added_on=scope.today).values_list("parcel_id", flat=True)
                self.assertEqual(set(came), set(added))
                changed += len(came)
        self.assertGreater(changed, 0)
        # Whoever left and came back has a row for each time.
        self.assertGreater(Match.objects.exclude(left_at=None).count(), 0)
