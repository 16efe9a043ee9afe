"""Saved searches: kept, changed, gone back in, opened, compared, followed by lists."""

from __future__ import annotations

import io
import json
from contextlib import redirect_stderr
from dataclasses import replace

from django.core.exceptions import PermissionDenied
from django.core.management import call_command
from django.core.management.base import CommandError
from django.http import QueryDict
from django.urls import reverse

from jaded_ledger.accounts.deletion import DeletionError, delete, undelete, undo_address
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.asking import answer_text, questions, unanswered
from jaded_ledger.core.criteria.display import line_phrase
from jaded_ledger.core.criteria.text import format, parse
from jaded_ledger.core.watching.news import NewsKind
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.rows_by_hand import line_without
from jaded_ledger.find.search_page import SearchPage, search_page_of
from jaded_ledger.lists import services as lists
from jaded_ledger.lists.messages import ListError
from jaded_ledger.lists.models import Membership, ParcelList
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.searches import services
from jaded_ledger.searches.comparison import lines_that_differ
from jaded_ledger.searches.followed_lists import follow, unfollow
from jaded_ledger.searches.matching import reckon, reckon_all
from jaded_ledger.searches.models import Match, SavedSearch
from jaded_ledger.searches.news import changes_in, news_of
from jaded_ledger.searches.services import SearchError, current_version, last_opened, note_opening, page_of, searches_of
from tests.support.clock import later
from tests.support.page_text import page_text
from tests.support.searches import SearchCase, code_of


class Keeping(SearchCase):
    def test_what_goes_with_it(self) -> None:
        out = line_without(self.mine, None, list(ParcelFacts.objects.values_list("pk", flat=True)[:2]))
        assert out is not None
        page = SearchPage(parse("class: triplex\nbeds: ask 3.."), ("beds", "units"), "-beds,units", by="owner")
        page = page.with_search(replace(page.search, lines=(*page.search.lines, out)))
        kept = page_of(current_version(services.save(self.mine, page, "  Three   beds ")), self.mine)
        self.assertEqual((kept.search, kept.columns, kept.sort, kept.by), (page.search, page.columns, page.sort, "owner"))
        self.assertEqual(SavedSearch.objects.get().name, "Three beds")
        self.assertEqual(current_version(SavedSearch.objects.get()).matches, Answer(page, self.mine).balance.matches)

    def test_a_list_that_gets_another_name_stays_meant(self) -> None:
        which = lists.make_list(self.mine, "Harbor")
        saved = self.saved('on-list: any of "Harbor"')
        lists.describe(self.mine, which, "The harbor")
        self.assertEqual(
            format(page_of(current_version(saved), Scope(Team.objects.get(), self.user, self.scope.today)).search),
            'on-list: any of "The harbor"',
        )

    def test_a_name_is_given_once(self) -> None:
        self.saved()
        for name, told in (
            (" ", "Give the search a name"),
            ("TRIPLEXES", "already"),
            ("x" * 81, "81 characters; 80 fit"),
            ("@1", "can’t begin"),
        ):
            with self.subTest(name), self.assertRaisesRegex(SearchError, told):
                self.saved(name=name)
        self.saved(name="x" * 80)
        # Somebody else has names of their own; one that is deleted frees its name.
        services.save(self.colleague(), SearchPage(parse("beds: 1")), "Triplexes")
        delete(self.mine, SavedSearch.objects.get(owner=self.user, name="Triplexes"))
        again = self.saved()
        with self.assertRaisesRegex(DeletionError, "already"):
            undelete(self.mine, SavedSearch.objects.exclude(deleted_at=None).get())
        services.describe(self.mine, again, "Others", folder="", note="", shared=False, protected=False)
        undelete(self.mine, SavedSearch.objects.exclude(deleted_at=None).get())
        self.assertEqual(searches_of(self.mine).count(), 3)

    def test_whose_it_is(self) -> None:
        private, shared = self.saved(), self.saved(name="Ours", shared=True)
        protected = self.saved(name="Only mine to change", shared=True, protected=True)
        ida, reader = self.colleague(), self.colleague("rita", User.Role.READER)
        self.assertEqual({one.name for one in searches_of(ida)}, {"Ours", "Only mine to change"})
        self.assertEqual(searches_of(Scope(self.other_team().team, None, self.scope.today)).count(), 0)  # type: ignore[arg-type]
        services.save_changes(ida, shared, SearchPage(parse("class: duplex")))
        self.assertEqual(current_version(shared).user, ida.user)
        with self.assertRaisesRegex(SearchError, "protected; only nora changes it"):
            services.save_changes(ida, protected, SearchPage(parse("class: duplex")))
        with self.assertRaises(PermissionDenied):
            services.save_changes(reader, shared, SearchPage(parse("class: duplex")))
        with self.assertRaises(PermissionDenied):
            services.save(reader, SearchPage(parse("beds: 1")), "Mine", shared=True)
        services.save(reader, SearchPage(parse("beds: 1")), "Mine")
        self.assertNotIn(private, searches_of(reader))

    def test_versions_and_back(self) -> None:
        saved = self.saved()
        first = current_version(saved)
        self.assertEqual(services.save_changes(self.mine, saved, page_of(first, self.mine)), first)
        services.save_changes(self.mine, saved, SearchPage(parse("class: triplex\nbeds: 4..")))
        services.save_changes(self.mine, saved, SearchPage(parse("class: triplex\nbeds: 4.."), ("beds",)))
        self.assertEqual([one.number for one in saved.versions.all()], [3, 2, 1])
        back = services.put_back(self.mine, saved, 1)
        self.assertEqual((back.number, back.text, back.matches), (4, first.text, first.matches))
        page = self.client.get(reverse("searches:search", args=[saved.pk]))
        lines = [(reads, struck) for reads, struck, _ in page.context["lines"]]
        self.assertEqual(lines, [(line_phrase(line), line.struck) for line in page_of(first, self.mine).search.lines])
        self.assertEqual(page.context["lines"][-1][2], page.context["matches"])
        self.assertIn(" ".join(lines[0][0].split()), page_text(page.content))
        every = page.context["versions"]
        told = [(one.version.number, None if one.changed is None else one.changed.only_one, one.difference) for one in every]
        less = page.context["versions"][2].difference
        self.assertLess(less, 0)
        self.assertEqual(told, [(4, (), -less), (3, (), 0), (2, ("beds 4 or more",), less), (1, None, None)])
        self.client.post(reverse("searches:act", args=[saved.pk]), {"do": "put-back:2"})
        self.assertEqual(current_version(saved).text, "class: triplex\nbeds: 4..")
        self.assertEqual(self.client.post(reverse("searches:act", args=[saved.pk]), {"do": "put-back:77"}).status_code, 404)


