"""Lists, tags and stages: asked like any trait, changed by acts that can be undone, kept apart from other teams'."""

from __future__ import annotations

import io
import json
import random
from concurrent.futures import ThreadPoolExecutor
from datetime import date, timedelta
from unittest import mock
from urllib.parse import urlencode

from django.core.exceptions import PermissionDenied
from django.core.management import CommandError, call_command
from django.db import connection
from django.urls import reverse

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope, scope_of_command
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.core.title.passing import Held, has_passed
from jaded_ledger.find.balance import balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.fill import fills
from jaded_ledger.find.line_editor import editor_of
from jaded_ledger.find.models import Selection
from jaded_ledger.find.results import rows
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep, parcels_of
from jaded_ledger.lists import services
from jaded_ledger.lists.counts import counted, current, exactly, lists_of
from jaded_ledger.lists.current_rows import memberships
from jaded_ledger.lists.messages import ListError
from jaded_ledger.lists.models import Activity, Membership, ParcelList, Stage, StageEntry, Tagging
from jaded_ledger.lists.row_marks import list_marks
from jaded_ledger.lists.stages import rename_stage
from jaded_ledger.lists.staleness import fresh_memberships, stale_memberships, stale_on
from jaded_ledger.mailings.mailings import plan_of
from jaded_ledger.mailings.models import Mailing
from jaded_ledger.records.models import ParcelFacts
from tests.support.demo import DemoServerCase, DemoTestCase
from tests.support.page_text import page_text
from tests.support.tiers import at_all_hours, thorough


class ListCase(DemoTestCase):
    def setUp(self) -> None:
        self.scope = scope_of_command()
        self.parcels = list(ParcelFacts.objects.order_by("pk").values_list("pk", flat=True)[:600])

    def ask(self, text: str) -> set[int]:
        found = compile(parse(text), self.scope)
        ids = set(found.matches.values_list("pk", flat=True))
        self.assertEqual(balance(found).matches, len(ids))
        # Of what the team itself keeps nothing is ever unknown.
        for line, figures in zip(found.search.lines, balance(found).lines, strict=True):
            if all(CATALOGUE[member.trait].of_team for member in line.members()):
                self.assertEqual(figures.unknown, 0)
        return ids

    def state(self) -> list[object]:
        """Return all that stands of lists, tags and stages."""
        return [
            sorted(lists_of(self.scope.team).values_list("name", "type", "reason")),
            sorted(Membership.objects.filter(list__deleted=None, removed=None).values_list("list__name", "parcel_id", "added_on", "value")),
            sorted(Tagging.objects.filter(removed=None).values_list("tag__name", "parcel_id", "tagged_on")),
            sorted(StageEntry.objects.filter(superseded=None, stage__isnull=False).values_list("parcel_id", "stage__name", "since")),
        ]


