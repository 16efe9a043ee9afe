"""Watched searches: told when they are due, once; read, kept, passed and undone; and mailed."""

from __future__ import annotations

import io
import json
import re
from datetime import datetime, timedelta
from email import message_from_bytes
from email.message import EmailMessage
from email.policy import default
from html import unescape
from unittest.mock import patch

from django.core.mail import get_connection
from django.core.management import call_command
from django.core.management.base import CommandError
from django.test import override_settings
from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.watching.rhythms import AT_MOST_EVERY
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists import services as lists
from jaded_ledger.lists.models import Membership
from jaded_ledger.records.clock import now
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import Contact, ParcelFacts, RecordedAddress, RollEntry, SourceFile, TaxYear
from jaded_ledger.searches import services
from jaded_ledger.searches.matching import reckon
from jaded_ledger.searches.models import KeptAnswers, Run, SavedSearch
from jaded_ledger.searches.new_matches import narrowings_for, proposal_for
from jaded_ledger.simulators.models import KeptMail
from jaded_ledger.watch import digests, morning
from jaded_ledger.watch.models import Digest, Mark, PropertyNote, Watch
from jaded_ledger.watch.morning import WEEK, YESTERDAY, Morning, morning_of
from jaded_ledger.watch.reasons import reason_of
from jaded_ledger.watch.telling import run_due
from jaded_ledger.watch.watching import WatchError, end, pause, resume, set_hour, watch
from tests.support.clock import at, later
from tests.support.page_text import page_text
from tests.support.searches import SearchCase, code_of

TEXT = "class: triplex\nbeds: 3.."


@override_settings(EMAIL_BACKEND="jaded_ledger.simulators.mailbox.Mailbox")
class WatchCase(SearchCase):
    def setUp(self) -> None:
        super().setUp()
        self.user.email = "nora@lantern.example"
        self.user.save()
        triplexes = ParcelFacts.objects.filter(property_class=code_of("triplex")).order_by("pk")
        self.inside = list(triplexes.filter(beds__gte=3))
        triplexes.exclude(beds__gte=3).update(beds=2)
        self.outside = list(triplexes.filter(beds=2))
        self.search = self.saved(TEXT, "Three doors")

    def change(self, parcel: ParcelFacts, **values: object) -> None:
        """Have a parcel's facts be others, as a derivation does."""
        ParcelFacts.objects.filter(pk=parcel.pk).update(**values)
        self.derive()

    def told(self, **more: object) -> list[tuple[str, int]]:
        found = morning_of(self.mine, **more)  # type: ignore[arg-type]
        return [(one.news.kind.value, one.parcel_id) for one in found.items]

    def morning(self) -> Morning:
        return morning_of(self.mine)