class Opening(SearchCase):
    def test_what_it_asks_is_asked_again(self) -> None:
        saved = self.saved("class: triplex\nbeds: ask 3..\nany of:\n  units: ask\n  baths: 2..")
        response = self.client.get(reverse("searches:open", args=[saved.pk]))
        page = self.client.get(response["Location"])
        self.assertEqual([(one.trait.key, one.proposed) for one in page.context["asked"]], [("beds", "3.."), ("units", "")])
        self.assertContains(page, 'value="3.."')
        self.assertEqual(page.context["asked"][0].picture.trait.key, "beds")

    def test_an_answer_is_no_change(self) -> None:
        saved = self.saved("class: triplex\nbeds: ask 3..")
        for text, is_same in (
            ("class: triplex\nbeds: ask 4..", True),
            ("class: triplex\nbeds: ask", True),
            ("class: triplex\nbeds: 3..", False),
        ):
            with self.subTest(text):
                page = SearchPage(parse(text), origin=str(saved.pk))
                self.assertEqual(services.is_as_kept(current_version(saved), page, self.mine), is_same)

    def test_news_are_since_the_visit_before(self) -> None:
        saved = self.saved()
        self.assertIsNone(last_opened(self.mine, saved))
        note_opening(self.mine, saved)
        self.assertIsNone(last_opened(self.mine, saved))
        with later(0.49):
            # Opened again within half an hour, it is the same visit.
            note_opening(self.mine, saved)
            self.assertIsNone(last_opened(self.mine, saved))
        with later(1):
            first = last_opened(self.mine, saved)
            self.assertIsNotNone(first)
            note_opening(self.mine, saved)
            self.assertEqual(last_opened(self.mine, saved), first)
        self.assertIsNone(last_opened(self.colleague(), saved))

    def test_new_gone_and_changed(self) -> None:
        saved = self.saved("class: triplex\nbeds: 3..")
        reckon(saved, self.mine)
        note_opening(self.mine, saved)
        found = ParcelFacts.objects.filter(property_class=code_of("triplex"), beds__gte=3).order_by("pk")
        goes, stays = found[0], found[1]
        comes = ParcelFacts.objects.filter(property_class=code_of("triplex")).exclude(pk__in=found).order_by("pk")[0]
        ParcelFacts.objects.filter(pk=goes.pk).update(beds=2)
        ParcelFacts.objects.filter(pk=comes.pk).update(beds=3)
        ParcelFacts.objects.filter(pk=stays.pk).update(list_price=123_400)
        self.derive()
        with later(1):
            reckon(saved, self.mine)
            news = news_of(saved, last_opened(self.mine, saved))
            self.assertEqual(
                {kind: list(rows) for kind, rows in news.by_kind.items()},
                {NewsKind.NEW: [comes.pk], NewsKind.GONE: [goes.pk], NewsKind.CHANGED: [stays.pk]},
            )
            told = changes_in(news.by_kind[NewsKind.CHANGED][stays.pk])
            self.assertEqual([(one.label, one.now) for one in told], [("list price", "$123,400")])
            # Looked at again nothing has come about.
            reckon(saved, self.mine)
            self.assertEqual(news_of(saved, last_opened(self.mine, saved)).counts, {"new": 1, "gone": 1, "changed": 1})
            page = self.client.get(reverse("searches:search", args=[saved.pk]), {"show": "gone"})
            self.assertContains(page, f"/property/{goes.pk}")
            self.assertContains(self.client.get(reverse("searches:search", args=[saved.pk]), {"show": "changed"}), "$123,400")
        # Back within the time it is no news: it was there before.
        ParcelFacts.objects.filter(pk=goes.pk).update(beds=3)
        self.derive()
        with later(2):
            reckon(saved, self.mine)
            news = news_of(saved, last_opened(self.mine, saved))
            self.assertEqual((news.counts, news.entered), ({"new": 1, "changed": 1}, 1))
        # A figure that is as it was then is no news, as in Morning; what was found once and is found again is back.
        ParcelFacts.objects.filter(pk=stays.pk).update(list_price=stays.list_price)
        ParcelFacts.objects.filter(pk=comes.pk).update(beds=2)
        self.derive()
        with later(3):
            reckon(saved, self.mine)
            self.assertEqual(news_of(saved, last_opened(self.mine, saved)).counts, {})
            opened = now()
        ParcelFacts.objects.filter(pk=comes.pk).update(beds=3)
        self.derive()
        with later(4):
            reckon(saved, self.mine)
            news = news_of(saved, opened)
            self.assertEqual((news.counts, news.entered), ({"back": 1}, 1))
            page = self.client.get(reverse("searches:all"))
            self.assertContains(page, f"{reverse('searches:search', args=[saved.pk])}?show=new")

    def test_what_an_edit_brings_is_no_news(self) -> None:
        saved = self.saved("class: triplex\nbeds: 3..")
        reckon(saved, self.mine)
        note_opening(self.mine, saved)
        with later(1):
            services.save_changes(self.mine, saved, SearchPage(parse("class: triplex\nbeds: 4..5")))
            reckon(saved, self.mine)
            self.assertEqual(news_of(saved, last_opened(self.mine, saved)).counts, {})
            services.save_changes(self.mine, saved, SearchPage(parse("class: triplex")))
            reckon(saved, self.mine)
            self.assertEqual(news_of(saved, last_opened(self.mine, saved)).counts, {})
        self.assertEqual(
            Match.objects.filter(search=saved, left_at=None).count(), Answer(SearchPage(parse("class: triplex")), self.mine).matches.count()
        )

    def test_what_comes_after_an_edit_is_news(self) -> None:
        state = {"q": "class: triplex\nbeds: 3..", "name": "Three"}
        self.client.post(reverse("searches:save"), state)
        saved = SavedSearch.objects.get()
        self.client.post(reverse("searches:save"), {"q": "class: triplex\nbeds: 4..", "from": str(saved.pk), "do": "changes"})
        comes = ParcelFacts.objects.filter(property_class=code_of("triplex")).exclude(beds__gte=4).order_by("pk")
        ParcelFacts.objects.filter(pk=comes[0].pk).update(beds=4)
        self.derive()
        with later(1):
            page = self.client.get(reverse("searches:search", args=[saved.pk]))
            self.assertEqual([(kind, count) for kind, _, count in page.context["news"]], [("new", 1)])
            # Gone back to the version before, and after that something comes again.
            self.client.post(reverse("searches:act", args=[saved.pk]), {"do": "put-back:1"})
        other = ParcelFacts.objects.filter(property_class=code_of("triplex")).exclude(beds__gte=3).order_by("pk")[0]
        ParcelFacts.objects.filter(pk=other.pk).update(beds=3)
        self.derive()
        with later(2):
            page = self.client.get(reverse("searches:search", args=[saved.pk]), {"show": "new"})
            self.assertContains(page, f"/property/{other.pk}")

    def test_one_that_can_not_be_read_says_so(self) -> None:
        saved = self.saved()
        saved.versions.update(text="bedz: 3..")
        response = self.client.get(reverse("searches:open", args=[saved.pk]), follow=True)
        self.assertContains(response, "can’t be read")
        self.assertContains(response, "It can’t be asked")
        self.assertEqual(reckon_all(), 0)