@at_all_hours
class Asked(ListCase):
    def test_stacks_are_asked_as_sets_are(self) -> None:
        rng = random.Random(5)
        sets = {name: set(rng.sample(self.parcels, 200)) for name in ("Alpha", "Beta “b”", "Gamma")}
        for name, ids in sets.items():
            services.add(self.scope, services.make_list(self.scope, name, type="campaign" if name == "Gamma" else "reason"), ids)
        a, b, c = sets.values()
        every = set(ParcelFacts.objects.values_list("pk", flat=True))
        mine = parse('on-list: any of "alpha", "beta “b”", "gamma"')
        for text, wanted in (
            ('on-list: any of "alpha", "gamma"', a | c),
            ('on-list: all of "alpha", "beta “b”", "gamma"', a & b & c),
            ('on-list: all of "alpha", "gamma"; none of "beta “b”"', (a & c) - b),
            ('on-list: none of "alpha"', every - a),
            ("campaigns-held: 1..", c | self.campaign()),
            ('tag: "none yet"', None),
        ):  # fmt: skip
            with self.subTest(text):
                if wanted is None:
                    with self.assertRaisesRegex(CriteriaError, "none of your team's tags"):
                        self.ask(text)
                else:
                    self.assertEqual(self.ask(text), wanted)
        shipped = self.held()
        for low, high in ((1, 1), (2, None), (3, None), (0, 1), (None, 2), (0, 0)):
            text = f"lists-held: {'' if low is None else low}..{'' if high is None else high}" if low != high else f"lists-held: {low}"
            wanted = {pk for pk in every if (low or 0) <= shipped.get(pk, 0) <= (99 if high is None else high)}
            with self.subTest(text):
                self.assertEqual(self.ask(text), wanted)
        self.assertEqual(self.ask("list-added: in the last 30 days") & set(self.parcels), (a | b | c) & set(self.parcels))
        self.assertEqual(self.ask("list-added: none"), every - set(shipped))
        self.assertEqual(self.ask("on-list: any"), set(shipped))
        # A stack stands beside any other trait, shows, sorts and has an editor.
        both = self.ask('on-list: any of "alpha"\nowner-occupied: no')
        self.assertEqual(both, a & set(ParcelFacts.objects.filter(owner_occupied=False).values_list("pk", flat=True)))
        shown = rows(compile(mine, self.scope).matches, ("on-list", "lists-held", "stage"), "-lists-held", 1)
        self.assertEqual(shown[0].cells[1].text, str(max(shipped[pk] for pk in a | b | c)))
        self.assertIn("Alpha", "".join(cell.text for row in shown for cell in row.cells))
        everything = compile(parse(""), self.scope)
        options = editor_of(CATALOGUE["on-list"], None, "", "", everything, fills(everything.counties)["on-list"]).options
        self.assertEqual({option.value: option.count for option in options}["Alpha"], len(a))

    def campaign(self) -> set[int]:
        """Return what is on the demo's campaign."""
        return set(Membership.objects.filter(list__name="Estates, spring letters", removed=None).values_list("parcel_id", flat=True))

    def held(self) -> dict[int, int]:
        found: dict[int, int] = {}
        for pk in Membership.objects.filter(list__deleted=None, removed=None).values_list("parcel_id", flat=True):
            found[pk] = found.get(pk, 0) + 1
        return found

    def test_tags_and_stages(self) -> None:
        first, second = set(self.parcels[:20]), set(self.parcels[10:40])
        services.tag(self.scope, "Hot", first)
        services.tag(self.scope, "  corner   LOT ", second)
        services.set_stage(self.scope, "comping", first)
        services.set_stage(self.scope, "Offer out", second)
        self.assertEqual(self.ask('tag: all of "hot", "Corner lot"'), first & second)
        mine = set(self.parcels)
        self.assertEqual(self.ask('stage: "comping"') & mine, first - second)
        self.assertEqual(self.ask('stage: any of "comping", "offer out"') & mine, first | second)
        self.assertEqual(self.ask("tagged: in the last 1 days") & mine, first | second)
        self.assertEqual(self.ask("stage-since: since today") & mine, first | second)
        # The stage before stays as history.
        self.assertEqual(StageEntry.objects.filter(parcel_id=self.parcels[15]).count(), 2)
        with self.assertRaisesRegex(ListError, "none of your team's stages"):
            services.set_stage(self.scope, "daydreaming", first)

    def test_another_team_sees_none_of_it(self) -> None:
        other = Scope(self.other_team().team, None, self.scope.today)
        mine = services.make_list(self.scope, "Mine")
        services.add(self.scope, mine, self.parcels[:9])
        self.assertEqual(compile(parse("on-list: any"), other).matches.count(), 0)
        with self.assertRaises(CriteriaError):
            compile(parse('on-list: "Mine"'), other)
        with self.assertRaises(ListError):
            services.add(other, mine, self.parcels)
        services.make_list(other, "Mine")
        self.client.force_login(User.objects.get(username="oskar"), backend="django.contrib.auth.backends.ModelBackend")
        for name, args in (("list", [mine.pk]), ("act", [mine.pk]), ("undo", [mine.made_id])):
            answer = self.client.post(reverse(f"lists:{name}", args=args), {"do": "delete", "name": "x", "type": "reason"})
            self.assertEqual(answer.status_code, 404)