class Told(WatchCase):
    def test_what_is_there_already_is_not_new(self) -> None:
        watch(self.mine, self.search, "morning")
        run_due(every=True)
        self.assertEqual(self.told(), [])
        self.change(self.outside[0], beds=3)
        with later(1):
            # Until it is told nothing waits.
            self.assertEqual(self.told(), [])
            run_due(every=True)
            self.assertEqual(self.told(), [("new", self.outside[0].pk)])
            self.assertEqual((run_due(every=True).watches, self.told()), (1, [("new", self.outside[0].pk)]))
            # One version of the facts is asked once.
            self.assertEqual(Run.objects.filter(search=self.search).count(), 2)

    def test_in_the_morning_and_after_days_off(self) -> None:
        set_hour(self.scope.team, 7)
        today = self.scope.team.times.on(self.scope.today)
        minute, day = timedelta(minutes=1), timedelta(days=1)
        # One that begins before the team's hour is due on the day itself; from that hour on, the next morning.
        for began, due in (
            (today - minute, today),
            (today - timedelta(hours=7), today),
            (today, today + day),
            (today + 16 * day / 24, today + day),
        ):
            with at(began):
                watch(self.mine, self.search, "morning")
            begun = Watch.objects.get()
            for moment, is_due in ((due - minute, 0), (due, 1), (due + 5 * day, 1)):
                Watch.objects.update(told_to=begun.told_to)
                with self.subTest(began=began, at=moment), at(moment):
                    self.assertEqual(run_due().asked, is_due)
            end(self.mine, self.search)
        for wrong in (-1, 24):
            with self.assertRaises(WatchError):
                set_hour(self.scope.team, wrong)
        set_hour(self.scope.team, 23)

    def test_at_once_is_once_an_hour(self) -> None:
        watch(self.mine, self.search, "at-once")
        told_to = Watch.objects.get().told_to
        for after, is_due in ((AT_MOST_EVERY - timedelta(seconds=1), 0), (AT_MOST_EVERY, 1)):
            with at(told_to + after):
                self.assertEqual(run_due().asked, is_due)

    def test_paused_and_taken_up_again_tells_what_came_meanwhile(self) -> None:
        watch(self.mine, self.search, "morning")
        pause(self.mine, self.search)
        self.change(self.outside[0], beds=3)
        with later(1):
            self.assertEqual(run_due(every=True).asked, 0)
            resume(self.mine, self.search)
            run_due(every=True)
            self.assertEqual(self.told(), [("new", self.outside[0].pk)])
            end(self.mine, self.search)
            self.assertEqual((self.told(), run_due(every=True).asked), ([], 0))

    def test_one_that_was_not_run_says_so(self) -> None:
        watch(self.mine, self.search, "at-once")
        told_to = Watch.objects.get().told_to
        for after, is_late in ((timedelta(hours=2) - timedelta(seconds=1), False), (timedelta(hours=2), True)):
            with at(told_to + after):
                self.assertIs("not run since" in page_text(self.client.get(reverse("watch:morning")).content), is_late)

    def test_it_says_updating_and_then_what_came(self) -> None:
        """While a search that is due has not run: the worker is asked at once, and the page asks until it has."""
        watch(self.mine, self.search, "at-once")
        told_to = Watch.objects.get().told_to
        ask = reverse("watch:updating")
        self.assertNotContains(self.client.get(reverse("watch:morning")), 'id="updating"')
        with at(told_to + timedelta(hours=1)), patch("jaded_ledger.watch.tasks.jobs.defer") as defer:
            self.assertContains(self.client.get(reverse("watch:morning")), "Updating: watched searches are running")
            self.assertEqual(defer.call_args.args, ("watch.tell",))
            self.assertEqual(self.client.get(ask).status_code, 204)
            run_due()
            done = self.client.get(ask)
            self.assertIn("Updated: 0 unread", page_text(done.content))
            self.assertContains(done, 'hx-swap-oob="true"', count=3)
            # Where no row is shown the page is drawn anew.
            self.assertEqual(self.client.get(ask, {"nothing": "1"})["HX-Refresh"], "true")
            self.assertNotContains(self.client.get(reverse("watch:morning")), 'id="updating"')
        # Late, it is not updating: it says why not.
        with at(told_to + timedelta(hours=3)):
            page = page_text(self.client.get(reverse("watch:morning")).content)
            self.assertIn("the background worker is not running", page)
            self.assertNotIn("Updating", page)

    def test_a_search_that_can_not_be_asked_says_why(self) -> None:
        which = lists.make_list(self.mine, "Gone soon")
        saved = self.saved('on-list: any of "Gone soon"', "Of a list")
        watch(self.mine, saved, "at-once")
        lists.delete_list(self.mine, which)
        with at(Watch.objects.get().told_to + timedelta(hours=2)):
            page = page_text(self.client.get(reverse("watch:morning")).content)
        self.assertIn("not run since", page)
        self.assertIn("list", page.partition("not run since")[2][:200])
        self.assertNotIn("background worker", page)

    def test_how_often_each_runs_is_said(self) -> None:
        for rhythm, days, said in (("morning", [], "each morning"), ("at-once", [], "at once"), ("weekly", [1, 4], "weekly on Mon, Thu")):
            watch(self.mine, self.search, rhythm, days=days)
            self.assertIn(f"{said} ·", page_text(self.client.get(reverse("watch:morning")).content))

    def test_what_can_not_be_is_said(self) -> None:
        for told, said in (
            ({"rhythm": "weekly"}, "Choose the days"), ({"rhythm": "weekly", "days": [8]}, "1 for Monday"), ({"rhythm": "x"}, "how often"),
            ({"rhythm": "morning", "traits": ["remarks"]}, "Only these"),
        ):  # fmt: skip
            with self.subTest(told), self.assertRaisesRegex(WatchError, said):
                watch(self.mine, self.search, **told)  # type: ignore[arg-type]
        self.user.email = ""
        self.user.save()
        with self.assertRaisesRegex(WatchError, "no e-mail address"):
            watch(self.mine, self.search, "morning", by_mail=True)
        self.assertEqual(Watch.objects.count(), 0)
        watch(self.mine, self.search, "weekly", days=[5, 1, 1])
        self.assertEqual(Watch.objects.get().days, [1, 5])

    def test_a_round_that_breaks_off_and_two_at_once_tell_nothing_twice(self) -> None:
        watch(self.mine, self.search, "morning", by_mail=True)
        self.change(self.outside[0], beds=3)
        with later(1):
            with patch("jaded_ledger.watch.telling.write_digest", side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
                run_due(every=True)
            self.assertEqual((self.told(), Digest.objects.count()), ([("new", self.outside[0].pk)], 0))
            run_due(every=True)
            with patch("jaded_ledger.watch.digests.TeamMail.send", side_effect=OSError("gone")):
                self.assertEqual(digests.send_unsent(), 0)
            run_due(every=True)
            self.assertEqual((Digest.objects.count(), KeptMail.objects.count()), (1, 1))
            # Another round told it between our question and our turn: ours leaves it.
            stale = list(Watch.objects.select_related("search__team"))
            with later(2):
                run_due(every=True)
                with patch("jaded_ledger.watch.telling._due", return_value=stale):
                    self.assertEqual(run_due(every=True).watches, 0)
            self.assertEqual(KeptMail.objects.count(), 1)

    def test_a_mail_that_can_not_leave_waits_and_then_leaves_once(self) -> None:
        watch(self.mine, self.search, "morning", by_mail=True)
        self.change(self.outside[0], beds=3)
        with later(1):
            with patch("jaded_ledger.watch.digests.TeamMail.send", side_effect=OSError("the relay is down")):
                self.assertEqual(run_due(every=True).mails, 0)
            self.assertEqual(Digest.objects.get().fault, "the relay is down")
            self.assertEqual((run_due(every=True).mails, run_due(every=True).mails, KeptMail.objects.count()), (1, 0, 1))
            self.assertEqual(Digest.objects.get().fault, "")


class Why(WatchCase):
    def test_the_lines_that_hold_now_and_did_not(self) -> None:
        watch(self.mine, self.search, "morning")
        self.change(self.outside[0], beds=3)
        self.change(self.inside[0], beds=None)
        with later(1):
            run_due(every=True)
            new, gone = self.morning().items
            self.assertEqual((new.news.kind.value, gone.news.kind.value), ("new", "gone"))
            (kind, beds) = reason_of(new, self.mine).lines
            self.assertEqual((kind.is_other, kind.before, kind.now, kind.rows, kind.because), (False, "held", "holds", (), ""))
            self.assertEqual((beds.is_other, beds.before, beds.now), (True, "did not hold", "holds"))
            # No recorded row says so: it is said that nobody can tell.
            self.assertIn("can’t be told", beds.because)
            self.assertEqual(
                [(one.before, one.now) for one in reason_of(gone, self.mine).lines], [("held", "holds"), ("held", "not known")]
            )

    def test_rows_taken_in_before_the_run_before_are_no_cause(self) -> None:
        """Only what a run could not have seen: a file counts from when it was done, for its rows show with their facts then."""
        entry = RollEntry.objects.get(parcel=self.outside[0].pk, superseded_at=None)
        watch(self.mine, self.search, "morning")
        since = self.search.runs.first().at
        self.change(self.outside[0], beds=3)
        with later(1):
            run_due(every=True)
            (new,) = self.morning().items
            for began, seconds, is_cause in ((-60, 59, False), (-60, 61, True), (0, 0, False), (1, 0, True)):
                moment = since + timedelta(seconds=began)
                SourceFile.objects.filter(pk=entry.source_file_id).update(taken_in_at=moment, seconds=seconds)
                RollEntry.objects.filter(pk=entry.pk).update(recorded_at=moment)
                rows = reason_of(new, self.mine).lines[1].rows
                self.assertEqual([one.row.pk for one in rows], [entry.pk] * is_cause, (began, seconds))

    def test_a_tax_that_was_paid_is_the_cause(self) -> None:
        search = self.saved("tax-due: 1..", "Owing")
        year = TaxYear.objects.filter(due__gt=0, superseded_at=None, parcel__facts__tax_due__gt=0).order_by("pk").first()
        others = TaxYear.objects.filter(parcel=year.parcel, due__gt=0, superseded_at=None).exclude(pk=year.pk)
        others.update(due=0)
        derive([year.parcel_id])
        watch(self.mine, search, "morning")
        with later(1):
            moment = now()
            TaxYear.objects.filter(pk=year.pk).update(superseded_at=moment, valid_until=moment.date())
            paid = TaxYear.objects.get(pk=year.pk)
            paid.pk, paid.due, paid.recorded_at, paid.superseded_at, paid.valid_until = None, 0, moment, None, None
            paid.valid_from = moment.date()
            paid.save()
            derive([year.parcel_id])
        with later(2):
            run_due(every=True)
            (gone,) = [item for item in self.morning().items if item.parcel_id == year.parcel_id]
            (line,) = reason_of(gone, self.mine).lines
            self.assertEqual([one.text for one in line.rows], [f"Tax of {year.year}, nothing due"])
            # One that ended with nothing in its place is named as ended.
            TaxYear.objects.filter(pk=paid.pk).delete()
            self.assertEqual([one.text for one in reason_of(gone, self.mine).lines[0].rows],
                             [f"Tax of {year.year}, no longer on record"])  # fmt: skip

    def test_a_parcel_that_is_retired_and_one_that_is_new_on_record(self) -> None:
        watch(self.mine, self.search, "morning")
        kept = self.inside[0]
        values = {field.attname: getattr(kept, field.attname) for field in ParcelFacts._meta.concrete_fields if not field.generated}
        ParcelFacts.objects.filter(pk=kept.pk).delete()
        self.derive()
        with later(1):
            run_due(every=True)
            (item,) = self.morning().items
            self.assertIn("no longer has a parcel", reason_of(item, self.mine).unknown)
            self.assertContains(self.client.get(reverse("watch:morning")), "no longer has a parcel")
        ParcelFacts.objects.create(**values)
        self.derive()
        with later(2):
            run_due(every=True)
            # Gone and back before anybody looked is nothing; to who looked it is back.
            self.assertEqual(self.told(), [])
            Watch.objects.update(done_to=now() - timedelta(days=1) + timedelta(minutes=1))
            (item,) = self.morning().items
            self.assertEqual(item.news.kind.value, "back")
            self.assertEqual({one.before for one in reason_of(item, self.mine).lines}, {"not on record"})

    def test_an_edit_is_told_apart(self) -> None:
        watch(self.mine, self.search, "morning")
        services.save_changes(self.mine, self.search, SearchPage(parse("class: triplex")))
        with later(1):
            run_due(every=True)
            found = self.morning()
            self.assertEqual((found.items, [(one.brought, one.took) for one in found.edits]), ((), [(len(self.outside), 0)]))
            self.assertContains(self.client.get(reverse("watch:morning")), "was edited")

    def test_what_is_kept_of_a_search_is_small(self) -> None:
        watch(self.mine, self.search, "morning")
        kept = KeptAnswers.objects.get(search=self.search)
        self.assertEqual(kept.count, ParcelFacts.objects.count())
        self.assertLess(len(bytes(kept.answers)) + len(bytes(kept.parcels)), kept.count)

    def test_what_changed_of_what_is_watched(self) -> None:
        watch(self.mine, self.search, "morning", traits=["list-price"])
        ParcelFacts.objects.filter(pk=self.inside[0].pk).update(list_price=100_000)
        self.derive()
        with later(1):
            run_due(every=True)
            morning.mark_read(self.mine, self.morning().watches)
            self.change(self.inside[0], list_price=90_000, open_signals=7)
            with later(2):
                run_due(every=True)
                (item,) = self.morning().items
                self.assertEqual(item.news.kind.value, "cheaper")
                (told,) = reason_of(item, self.mine).traits
                self.assertEqual((told.label, told.before, told.now), ("list price", "$100,000", "$90,000 (−10.0 %)"))


class Read(WatchCase):
    def setUp(self) -> None:
        super().setUp()
        watch(self.mine, self.search, "morning")
        for one in self.outside[:3]:
            ParcelFacts.objects.filter(pk=one.pk).update(beds=3)
        self.derive()
        self.first, self.second, self.third = (one.pk for one in self.outside[:3])
        self.enterContext(later(1))
        run_due(every=True)

    def act(self, do: str, row: int, **more: object) -> str:
        watched = Watch.objects.get()
        sent = {"do": do, "row": row, "search": watched.pk, "kind": "new", "told_to": watched.told_to.isoformat(), **more}
        return page_text(self.client.post(reverse("watch:act"), sent, follow=True).content)

    def told_at(self) -> datetime:
        return Run.objects.filter(search=self.search).latest("at").at

    def left(self) -> list[int]:
        return [pk for _, pk in self.told()]

    def test_a_row_at_a_time(self) -> None:
        self.assertIn("3 left", page_text(self.client.get(reverse("watch:morning")).content))
        self.act("next", self.first)
        which = lists.make_list(self.mine, "Hot")
        self.assertIn("Kept on “Hot”", self.act("keep", self.second, list=which.pk))
        self.assertEqual(Membership.objects.filter(list=which, removed=None).values_list("parcel", flat=True).get(), self.second)
        self.assertEqual(self.left(), [self.third])
        page = self.act("pass", self.third, typed="too  much\nwork")
        self.assertIn("All is read", page)
        self.assertIn("3 read · 1 kept · 1 passed", page)
        self.assertEqual(Mark.objects.first().reason, "too much work")
        # Undone one after the other, the latest first; what was kept comes off the list.
        for expected in ([self.third], [self.second, self.third], [self.first, self.second, self.third]):
            self.act("undo", 0)
            self.assertEqual(sorted(self.left()), sorted(expected))
        self.assertFalse(Membership.objects.filter(list=which, removed=None).exists())
        self.assertIn("nothing to undo", self.act("undo", 0))

    def test_passed_stays_passed_until_what_is_watched_changes(self) -> None:
        self.act("pass", self.first, typed="")
        other = self.saved("class: triplex\nbeds: 3", "Another")
        watch(self.mine, other, "morning")
        with later(2):
            self.change(self.outside[0], beds=4)
            self.change(self.outside[0], beds=3)
            run_due(every=True)
            self.assertNotIn(self.first, self.left())
            self.change(self.outside[0], list_price=50_000)
            with later(3):
                run_due(every=True)
                self.assertEqual([kind for kind, pk in self.told() if pk == self.first], ["changed", "changed"])
                self.assertEqual(self.morning().left, 3)
                self.assertEqual(next(one for one in self.morning().items if one.parcel_id == self.first).also, ("Three doors",))

    def test_a_price_cut_after_it_was_read_is_told(self) -> None:
        ParcelFacts.objects.filter(pk=self.second).update(list_price=100_000)
        self.act("next", self.first)
        self.change(self.outside[0], list_price=90_000)
        with later(2):
            run_due(every=True)
            self.assertEqual({pk: kind for kind, pk in self.told()}[self.first], "changed")

    def test_tag_stage_and_note_leave_it_and_are_undone(self) -> None:
        self.assertIn("Tagged", self.act("tag", self.first, typed="Corner"))
        self.assertIn("stage is set", self.act("stage", self.first, typed="comping"))
        self.assertIn("Noted", self.act("note", self.first, typed="<b>Knock</b> on the back door"))
        self.assertEqual(len(self.left()), 3)
        page = self.client.get(reverse("watch:morning"), {"row": self.first, "search": Watch.objects.get().pk})
        self.assertContains(page, "noted: &lt;b&gt;Knock&lt;/b&gt; on the back door")
        self.assertContains(self.client.get(reverse("properties:more", args=[self.first])), "Knock")
        for said in (self.act("note", self.first, typed=" "), self.act("note", self.first, typed="x" * 1001)):
            self.assertRegex(said, "Write what there is|1,001 characters")
        self.act("undo", 0)
        self.assertEqual(PropertyNote.objects.count(), 0)
        self.assertIn("none of your team", self.act("stage", self.first, typed="nowhere"))
        self.assertIn("choose the list", self.act("keep", self.first).casefold())

    def test_an_act_asks_neither_the_days_ahead_nor_why(self) -> None:
        """The next row comes with where its reason is, which is fetched ahead; only a whole page asks other apps what is due."""
        watched = Watch.objects.get()
        sent = {"do": "next", "row": self.first, "search": watched.pk, "kind": "new", "told_to": watched.told_to.isoformat()}
        with patch("jaded_ledger.watch.feeds.due_until") as due, patch("jaded_ledger.watch.views.reason_of") as reason:
            answer = self.client.post(reverse("watch:act"), sent, headers={"HX-Request": "true"})
        self.assertEqual((due.called, reason.called), (False, False))
        body = answer.content.decode()
        for part in ('id="row"', 'id="watched"', 'id="tally"', 'id="left"'):
            self.assertEqual(body.count(part), 1, part)
        self.assertIn("2 left", page_text(answer.content))
        (why,) = re.findall(r'hx-get="([^"]*/why\?[^"]+)" hx-trigger="load"', body)
        (ahead,) = re.findall(r'<link rel="prefetch" href="([^"]*/why\?[^"]+)">', body)
        self.assertNotEqual(why, ahead)
        for address in (why, ahead):
            told = self.client.get(unescape(address))
            self.assertIn("Why it is here", page_text(told.content))
            self.assertEqual(told["Cache-Control"], "private, max-age=600")
        # A row that was read has no reason any more.
        gone = f"{reverse('watch:why')}?search={watched.pk}&row={self.first}"
        self.assertEqual(self.client.get(gone).status_code, 404)

    def test_k_without_a_list_leads_to_the_lists(self) -> None:
        which = lists.make_list(self.mine, "Hot")
        body = self.client.get(reverse("watch:morning")).content.decode()
        self.assertRegex(body, r'<select[^>]+name="list"[^>]+data-key="k" data-does="#keep"')
        self.assertRegex(body, r'value="keep" id="keep"\s+>')
        self.act("keep", self.first, list=which.pk)
        body = self.client.get(reverse("watch:morning")).content.decode()
        self.assertNotRegex(body, r'<select[^>]+name="list"[^>]+data-key="k"')
        self.assertRegex(body, r'value="keep" id="keep"\s+data-key="k"')

    def test_done_and_again_and_read_again(self) -> None:
        page = self.client.post(reverse("watch:done"), {"do": "done"}, follow=True)
        self.assertContains(page, "All is read")
        self.assertEqual(self.left(), [])
        self.assertEqual(len(self.told(when=WEEK)), 3)
        day = self.told_at().astimezone(self.scope.team.times.on(self.scope.today).tzinfo).date()
        for after, count in ((1, 3), (0, 0), (2, 0)):
            scope = Scope(self.mine.team, self.mine.user, day + timedelta(after))
            self.assertEqual(len(morning_of(scope, YESTERDAY).items), count, after)
        self.assertContains(self.client.get(reverse("watch:morning"), {"when": "week"}), "the last seven days")
        self.client.post(reverse("watch:done"), {"do": "again"})
        self.assertEqual(len(self.left()), 3)

    def test_made_up_forms(self) -> None:
        for sent in (
            {"do": "next", "row": "x", "told_to": now().isoformat()}, {"do": "next", "row": self.first, "told_to": "soon"},
            {"do": "next", "row": self.first, "told_to": "2026-11-24T06:00:00"},
            {"do": "fly", "row": self.first, "told_to": now().isoformat()},
        ):  # fmt: skip
            with self.subTest(sent):
                self.assertEqual(self.client.post(reverse("watch:act"), sent).status_code, 404)
        self.assertEqual(self.client.post(reverse("watch:watch", args=[self.search.pk]), {"do": "fly"}).status_code, 404)
        self.assertEqual(len(self.left()), 3)

    def test_each_user_reads_for_themselves(self) -> None:
        ida = self.colleague()
        SavedSearch.objects.update(is_shared=True)
        watch(ida, self.search, "morning")
        Watch.objects.filter(user=ida.user).update(done_to=Watch.objects.get(user=self.user).done_to)
        self.act_all()
        self.assertEqual((len(morning_of(ida).items), self.left()), (3, []))
        # A search that is shared no more is hers no more.
        SavedSearch.objects.update(is_shared=False)
        self.assertEqual(morning_of(ida).items, ())

    def act_all(self) -> None:
        for pk in (self.first, self.second, self.third):
            watched = Watch.objects.get(user=self.user)
            self.client.post(reverse("watch:act"), {"do": "next", "row": pk, "told_to": watched.told_to.isoformat()})


class Mailed(WatchCase):
    HOSTILE = "1 <script>alert(1)</script> “A & B” ST\u202e, é"

    def mail(self) -> EmailMessage:
        watch(self.mine, self.search, "morning", by_mail=True)
        address = RecordedAddress.objects.create(text=self.HOSTILE, folded="x", words=" x ", kind="street", street=self.HOSTILE)
        ParcelFacts.objects.filter(pk=self.outside[0].pk).update(beds=3, address=address)
        self.derive()
        with later(1):
            run_due(every=True)
        return message_from_bytes(bytes(KeptMail.objects.get().message), policy=default)  # type: ignore[return-value]

    def test_as_the_standard_library_reads_it(self) -> None:
        mail = self.mail()
        self.assertEqual((mail["To"], mail["Subject"]), ("nora@lantern.example", "Three doors: 1 new"))
        self.assertEqual([part.get_content_type() for part in mail.iter_parts()], ["text/plain", "text/html"])
        text, html = (part.get_content() for part in mail.iter_parts())
        self.assertIn("alert(1)", text)
        self.assertNotIn("<script>", html)
        self.assertIn("beds 3 or more: did not hold, now holds", " ".join(text.split()))
        self.assertIn(f"http://127.0.0.1:8000/property/{self.outside[0].pk}/", text)
        self.assertIsNotNone(mail["Date"].datetime)
        self.assertRegex(mail["Message-ID"], r"^<[^<>\s]+@127\.0\.0\.1>$")

    def test_nothing_of_telephones_is_in_it(self) -> None:
        every = set(Contact.objects.values_list("value", flat=True))
        self.assertTrue(every)
        whole = "".join(part.get_content() for part in self.mail().iter_parts())
        self.assertEqual([one for one in every if one in whole], [])

    def test_ended_without_signing_in(self) -> None:
        """RFC 8058: an address over https and a header that says that a POST to it ends the mails; a GET ends nothing."""
        with override_settings(BASE_URL="https://ledger.example"):
            mail = self.mail()
        self.assertEqual(mail["List-Unsubscribe-Post"], "List-Unsubscribe=One-Click")
        found = re.fullmatch(r"<https://ledger\.example(/\S+)>", mail["List-Unsubscribe"].strip())
        stranger = self.client_class(enforce_csrf_checks=True)
        self.assertContains(stranger.get(found[1]), "End these mails?")
        self.assertTrue(Watch.objects.get().by_mail)
        self.assertEqual(stranger.post(found[1], {"List-Unsubscribe": "One-Click"}).status_code, 200)
        self.assertFalse(Watch.objects.get().by_mail)
        self.assertEqual(stranger.post(found[1].replace("unsubscribe/", "unsubscribe/9")).status_code, 404)

    def test_over_http_one_click_is_not_offered(self) -> None:
        mail = self.mail()
        self.assertIsNone(mail["List-Unsubscribe-Post"])
        self.assertIn("http://127.0.0.1:8000/morning/unsubscribe/", mail["List-Unsubscribe"])

    def test_the_mailbox_shows_it_and_another_teams_does_not(self) -> None:
        self.mail()
        kept = KeptMail.objects.get()
        self.assertContains(self.client.get(reverse("simulators:mailbox")), "Three doors: 1 new")
        self.assertContains(self.client.get(reverse("simulators:mail", args=[kept.pk])), "did not hold, now holds")
        html = self.client.get(reverse("simulators:mail-html", args=[kept.pk]))
        self.assertIn("sandbox", html["Content-Security-Policy"])
        self.assertEqual(self.client.get(reverse("simulators:mail-whole", args=[kept.pk])).content, bytes(kept.message))
        self.client.force_login(self.other_team(), backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.client.get(reverse("simulators:mailbox")), "Three doors")
        self.assertEqual(self.client.get(reverse("simulators:mail", args=[kept.pk])).status_code, 404)

    def test_the_mailbox_is_djangos_way(self) -> None:
        self.assertEqual(get_connection("jaded_ledger.simulators.mailbox.Mailbox").send_messages([]), 0)


class Commands(WatchCase):
    def told_by(self, *words: str) -> str:
        out = io.StringIO()
        call_command("watch", *words, stdout=out)
        return out.getvalue()

    def test_run_and_report(self) -> None:
        watch(self.mine, self.search, "morning", by_mail=True)
        self.change(self.outside[0], beds=3)
        with later(1):
            ran = json.loads(self.told_by("run", "--all", "--search", "three DOORS", "--format", "json"))
            self.assertEqual((ran["searches"], ran["watches"], ran["not_told"]), (1, 1, []))
            (row,) = json.loads(self.told_by("report", "--user", self.user.username, "--format", "json"))
            self.assertEqual((row["kind"], row["search"], [one["now"] for one in row["lines"]]), ("new", "Three doors", ["holds", "holds"]))
            self.assertIn("beds 3 or more: did not hold, now holds", self.told_by("report", "--user", self.user.username))
            morning.mark_read(self.mine, self.morning().watches)
            self.assertIn("nothing waits", self.told_by("report", "--user", self.user.username))
        for words in (("run", "--search", "Nobody’s"), ("report", "--user", "nobody")):
            with self.assertRaises(CommandError):
                self.told_by(*words)


class Proposed(WatchCase):
    def test_what_would_narrow_one_that_is_too_wide(self) -> None:
        self.narrowed()

    def test_one_saved_before_midnight_has_the_same_past_after_it(self) -> None:
        with at(self.scope.team.times.on(self.scope.today).replace(hour=22, minute=30)):
            self.narrowed()

    def narrowed(self) -> None:
        wide = self.saved("class: triplex\nlist-price: ..900000\nbeds: 2..4", "Wide")
        ParcelFacts.objects.filter(property_class=code_of("triplex")).update(list_price=None, ever_listed=True)
        self.derive()
        reckon(wide, self.mine)
        some = [*self.outside, *self.inside][:12]
        for place, one in enumerate(some):
            ParcelFacts.objects.filter(pk=one.pk).update(list_price=100_000 + 1_000 * place, beds=2)
        self.derive()
        with later(1):
            reckon(wide, self.mine)
        with later(2):
            self.assertTrue(proposal_for(wide).is_too_wide)
            # Of one day five are left: the line whose end is open, and no other.
            (found,) = narrowings_for(wide, self.mine)
            self.assertEqual((found.line, found.a_day), ("list price $104,000 or less", 5.0))
            page = page_text(self.client.get(reverse("searches:search", args=[wide.pk])).content)
            self.assertIn("Narrow enough with list price $104,000 or less (5 a day)", page)
        self.assertEqual(narrowings_for(self.search, self.mine), [])