class OnThePage(SearchCase):
    def test_saved_changed_and_saved_again(self) -> None:
        state = {"q": "class: triplex", "columns": "beds", "sort": "-beds"}
        page = self.client.get(reverse("searches:save"), state)
        self.assertContains(page, "class: triplex")
        response = self.client.post(reverse("searches:save"), state | {"name": "<b>Three</b>", "folder": "A & B", "shared": "on"})
        saved = SavedSearch.objects.get()
        self.assertEqual((saved.folder, saved.is_shared, saved.is_protected), ("A & B", True, False))
        found = self.client.get(response["Location"])
        self.assertContains(found, "&lt;b&gt;Three&lt;/b&gt;")
        self.assertEqual(found.context["state"], state | {"from": str(saved.pk)})
        changed = state | {"q": "class: triplex\nbeds: 3..", "from": str(saved.pk)}
        self.assertContains(self.client.get("/", changed), "changed since it was saved")
        self.client.post(reverse("searches:save"), changed | {"do": "changes"})
        self.assertEqual(current_version(saved).number, 2)
        self.assertNotContains(self.client.get("/", changed), "changed since it was saved")
        self.assertContains(self.client.post(reverse("searches:save"), state | {"name": " "}), "Give the search a name", status_code=400)
        self.assertContains(self.client.get(reverse("searches:all")), "A &amp; B")
        self.assertContains(self.client.get("/", {"q": "beds: 3..", "from": "999999999999999999999"}), "Save this search")

    def test_deleted_and_undone(self) -> None:
        saved = self.saved()
        gone = self.client.post(reverse("searches:act", args=[saved.pk]), {"do": "delete"}, follow=True)
        self.assertContains(gone, undo_address(saved))
        self.assertNotContains(gone, reverse("searches:open", args=[saved.pk]))
        self.assertEqual(self.client.get(reverse("searches:open", args=[saved.pk])).status_code, 404)
        self.assertContains(self.client.post(undo_address(saved), follow=True), "restored")
        self.assertEqual(self.client.post(reverse("searches:act", args=[saved.pk]), {"do": "dance"}).status_code, 404)
        # What a colleague shares can be deleted and put back; what is a colleague's own isn't there.
        ida = self.colleague()
        for shared, status in ((True, 302), (False, 404)):
            theirs = services.save(ida, SearchPage(parse("beds: 1")), f"Ida {shared}", shared=shared)
            self.assertEqual(self.client.post(reverse("searches:act", args=[theirs.pk]), {"do": "delete"}).status_code, status)
            delete(ida, theirs)
            self.assertEqual(self.client.post(undo_address(theirs)).status_code, status)

    def test_two_beside_each_other(self) -> None:
        one, other = self.saved("class: triplex\nbeds: 3.."), self.saved("class: triplex\nbaths: 2..", "Baths")
        page = self.client.get(reverse("searches:compare"), {"one": one.pk, "two": other.pk})
        mine, theirs = self.found("class: triplex\nbeds: 3.."), self.found("class: triplex\nbaths: 2..")
        self.assertEqual([count for *_, count in page.context["parts"]], [len(mine & theirs), len(mine - theirs), len(theirs - mine)])
        self.assertContains(page, "beds 3 or more")
        self.assertNotContains(page, '<span class="line-out">class')
        now = self.client.get(reverse("searches:compare"), {"one": one.pk, "two": "now", "q": "class: triplex"})
        self.assertContains(now, "only in what Find shows")
        same = self.client.get(reverse("searches:compare"), {"one": one.pk, "two": one.pk})
        self.assertContains(same, "they ask the same")
        self.assertContains(
            self.client.get(reverse("searches:compare"), {"one": one.pk, "two": "now", "q": "bedz: 1"}), "can’t be compared"
        )
        for query in ({"one": "x", "two": one.pk}, {"one": one.pk}, {"one": 10**9, "two": one.pk}):
            self.assertEqual(self.client.get(reverse("searches:compare"), query).status_code, 404)