@at_all_hours
class Undone(ListCase):
    def test_every_act_can_be_undone_and_leaves_no_trace(self) -> None:
        alpha = services.make_list(self.scope, "Alpha")
        services.add(self.scope, alpha, self.parcels[:50])
        services.tag(self.scope, "hot", self.parcels[:30])
        services.set_stage(self.scope, "comping", self.parcels[:30])
        for act in (
            lambda: services.add(self.scope, alpha, self.parcels[40:80]),
            lambda: services.remove(self.scope, alpha, self.parcels[20:60]),
            lambda: services.delete_list(self.scope, alpha),
            lambda: services.tag(self.scope, "hot", self.parcels[20:60]),
            lambda: services.tag(self.scope, "new", self.parcels[20:60]),
            lambda: services.untag(self.scope, "hot", self.parcels),
            lambda: services.set_stage(self.scope, "offer out", self.parcels[20:60]),
            lambda: services.set_stage(self.scope, "", self.parcels[20:60]),
            lambda: services.make_list(self.scope, "Beta").made,
        ):
            before = self.state()
            done = act()
            self.assertNotEqual(self.state(), before)
            services.undo(self.scope, done)
            self.assertEqual(self.state(), before)
            with self.assertRaisesRegex(ListError, "undone before"):
                services.undo(self.scope, done)

    def test_undoing_the_newest_first_goes_back_all_the_way(self) -> None:
        rng, done, states = random.Random(3), [], []
        alpha = services.make_list(self.scope, "Alpha")
        for _ in range(25):
            ids = rng.sample(self.parcels, 60)
            states.append(self.state())
            act = rng.choice(
                [
                    lambda ids=ids: services.add(self.scope, alpha, ids),
                    lambda ids=ids: services.remove(self.scope, alpha, ids),
                    lambda ids=ids: services.tag(self.scope, "hot", ids),
                    lambda ids=ids: services.untag(self.scope, "hot", ids),
                    lambda ids=ids: services.set_stage(self.scope, rng.choice(["comping", "passed", ""]), ids),
                ]
            )()
            done.append(act)
        for act, before in zip(reversed(done), reversed(states), strict=True):
            if act is not None:
                services.undo(self.scope, act)
            self.assertEqual(self.state(), before)

    def test_what_was_done_since_is_kept(self) -> None:
        alpha = services.make_list(self.scope, "Alpha")
        services.add(self.scope, alpha, self.parcels[:10])
        gone = services.remove(self.scope, alpha, self.parcels[:10])
        services.add(self.scope, alpha, self.parcels[:5])
        self.assertEqual(services.undo(self.scope, gone), 5)
        self.assertEqual(current([alpha]).count(), 10)

    def test_the_same_twice_is_harmless_and_it_is_too_late_after_a_month(self) -> None:
        alpha = services.make_list(self.scope, "Alpha")
        done = services.add(self.scope, alpha, [*self.parcels[:10], *self.parcels[:10], 10**15])
        self.assertEqual(done.rows, 10)
        self.assertIsNone(services.add(self.scope, alpha, self.parcels[:10]))
        self.assertIsNone(services.remove(self.scope, alpha, self.parcels[50:60]))
        Activity.objects.filter(pk=done.pk).update(at=services.now() - timedelta(days=31))
        with self.assertRaisesRegex(ListError, "thirty days"):
            services.undo(self.scope, done)

    def test_names_and_readers(self) -> None:
        services.make_list(self.scope, "  Alpha\n beta ")
        for name, told in (("alpha BETA", "already"), (" ", "no name"), ("x" * 81, "at most 80")):
            with self.assertRaisesRegex(ListError, told):
                services.make_list(self.scope, name)
        self.user.role = User.Role.READER
        with self.assertRaises(PermissionDenied):
            services.make_list(Scope(self.scope.team, self.user, self.scope.today), "Gamma")