class Following(SearchCase):
    def follow(self, saved: SavedSearch, name: str = "Followers") -> ParcelList:
        reckon(saved, self.mine)
        return follow(self.mine, saved, name, page_of(current_version(saved), self.mine))

    def on(self, which: ParcelList) -> set[int]:
        return set(Membership.objects.filter(list=which, removed=None).values_list("parcel_id", flat=True))

    def test_what_it_finds_is_on_the_list(self) -> None:
        saved = self.saved("class: triplex\nbeds: 3..")
        which = self.follow(saved)
        self.assertEqual(self.on(which), self.found("class: triplex\nbeds: 3.."))
        services.save_changes(self.mine, saved, SearchPage(parse("class: triplex\nbeds: 4..")))
        reckon_all()
        self.assertEqual(self.on(which), self.found("class: triplex\nbeds: 4.."))
        # What was put on it by hand comes off, what was taken off comes back.
        lists.remove(self.mine, which, [min(self.on(which))])
        lists.add(self.mine, which, self.found("class: duplex"))
        reckon_all()
        self.assertEqual(self.on(which), self.found("class: triplex\nbeds: 4.."))
        acts = which.memberships.exclude(removed=None).count()
        reckon_all()
        self.assertEqual(which.memberships.exclude(removed=None).count(), acts)
        page = self.client.get(reverse("lists:list", args=[which.pk]))
        self.assertContains(page, "follows the saved search")
        unfollow(self.mine, saved, which.pk)
        services.save_changes(self.mine, saved, SearchPage(parse("class: fourplex")))
        reckon_all()
        self.assertEqual(self.on(which), self.found("class: triplex\nbeds: 4.."))

    def test_a_list_follows_one_search(self) -> None:
        one, other = self.saved(), self.saved("class: duplex", "Others")
        which = self.follow(one)
        self.assertEqual(self.follow(one, "FOLLOWERS"), which)
        with self.assertRaisesRegex(ListError, "follows the search “Triplexes” already"):
            self.follow(other)
        with self.assertRaises(ListError):
            self.follow(other, " ")
        self.assertContains(
            self.client.post(reverse("searches:act", args=[other.pk]), {"do": "follow:", "list": "Followers"}, follow=True), "already"
        )
        with self.assertRaises(PermissionDenied):
            follow(self.colleague(role=User.Role.READER), one, "Mine", page_of(current_version(one), self.mine))
        delete(self.mine, one)
        self.assertNotContains(self.client.get(reverse("lists:list", args=[which.pk])), "follows the saved search")


class Command(SearchCase):
    def run_it(self, *words: str) -> str:
        out = io.StringIO()
        with redirect_stderr(io.StringIO()):
            call_command(*words, stdout=out)
        return out.getvalue()

    def test_they_are_listed(self) -> None:
        self.saved(folder="Farm")
        reckon_all()
        rows = json.loads(self.run_it("searches", "--format", "json"))
        self.assertEqual(
            {key: rows[0][key] for key in ("name", "folder", "owner", "is_starter")},
            {"name": "Triplexes", "folder": "Farm", "owner": "nora", "is_starter": False},
        )
        self.assertEqual(rows[0]["matches"], len(Answer(SearchPage(parse("class: triplex")), self.scope).matches))
        self.assertTrue(all(one["is_starter"] for one in rows[1:]))
        self.assertIn("Absentee with high equity", self.run_it("searches"))

    def test_one_is_run(self) -> None:
        services.save(self.mine, SearchPage(parse("class: triplex\nbeds: ask 3.."), ("beds", "units"), "-beds"), "Three, beds")
        count = json.loads(self.run_it("find", "--saved", "three, BEDS", "--format", "json"))["parcels"]
        self.assertEqual(count, Answer(SearchPage(parse("class: triplex\nbeds: 3..")), self.scope).matches.count())
        self.assertEqual(
            self.run_it("find", "--saved", "Three, beds", "--ask", "beds=4..").split()[0],
            str(Answer(SearchPage(parse("class: triplex\nbeds: 4..")), self.scope).matches.count()),
        )
        table = self.run_it("find", "--saved", "Three, beds", "--as-table").splitlines()
        self.assertEqual(table[0].split(), ["property", "number", "beds", "units"])
        self.assertEqual(len(table) - 1, count)
        rows = json.loads(self.run_it("find", "class: triplex", "--as-table", "--format", "json"))
        self.assertEqual(rows[0].keys() - {"address", "number"}, set(Answer(SearchPage(parse("")), self.scope).columns))
        for words, told in (
            (("--saved", "Three, bed"), "did you mean “Three, beds”"),
            (("class: duplex", "--saved", "Three, beds"), "not both"),
            (("--saved", "Absentee with high equity"), "equity-pct is to be asked"),
            (("--saved", "Three, beds", "--ask", "baths=2"), "baths is not asked"),
        ):
            with self.subTest(words), self.assertRaisesRegex(CommandError, told):
                self.run_it("find", *words)
        services.save(self.colleague(), SearchPage(parse("beds: 1")), "Three, beds")
        with self.assertRaisesRegex(CommandError, "several searches are called"):
            self.run_it("find", "--saved", "Three, beds")