@at_all_hours
class Stale(ListCase):
    def test_the_database_and_the_core_agree_over_the_demo(self) -> None:
        found = set(stale_memberships(Membership.objects.filter(removed=None)).values_list("pk", flat=True))
        wanted = set()
        for row in Membership.objects.filter(removed=None).select_related("owner_name", "parcel__facts__owner_name"):
            facts = row.parcel.facts
            then = Held(row.owner_name_id, row.owner_name.surnames if row.owner_name else (), row.owned_since)
            now = Held(facts.owner_name_id, facts.owner_name.surnames if facts.owner_name else (), facts.owned_since)
            if has_passed(then, now, row.added_on):
                wanted.add(row.pk)
        self.assertEqual(found, wanted)
        self.assertGreater(len(found), 50)
        self.assertEqual(sum(one.stale for one in counted(self.scope.team)), len(found))
        parcels = set(Membership.objects.filter(pk__in=found).values_list("parcel_id", flat=True))
        self.assertEqual(self.ask("stale-on-list: yes"), parcels)
        # The marks in a table's rows say so, too.
        rows = memberships(self.scope)
        marks = list_marks(set(rows.values_list("parcel", flat=True)), self.scope)
        self.assertEqual(sum(map(len, marks.values())), rows.count())
        self.assertEqual({parcel for parcel, of in marks.items() if any(mark.is_stale for mark in of)}, parcels)

    def test_dropped_in_one_act_and_back_again(self) -> None:
        one = next(one for one in counted(self.scope.team) if one.stale)
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        before = self.state()
        page = self.client.get(reverse("lists:list", args=[one.list.pk]))
        self.assertIn(f"Drop the {one.stale:,} stale", page_text(page.content))
        self.client.post(reverse("lists:act", args=[one.list.pk]), {"do": "drop-stale"})
        after = next(row for row in counted(self.scope.team) if row.list == one.list)
        self.assertEqual((after.count, after.stale), (one.count - one.stale, 0))
        services.undo(self.scope, Activity.objects.filter(verb="drop-stale").latest("pk"))
        self.assertEqual(self.state(), before)

    def test_no_label_for_who_sold_since_unless_asked(self) -> None:
        text = 'on-list: any of "Absentee, Harbour"'
        found = compile(parse(text), self.scope)
        stale = stale_on(found.search, self.scope)
        self.assertEqual(len(stale), next(one.stale for one in counted(self.scope.team) if one.list.name == "Absentee, Harbour"))
        run = plan_of(Mailing(), found.matches, stale, self.scope)
        refused = {refusal.parcel_id for refusal in run.made.refusals if refusal.reason == Reason.STALE}
        # Whom another reason refuses before is refused for that, stale or not.
        before = (Reason.NO_ADDRESS, Reason.DO_NOT_MAIL, Reason.RECENT)
        others = {refusal.parcel_id for refusal in run.made.refusals if refusal.reason in before}
        self.assertEqual(refused, set(stale) - others)
        self.assertTrue(refused)
        self.assertFalse(refused & {piece.parcel_id for piece in run.made.pieces})
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        kept = self.client.post(reverse("find:keep-selection"), {"q": text, "all": "1", "then": "mail"})
        page = self.client.get(kept["Location"], follow=True)
        self.assertContains(page, Reason.STALE.words)
        let_go = self.client.post(f"{page.redirect_chain[-1][0]}change", {"relaxed": "stale"}, follow=True)
        self.assertContains(let_go, '<tr class="struck">')
        # However the lists are asked for, those that are stale on one of them are known.
        for text, among in (
            ("on-list: any", Membership.objects.all()),
            ("lists-held: 2..", Membership.objects.all()),
            ("list-added: in the last 9 years", Membership.objects.all()),
            ("reasons-held: 1..", Membership.objects.filter(list__type="reason")),
            ("campaigns-held: 1..", Membership.objects.filter(list__type="campaign")),
        ):
            wanted = set(stale_memberships(among.filter(removed=None)).values_list("parcel_id", flat=True))
            self.assertEqual(set(stale_on(parse(text), self.scope)), wanted, text)
        # A search that asks for no list knows of nobody who is stale.
        self.assertEqual(stale_on(parse("owner-occupied: no"), self.scope), {})
        self.assertEqual(stale_on(parse(f"~ {text}"), self.scope), {})

    def test_a_row_is_kept_as_it_stood(self) -> None:
        facts = ParcelFacts.objects.exclude(owned_since=None).exclude(estimated_value=None).first()
        alpha = services.make_list(self.scope, "Alpha")
        services.add(self.scope, alpha, [facts.pk], "beds: 3..")
        row = Membership.objects.get(list=alpha)
        self.assertEqual((row.owner_name_id, row.owned_since, row.value), (facts.owner_name_id, facts.owned_since, facts.estimated_value))
        self.assertEqual((row.added.search, row.added_on), ("beds: 3..", self.scope.today))
        ParcelFacts.objects.filter(pk=facts.pk).update(owned_since=date(2026, 11, 20))
        self.assertTrue(stale_memberships(current([alpha])).exists())