class Lines(SearchCase):
    def test_lines_that_differ(self) -> None:
        one, other = (
            parse("county: Tamarack\nbeds: 3..\nbeds: 3..\n~ baths: 2"),
            parse("beds: 3..\nbaths: 2\nany of:\n  pool: yes\n  units: 2"),
        )
        found = lines_that_differ(one, other)
        self.assertEqual(found.only_one, ("only Tamarack", "beds 3 or more", "off: baths 2"))
        self.assertEqual(found.only_other, ("baths 2", "any of pool yes or units 2"))
        self.assertFalse(lines_that_differ(one, one))
        self.assertTrue(lines_that_differ(one, parse("")))

    def test_questions_are_put_anew(self) -> None:
        search = parse("beds: ask 3..\n~ baths: ask 2..\nany of:\n  units: ask 2\n  pool: yes")
        self.assertEqual(format(unanswered(search)), "beds: ask\n~ baths: ask 2..\nany of:\n  units: ask\n  pool: yes")
        self.assertEqual(format(unanswered(search, but=["units"])), "beds: ask\n~ baths: ask 2..\nany of:\n  units: ask 2\n  pool: yes")
        self.assertEqual([answer_text(one) for one in questions(search)], ["3..", "2"])
        self.assertEqual([answer_text(one) for one in questions(unanswered(search))], ["", ""])

    def test_an_empty_find_is_one_that_asks_nothing(self) -> None:
        for query, is_so in (
            ("", True),
            ("room=900", True),
            ("face=charts", True),
            ("q=beds:3..", False),
            ("q=county:Tamarack", False),
            ("sort=street", False),
            ("columns=beds", False),
            ("page=2", False),
            ("by=owner", False),
            ("from=1", False),
        ):
            with self.subTest(query):
                self.assertEqual(search_page_of(QueryDict(query), self.scope.team).asks_nothing, is_so)
        page = self.client.get("/")
        self.assertContains(page, "A first search, step by step")
        self.assertContains(page, "Absentee with high equity")
        self.assertNotContains(page, "data-parcel=")
        self.saved()
        self.assertContains(self.client.get("/"), "Triplexes")
        self.assertContains(self.client.get("/", {"sort": "street"}), "data-parcel=")