class Pages(ListCase):
    def setUp(self) -> None:
        super().setUp()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    @thorough
    def test_five_lists_of_the_demo_and_their_overlap(self) -> None:
        page = self.client.get(reverse("lists:all"))
        self.assertEqual(len(page.context["rows"]), 5)
        lists = list(lists_of(self.scope.team))
        for counting, stale in (("exactly", "stale=on"), ("at-least", "stale=on"), ("exactly", ""), ("at-least", "")):
            page = self.client.get(f"{reverse('lists:overlap')}?counting={counting}&order=lists&{stale}")
            drawing = page.context["drawing"]
            rows = current if stale else lambda chosen: fresh_memberships(current(chosen))
            self.assertEqual([row.size for row in drawing.rows], [rows([parcel_list]).count() for parcel_list in lists])
            for line in drawing.table[:6]:
                self.assertEqual(self.client.get(line.find).context["balance"].matches, line.combination.count)

    def test_overlap_counts_what_sets_count(self) -> None:
        lists = list(lists_of(self.scope.team))
        sets = [set(current([parcel_list]).values_list("parcel_id", flat=True)) for parcel_list in lists]
        wanted: dict[int, int] = {}
        for parcel in set().union(*sets):
            mask = sum(1 << place for place, one in enumerate(sets) if parcel in one)
            wanted[mask] = wanted.get(mask, 0) + 1
        self.assertEqual(exactly(lists), wanted)

    def test_from_a_selection(self) -> None:
        answer = self.client.post(reverse("find:keep-selection"), {"q": "class: duplex", "all": "1", "then": "keep"})
        key = Selection.objects.get().key
        self.assertRedirects(answer, reverse("lists:keep", args=[key]))
        duplexes = self.ask("class: duplex")
        made = services.make_list(self.scope, "Two-flats")
        for sent in ({"do": "list", "list": str(made.pk)}, {"do": "tag", "tag": "two"}, {"do": "stage", "stage": "closed"}):
            for times in (len(duplexes), 0):
                said = self.client.post(answer["Location"], sent, follow=True)
                self.assertContains(said, f"{times:,} of {len(duplexes):,}")
        self.assertEqual(self.ask('on-list: "two-flats"\ntag: "two"\nstage: "closed"'), duplexes)
        off = self.client.post(answer["Location"], {"do": "unlist", "list": str(made.pk)}, follow=True)
        self.assertContains(off, f"{len(duplexes):,} of {len(duplexes):,} removed from")
        self.assertEqual(current([made]).count(), 0)
        services.undo(self.scope, Activity.objects.latest("pk"))
        self.assertContains(self.client.post(answer["Location"], {"do": "list", "name": "two-FLATS"}), "already", status_code=400)
        self.assertEqual(self.client.post(answer["Location"], {"do": "fly"}).status_code, 404)

    def test_from_a_file_with_what_was_not_found(self) -> None:
        sent = {"name": "From <b>city</b>", "type": "reason", "pasted": "12-001-019\n328 Capstain Street\n12-002-001"}
        page = self.client.post(reverse("lists:new"), sent)
        self.assertContains(page, "2 of 3 lines name a parcel")
        self.assertContains(page, "328 CAPSTAN ST")
        self.assertFalse(ParcelList.objects.filter(name__startswith="From").exists())
        file = io.BytesIO(sent.pop("pasted").encode())
        file.name = "city.csv"
        made = self.client.post(reverse("lists:new"), sent | {"file": file, "anyway": "1"}, follow=True)
        self.assertContains(made, "From &lt;b&gt;city&lt;/b&gt;")
        self.assertEqual(current([ParcelList.objects.get(name__startswith="From")]).count(), 2)
        binary = io.BytesIO(b"\x00\x01\x02\x03" * 50)
        binary.name = "odd.csv"
        self.assertContains(
            self.client.post(reverse("lists:new"), sent | {"name": "Odd", "file": binary}), "neither text (CSV)", status_code=400
        )
        self.assertContains(self.client.post(reverse("lists:new"), {"name": "", "type": "reason"}), "required", status_code=400)

    def test_described_deleted_and_brought_back(self) -> None:
        alpha = services.make_list(self.scope, "Alpha")
        services.add(self.scope, alpha, self.parcels[:10])
        page = reverse("lists:list", args=[alpha.pk])
        self.client.post(page, {"name": "Omega", "type": "campaign", "mark": "OM", "note": "n", "reason": "r", "source_on": "2026-10-01"})
        alpha.refresh_from_db()
        self.assertEqual((alpha.name, alpha.type, alpha.mark, alpha.source_on), ("Omega", "campaign", "OM", date(2026, 10, 1)))
        taken = self.client.post(page, {"name": "Tax unpaid 2026", "type": "reason"})
        self.assertContains(taken, "another list", status_code=400)
        self.client.post(reverse("lists:act", args=[alpha.pk]), {"do": "delete"})
        self.assertEqual(self.client.get(page).status_code, 404)
        act = Activity.objects.latest("pk")
        self.assertContains(self.client.get(reverse("lists:activity")), reverse("lists:undo", args=[act.pk]))
        self.client.post(reverse("lists:undo", args=[act.pk]))
        self.assertEqual(self.client.get(page).context["count"], 10)
        self.assertContains(self.client.post(reverse("lists:undo", args=[act.pk]), follow=True), "undone before")
        # A way back that is the name of nothing is no address of ours, and breaks nothing.
        for back in ("x", "any of:", "//elsewhere.example/"):
            self.assertEqual(self.client.post(reverse("lists:undo", args=[act.pk]), {"back": back}).status_code, 302)

    def test_two_who_delete_one_list_both_get_an_answer(self) -> None:
        alpha = services.make_list(self.scope, "Alpha")
        services.add(self.scope, alpha, self.parcels[:10])
        services.delete_list(self.scope, alpha)
        # The second had the page before it when the first was done, and all its rows were stale.
        with mock.patch("jaded_ledger.lists.list_views.stale_memberships", side_effect=lambda rows: rows):
            for asked in ("delete", "drop-stale"):
                answer = self.client.post(reverse("lists:act", args=[alpha.pk]), {"do": asked}, follow=True)
                self.assertContains(answer, "was deleted in the meantime; Activity can bring it back.")
        self.client.force_login(self.other_team(), backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.post(reverse("lists:act", args=[alpha.pk]), {"do": "delete"}).status_code, 404)

    def test_a_new_name_breaks_nothing_that_was_kept(self) -> None:
        alpha, beta = services.make_list(self.scope, "Alpha"), services.make_list(self.scope, "Beta")
        services.add(self.scope, alpha, self.parcels[:10])
        services.add(self.scope, beta, self.parcels[:3])
        services.tag(self.scope, "corner", self.parcels[:4])
        text = 'on-list: any of "Alpha"; none of "Beta"\nany of:\n  tag: any of "corner"\n  stage: any of "comping"\n'
        text += '~ fresh-on-list: any of "alpha"'
        page = SearchPage(parse(text))
        words = ", ".join(f'"w{number:04}"' for number in range(200))
        longer = f"{text}\nremarks: none of {words}; or unknown"
        short, long = (SearchPage(parse(written)).address(self.scope.team) for written in (text, longer))
        self.assertIn("?s=", long)
        kept = keep(self.scope, page, [], is_all=True)
        made = services.make_list(self.scope, "Of those")
        services.add(self.scope, made, self.parcels[:2], kept.search)
        for name in ("Alpha", "Beta", "corner", "comping"):
            self.assertNotIn(name, f"{short} {kept.search}")
        matches = set(parcels_of(kept, self.scope).values_list("pk", flat=True))
        self.assertEqual(len(matches), 1)
        # Each gets another's old name, or a new one.
        services.describe(self.scope, alpha, "Gamma")
        services.describe(self.scope, beta, "Alpha")
        rename_stage(self.scope, Stage.objects.get(team=self.scope.team, name="comping").pk, "on the desk")
        self.assertEqual(set(parcels_of(kept, self.scope).values_list("pk", flat=True)), matches)
        for address in (short, long):
            shown = self.client.get(address)
            self.assertContains(shown, "Gamma")
            self.assertContains(shown, "on the desk")
            self.assertNotContains(shown, "Beta")
        self.assertEqual(self.client.get(short).context["balance"].matches, len(matches))
        self.assertContains(self.client.get(reverse("lists:activity")), "on-list: any of &quot;Gamma&quot;; none of &quot;Alpha&quot;")
        # What was deleted is still called by its name, and said to be gone.
        services.delete_list(self.scope, alpha)
        self.assertContains(self.client.get(short), "“Gamma” is none of your team&#x27;s lists")
        # An id of another team's, or of nothing, is nobody's.
        self.client.force_login(self.other_team(), backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.client.get(short), "Gamma")
        with self.assertRaisesRegex(ListError, "can't begin with @"):
            services.make_list(self.scope, "@12")

    def test_a_day_that_can_not_be_is_refused_where_it_is_typed(self) -> None:
        form = {"name": "Alpha", "type": "reason"}
        tomorrow = self.scope.today + timedelta(days=1)
        for day, told in ((date(1, 1, 1), "is before 1900"), (date(1899, 12, 31), "is before 1900"), (tomorrow, "is yet to come")):
            page = self.client.post(reverse("lists:new"), form | {"source_on": day.isoformat()})
            self.assertContains(page, told, status_code=400)
        for number, day in enumerate((date(1900, 1, 1), self.scope.today)):
            sent = form | {"name": f"Alpha {number}", "source_on": day.isoformat()}
            self.assertEqual(self.client.post(reverse("lists:new"), sent).status_code, 302)

    def test_a_day_long_gone_breaks_no_urgency(self) -> None:
        """What was kept before such days were refused."""
        alpha = services.make_list(self.scope, "Alpha", weight=100)
        ParcelList.objects.filter(pk=alpha.pk).update(source_on=date(1, 1, 1))
        before = self.ask("urgency: 1..")
        services.add(self.scope, alpha, self.parcels)
        self.assertEqual(self.ask("urgency: 1.."), before)
        ParcelFacts.objects.filter(pk=self.parcels[0]).update(signals=[1], signal_days=[date(1, 1, 1)])
        self.assertNotIn(self.parcels[0], self.ask("urgency: 1.."))

    def test_commands(self) -> None:
        out = io.StringIO()
        call_command("lists", format="json", stdout=out)
        told = {row["name"]: row for row in json.loads(out.getvalue())}
        self.assertEqual({name: row["count"] for name, row in told.items()}, {one.list.name: one.count for one in counted(self.scope.team)})
        out = io.StringIO()
        call_command("overlap", "tax unpaid 2026", "Absentee, Harbour", format="json", stdout=out)
        both = [row for row in json.loads(out.getvalue()) if len(row["lists"]) == 2]
        self.assertEqual(both[0]["count"], len(self.ask('on-list: all of "Tax unpaid 2026", "Absentee, Harbour"')))
        with self.assertRaises(CommandError):
            call_command("overlap", "no such list")
        for name in ("lists", "overlap"):
            out = io.StringIO()
            call_command(name, stdout=out)
            self.assertIn("Absentee, Harbour", out.getvalue())

    def test_nothing_yet(self) -> None:
        ParcelList.objects.all().delete()
        for name in ("all", "overlap"):
            self.assertContains(self.client.get(reverse(f"lists:{name}")), "Find")
        self.assertEqual(self.client.get(f"{reverse('lists:keep', args=['nope'])}?{urlencode({'x': 1})}").status_code, 404)


class TwoAtOnce(DemoServerCase):
    def test_two_who_add_at_once_lose_nothing(self) -> None:
        scope = scope_of_command()
        alpha = services.make_list(scope, "At once")
        parcels = list(ParcelFacts.objects.order_by("pk").values_list("pk", flat=True)[:2000])

        def add(start: int) -> int:
            try:
                done = services.add(scope_of_command(), alpha, parcels[start : start + 1200])
                services.tag(scope_of_command(), "at once", parcels[start : start + 1200])
                return done.rows if done else 0
            finally:
                connection.close()

        with ThreadPoolExecutor(4) as hands:
            added = list(hands.map(add, (0, 400, 800, 0)))
        self.assertEqual(sum(added), 2000)
        self.assertEqual(current([alpha]).count(), 2000)
        self.assertEqual(Tagging.objects.filter(tag__folded="at once", removed=None).count(), 2000)
