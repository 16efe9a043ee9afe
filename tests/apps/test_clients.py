"""Clients: what is sent to them and when, what they see and say, and that nothing of owners, debt or distress ever reaches them."""

from __future__ import annotations

import re
from datetime import timedelta
from email import message_from_bytes
from email.message import EmailMessage
from email.policy import default
from unittest.mock import patch

from django.core.exceptions import PermissionDenied
from django.test import override_settings
from django.urls import reverse

from jaded_ledger.accounts.deletion import delete, undelete, undo_address
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.outbox import TRIED_FOR
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients import clients, links, mails
from jaded_ledger.clients.clients import MOST_ANSWERS, MOST_REMEMBERED, ClientError
from jaded_ledger.clients.fits import fits_of
from jaded_ledger.clients.models import Client, ClientAnswer, ClientLink, ClientMail, ClientSearch, LinkOpening, Showing
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Contact, Parcel, ParcelFacts, Photograph, StoredImage
from jaded_ledger.searches import services
from jaded_ledger.simulators.models import KeptMail
from jaded_ledger.watch.feeds import due_until
from tests.support.clock import at, later
from tests.support.page_text import page_text
from tests.support.searches import SearchCase, code_of

TOLD = {"subject": "New for you", "message": "Good morning {name}", "rhythm": "morning", "days": [], "is_reviewed": True,
        "copy_to_agent": False, "edit_note": ""}  # fmt: skip


@override_settings(EMAIL_BACKEND="jaded_ledger.simulators.mailbox.Mailbox")
class ClientCase(SearchCase):
    def setUp(self) -> None:
        super().setUp()
        self.user.email = "nora@lantern.example"
        self.user.save()
        self.search = self.saved("class: triplex\nlist-price: ..900000", "Three doors")
        listed = ParcelFacts.objects.filter(property_class=code_of("triplex")).order_by("pk")
        listed.update(list_price=None, ever_listed=True, on_offer=[1])
        self.first, self.second, self.third = listed[:3]
        for one in (self.first, self.second):
            ParcelFacts.objects.filter(pk=one.pk).update(list_price=200_000)
        self.imre = clients.keep_client(self.mine, {"name": "Imre Solvang", "email": "imre@solvang.example"})
        self.of = clients.give_search(self.mine, self.imre, self.search, TOLD)

    def send(self) -> ClientMail:
        mail = mails.write_now(self.mine, self.of)
        mails.approve(self.mine, mail, mail.parcels, mail.subject, mail.message)
        mails.send_approved()
        mail.refresh_from_db()
        return mail

    def price(self, parcel: ParcelFacts, price: int | None) -> None:
        ParcelFacts.objects.filter(pk=parcel.pk).update(list_price=price)
        self.derive()


class OnTheMarket(ClientCase):
    def test_a_client_is_written_of_what_they_can_buy(self) -> None:
        """Pending houses are none of it, however they were found; rentals are."""
        for on_offer, count in (([1], 2), ([3], 1), ([5], 1), ([], 1), (None, 1), ([2], 2), ([3, 2], 2)):
            ParcelFacts.objects.filter(pk=self.first.pk).update(on_offer=on_offer)
            self.assertEqual(len(mails.new_for(self.of)), count, on_offer)
        ParcelFacts.objects.filter(pk=self.first.pk).update(on_offer=[3])
        self.assertEqual(len(mails.new_for(clients.give_search(self.mine, self.imre, self.search, {**TOLD, "past_too": True}))), 2)
        page = reverse("clients:client", args=[self.imre.pk])
        self.assertRegex(self.client.get(page).content.decode(), r'name="past_too"\s+checked')

    def test_one_that_went_pending_is_not_sent(self) -> None:
        mail = mails.write_now(self.mine, self.of)
        mails.approve(self.mine, mail, mail.parcels, mail.subject, mail.message)
        ParcelFacts.objects.filter(pk=self.first.pk).update(on_offer=[3])
        # Nobody is told of more than can be sent.
        self.assertEqual(mails.parcels_of(mail), [self.second.pk])
        ClientMail.objects.filter(pk=mail.pk).update(approved_at=None)
        page = self.client.get(reverse("clients:client", args=[self.imre.pk]))
        self.assertIn("1 listing ready for review", page_text(page.content))
        self.assertIn("ready for review, 1 listing", [one.what.partition("Solvang ")[2] for one in due_until(self.mine, timedelta(0))])
        self.assertContains(self.client.get(reverse("clients:mail", args=[mail.pk])), "in the mail", count=1)
        ClientMail.objects.filter(pk=mail.pk).update(approved_at=mail.made_at)
        self.assertEqual(mails.send_approved(), 1)
        self.assertEqual({one.parcel_id for one in Showing.objects.filter(mail=mail)}, {self.second.pk})


class AsItArrives(ClientCase):
    """What the client reads: titled for them, a card with its photograph each, one request, and whom to call."""

    def setUp(self) -> None:
        super().setUp()
        self.user.phone = "(414) 555-0113"
        self.user.save()

    def arrived(self) -> EmailMessage:
        return message_from_bytes(bytes(KeptMail.objects.first().message), policy=default)

    def test_titled_for_the_client_with_their_name_in_it(self) -> None:
        told = {**TOLD, "subject": clients.SUBJECT, "message": clients.MESSAGE}
        self.of = clients.give_search(self.mine, self.imre, self.search, told)
        mail = mails.write_now(self.mine, self.of)
        self.assertEqual(mail.subject, "New for you, Imre")
        page = self.client.get(reverse("clients:mail", args=[mail.pk]))
        self.assertNotContains(page, "{first-name}")
        self.assertContains(page, "Good morning Imre,")
        self.assertNotIn("Three doors", mail.subject + mail.message)

    def test_one_request_at_the_end_and_whom_to_call(self) -> None:
        self.send()
        for kind in ("plain", "html"):
            said = " ".join(re.sub(r"<[^>]+>", " ", self.arrived().get_body((kind,)).get_content()).split())
            with self.subTest(kind):
                self.assertEqual(said.count("Which of these would you like to see?"), 1)
                self.assertIn("call me at (414) 555-0113", said)
                self.assertRegex(said, r"Nora Lantern Street Realty \(414\) 555-0113")
        # Without a number nobody is asked to call.
        self.user.phone = ""
        self.user.save()
        Team.objects.update(phone="")
        self.price(self.first, 190_000)
        with later(1):
            self.send()
        self.assertNotIn("call me", self.arrived().get_body(("plain",)).get_content())

    def test_each_property_has_its_photograph_in_the_mail(self) -> None:
        image = StoredImage.objects.order_by("pk").first()
        Photograph.objects.filter(parcel=self.first.pk).update(superseded_at=now())
        shown = Photograph.objects.filter(superseded_at=None).first()
        Photograph.objects.filter(pk=shown.pk).update(parcel=self.first.pk, listing_id="", order=0, image=image)
        preview = self.client.get(reverse("clients:mail", args=[mails.write_now(self.mine, self.of).pk]))
        self.assertContains(preview, 'src="data:image/')
        self.send()
        html = self.arrived().get_body(("html",)).get_content()
        sources = re.findall(r'src="cid:([^"]+)"', html)
        self.assertIn(str(image.pk), sources)
        parts = {part["Content-ID"]: part for part in self.arrived().walk() if part["Content-ID"]}
        self.assertEqual(sorted(parts), sorted(f"<{one}>" for one in sources))
        self.assertEqual({part.get_content_maintype() for part in parts.values()}, {"image"})
        # Nothing is fetched when it is opened.
        self.assertEqual(re.findall(r'src="(?!cid:)', html), [])

    def test_the_preview_follows_what_is_typed_and_cleared(self) -> None:
        mail = mails.write_now(self.mine, self.of)
        address = reverse("clients:preview-mail", args=[mail.pk])
        answer = self.client.post(address, {"subject": "For {name} <b>", "message": "Hi {first-name}", "parcel": [self.first.pk]})
        self.assertContains(answer, "For Imre Solvang &lt;b&gt;")
        self.assertContains(answer, "Hi Imre")
        self.assertEqual([card.parcel_id for _, card, _ in answer.context["preview_cards"]], [self.first.pk])
        # Nothing was saved, and no link was given.
        mail.refresh_from_db()
        self.assertEqual((mail.subject, mail.approved_at, ClientLink.objects.count()), ("New for you", None, 0))
        self.client.force_login(self.other_team(), backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.post(address).status_code, 404)


class Sent(ClientCase):
    def test_looked_at_first_thinned_out_and_sent(self) -> None:
        mail = mails.write_now(self.mine, self.of)
        self.assertEqual(set(mail.parcels), {self.first.pk, self.second.pk})
        self.assertEqual((mails.send_approved(), KeptMail.objects.count()), (0, 0))
        self.assertIn("mail to Imre Solvang ready for review, 2 listings", [one.what for one in due_until(self.mine, timedelta(0))])
        page = self.client.get(reverse("clients:mail", args=[mail.pk]))
        self.assertContains(page, "in the mail", count=2)
        for sent, said in (
            ({"parcel": []}, "Leave at least one"),
            ({"parcel": [self.first.pk], "subject": " "}, "Give the mail a subject"),
        ):
            answer = self.client.post(reverse("clients:mail", args=[mail.pk]), {"do": "send", "message": "Hi", **sent}, follow=True)
            self.assertContains(answer, said)
        self.client.post(
            reverse("clients:mail", args=[mail.pk]), {"do": "send", "parcel": [self.first.pk], "subject": "Look", "message": "Hi {name}"}
        )
        self.assertEqual([one.parcel_id for one in Showing.objects.all()], [self.first.pk])
        # What was taken out is new for the next.
        self.assertEqual(mails.new_for(self.of), [self.second.pk])

    def test_nobody_sees_the_same_house_twice_unless_it_changed(self) -> None:
        self.send()
        self.assertEqual(mails.new_for(self.of), [])
        self.assertIsNone(mails.write_now(self.mine, self.of))
        ParcelFacts.objects.filter(pk=self.second.pk).update(open_signals=9)
        self.price(self.first, 190_000)
        with later(1):
            mail = self.send()
        self.assertEqual(mail.parcels, [self.first.pk])
        text = message_from_bytes(bytes(KeptMail.objects.first().message), policy=default).get_body(("plain",)).get_content()
        self.assertIn("since you saw it: list price $200,000 → $190,000", text)
        # Each property keeps its number in the client's history.
        numbers = Showing.objects.filter(client=self.imre, parcel=self.first.pk).values_list("number", flat=True)
        self.assertEqual(len(numbers), 2)
        self.assertEqual(len(set(numbers)), 1)
        self.assertEqual(set(Showing.objects.values_list("number", flat=True)), {1, 2})
        page = page_text(self.client.get(reverse("clients:client", args=[self.imre.pk])).content)
        self.assertIn("2 times", page)
        self.assertIn("$190,000", page)

    def test_by_itself_when_it_is_due_and_never_twice(self) -> None:
        self.of = clients.give_search(self.mine, self.imre, self.search, {**TOLD, "is_reviewed": False, "copy_to_agent": True})
        self.assertEqual(mails.run_due(), mails.Round(0, 0, 0))
        with later(25):
            self.assertEqual(mails.run_due(), mails.Round(1, 1, 1))
            self.assertEqual(mails.run_due(), mails.Round(0, 0, 0))
        kept = KeptMail.objects.get()
        self.assertEqual(kept.to, "imre@solvang.example, nora@lantern.example")
        self.assertNotIn(b"Bcc", bytes(kept.message))

    def test_one_that_can_not_leave_is_shown_to_nobody_and_leaves_later(self) -> None:
        mail = mails.write_now(self.mine, self.of)
        mails.approve(self.mine, mail, mail.parcels, mail.subject, mail.message)
        with patch("jaded_ledger.clients.mails.TeamMail.send", side_effect=OSError("the relay is down")):
            self.assertEqual(mails.send_approved(), 0)
        mail.refresh_from_db()
        self.assertEqual((mail.fault, mail.sent_at, Showing.objects.count()), ("the relay is down", None, 0))
        self.assertEqual((mails.send_approved(), mails.send_approved(), KeptMail.objects.count()), (1, 0, 1))

    def test_one_that_could_not_leave_for_three_days_goes_back_to_the_agent(self) -> None:
        mail = mails.write_now(self.mine, self.of)
        mails.approve(self.mine, mail, mail.parcels, mail.subject, mail.message)
        approved_at = ClientMail.objects.get().approved_at
        with patch("jaded_ledger.clients.mails.TeamMail.send", side_effect=OSError("the relay is down")):
            for after, waiting in ((TRIED_FOR - timedelta(seconds=1), 0), (TRIED_FOR, 1)):
                with self.subTest(after), at(approved_at + after):
                    self.assertEqual((mails.send_approved(), mails.mails_waiting(self.mine)), (0, waiting))
        with at(approved_at + TRIED_FOR):
            self.assertEqual((mails.send_approved(), ClientMail.objects.get().fault), (0, "the relay is down"))

    def test_what_has_left_the_search_meanwhile_is_not_sent(self) -> None:
        mail = mails.write_now(self.mine, self.of)
        mails.approve(self.mine, mail, mail.parcels, mail.subject, mail.message)
        self.price(self.first, None)
        with later(1):
            mails.write(self.of)
            mails.send_approved()
        self.assertEqual(list(Showing.objects.values_list("parcel_id", flat=True)), [self.second.pk])

    def test_paused_let_go_of_or_without_an_address_nothing_is_sent(self) -> None:
        mail = mails.write_now(self.mine, self.of)
        Client.objects.update(email="")
        with self.assertRaisesRegex(ClientError, "no e-mail address"):
            mails.approve(self.mine, ClientMail.objects.get(), mail.parcels, "S", "M")
        Client.objects.update(email="imre@solvang.example")
        mails.approve(self.mine, ClientMail.objects.get(), mail.parcels, "S", "M")
        clients.pause_search(self.mine, self.of, paused=True)
        self.assertEqual(mails.send_approved(), 0)
        clients.pause_search(self.mine, self.of, paused=False)
        delete(self.mine, self.imre)
        self.assertEqual((mails.send_approved(), mails.mails_waiting(self.mine)), (0, 0))
        undelete(self.mine, self.imre)
        self.assertEqual(mails.send_approved(), 1)

    def test_a_changed_search_is_told_in_the_agents_words(self) -> None:
        self.send()
        services.save_changes(self.mine, self.search, SearchPage(parse("class: triplex\nlist-price: ..950000")))
        page = self.client.get(reverse("clients:client", args=[self.imre.pk]))
        self.assertContains(page, "The search was changed since they were written last")
        clients.give_search(self.mine, self.imre, self.search, {**TOLD, "edit_note": "up to $950,000 now"})
        self.price(self.third, 940_000)
        with later(1):
            self.send()
        text = message_from_bytes(bytes(KeptMail.objects.first().message), policy=default).get_body(("plain",)).get_content()
        self.assertIn("What changed in what I look for: up to $950,000 now", text)
        self.of.refresh_from_db()
        self.assertEqual((self.of.edit_note, self.of.told_version), ("", 2))

    def test_ended_by_one_click(self) -> None:
        with override_settings(BASE_URL="https://ledger.example"):
            self.send()
        mail: EmailMessage = message_from_bytes(bytes(KeptMail.objects.get().message), policy=default)  # type: ignore[assignment]
        self.assertEqual(mail["List-Unsubscribe-Post"], "List-Unsubscribe=One-Click")
        path = mail["List-Unsubscribe"].strip(" <>").removeprefix("https://ledger.example")
        stranger = self.client_class(enforce_csrf_checks=True)
        self.assertContains(stranger.get(path), "End these mails?")
        self.assertIsNone(ClientSearch.objects.get().paused_at)
        stranger.post(path, {"List-Unsubscribe": "One-Click"})
        self.assertIsNotNone(ClientSearch.objects.get().paused_at)
        self.assertEqual(stranger.get(path.replace("/for/", "/for/9")).status_code, 404)

    def test_a_reader_sends_nothing(self) -> None:
        reader = self.colleague("rita", User.Role.READER)
        mail = mails.write_now(self.mine, self.of)
        for act in (
            lambda: mails.approve(reader, mail, mail.parcels, "S", "M"), lambda: mails.drop(reader, mail),
            lambda: links.renew(reader, self.imre), lambda: delete(reader, self.imre),
            lambda: clients.take_search(reader, self.of), lambda: mails.write_now(reader, self.of),
        ):  # fmt: skip
            with self.assertRaises(PermissionDenied):
                act()

    def test_wrong_rhythms_and_settings(self) -> None:
        with self.assertRaisesRegex(ClientError, "days of the week"):
            clients.give_search(self.mine, self.imre, self.search, {**TOLD, "rhythm": "weekly"})
        owner = Scope(self.mine.team, None, self.mine.today)
        for days in (None, 0, 367):
            with self.assertRaisesRegex(ClientError, "1 to 366"):
                clients.change_settings(owner, ["x"], "m", days)
        clients.change_settings(owner, [" too  dear ", "too dear", ""], "m", 366)
        self.assertEqual(clients.settings_of(owner).reasons, ["too dear"])


class OwnPage(ClientCase):
    def setUp(self) -> None:
        super().setUp()
        self.send()
        self.stranger = self.client_class(enforce_csrf_checks=True)

    def address(self) -> str:
        return reverse("clients:page", args=[links.link_for_mail(self.imre)])

    def test_opened_answered_and_noted(self) -> None:
        page = self.stranger.get(self.address())
        self.assertContains(page, "$200,000", count=2)
        self.assertEqual(LinkOpening.objects.count(), 1)
        answer = self.stranger.post(f"{self.address()}answer", {"parcel": self.first.pk, "what": "no", "reason": "too dear"})
        self.assertEqual(answer.status_code, 302)
        self.assertIn("You: no, too dear", page_text(self.stranger.get(self.address()).content))
        self.stranger.post(f"{self.address()}answer", {"parcel": self.first.pk, "what": "wants", "words": "<i>Saturday</i>"})
        latest = ClientAnswer.objects.first()
        self.assertEqual((latest.what, latest.by_client, latest.user), ("wants", True, None))
        self.assertContains(self.client.get(reverse("clients:client", args=[self.imre.pk])), "&lt;i&gt;Saturday&lt;/i&gt;")
        self.assertContains(self.client.get(reverse("clients:all")), "wants to see it")
        self.assertContains(self.client.get(reverse("properties:more", args=[self.first.pk])), "Imre Solvang wants to see it")
        for sent in ({"parcel": self.third.pk, "what": "wants"}, {"parcel": self.first.pk, "what": "offer"}, {"parcel": "x", "what": "no"}):
            self.assertEqual(self.stranger.post(f"{self.address()}answer", sent).status_code, 404)

    def test_answers_are_one_for_each_property_and_bounded(self) -> None:
        """150 posts in six seconds hid what other clients had said."""

        def post(what: str, words: str = "") -> int:
            sent = {"parcel": self.first.pk, "what": what, "words": words, "reason": words}
            return self.stranger.post(f"{self.address()}answer", sent).status_code

        # The same again is the same.
        self.assertEqual([post("wants", "Saturday"), post("wants", "Saturday")], [302, 302])
        self.assertEqual(ClientAnswer.objects.count(), 1)
        for number in range(1, MOST_REMEMBERED + 5):
            self.assertEqual(post("no" if number % 2 else "maybe", f"number {number}"), 302)
        self.assertEqual(ClientAnswer.objects.count(), MOST_REMEMBERED)
        (current,) = clients.current_answers(self.mine)
        self.assertEqual(current.reason, f"number {MOST_REMEMBERED + 4}")
        # The agent's own note stands beside, whatever the client sends.
        clients.note_answer(self.imre, self.first.parcel, "viewed", "with his wife", scope=self.mine)
        self.assertEqual(ClientAnswer.objects.count(), MOST_REMEMBERED + 1)
        rows = [ClientAnswer(client=self.imre, parcel=self.third.parcel, what="no", at=now(), by_client=True) for _ in range(MOST_ANSWERS)]
        ClientAnswer.objects.bulk_create(rows[MOST_REMEMBERED + 1 :])
        self.assertEqual([post("wants", "one more"), post("wants", "and another")], [302, 302])
        ClientAnswer.objects.bulk_create(rows[: MOST_REMEMBERED + 1])
        refused = self.stranger.post(f"{self.address()}answer", {"parcel": self.first.pk, "what": "maybe", "words": "too many"})
        self.assertEqual(refused.status_code, 429)
        self.assertContains(refused, "Wait a few minutes", status_code=429)
        with later(1):
            self.assertEqual(post("maybe", "after a while"), 302)

    def test_changed_signature_ended_revoked_and_renewed(self) -> None:
        address = self.address()
        key = address.split("/")[2]
        for wrong in (key[:-1], key + "A", f"9{key}", "x", mails.stop_address(self.of).split("/")[-2]):
            self.assertEqual(self.stranger.get(reverse("clients:page", args=[wrong])).status_code, 404, wrong)
        link = ClientLink.objects.get()
        for ends, status in ((now() + timedelta(minutes=1), 200), (now() - timedelta(seconds=1), 404)):
            ClientLink.objects.filter(pk=link.pk).update(ends_at=ends)
            self.assertEqual(self.stranger.get(address).status_code, status)
        ClientLink.objects.filter(pk=link.pk).update(ends_at=now() + timedelta(days=1))
        self.client.post(reverse("clients:act", args=[self.imre.pk]), {"do": "link"})
        self.assertEqual([self.stranger.get(one).status_code for one in (address, self.address())], [404, 200])
        second = self.address()
        self.client.post(reverse("clients:act", args=[self.imre.pk]), {"do": "revoke"})
        self.assertEqual(self.stranger.get(second).status_code, 404)
        third = self.address()
        delete(self.mine, self.imre)
        self.assertEqual(self.stranger.get(third).status_code, 404)

    def test_photographs_of_what_they_were_shown_only(self) -> None:
        every = Photograph.objects.filter(superseded_at=None, listing_id="")
        other = Photograph.objects.filter(superseded_at=None).exclude(parcel__in=[self.first.pk, self.second.pk]).first()
        Photograph.objects.filter(pk=other.pk).update(parcel=self.first.pk)
        key = self.address().split("/")[2]
        self.assertEqual(self.stranger.get(reverse("clients:photograph", args=[key, other.image_id])).status_code, 200)
        Photograph.objects.filter(image=other.image_id).update(parcel=self.third.pk, listing_id="none of theirs")
        self.assertEqual(self.stranger.get(reverse("clients:photograph", args=[key, other.image_id])).status_code, 404)
        self.assertIsNotNone(every)


class NothingOfOwners(ClientCase):
    """One walk over all that a client gets: no owner, telephone, debt, tax, distress, private remarks, or parcel number is in any of it."""

    def test_everything_a_client_gets(self) -> None:
        listed = ParcelFacts.objects.filter(remarks__isnull=False, owner_name__isnull=False, loan_balance__gt=0).select_related(
            "owner_name", "remarks", "mailing_address"
        )
        some = list(listed.order_by("pk")[:12])
        private = "PRIVATE SHOWING CODE 4711"
        for one in some:
            fields = list(one.remarks.fields)
            one.remarks.fields = [fields[0], private, *fields[2:]] if len(fields) > 1 else [*fields, private]
            one.remarks.save()
        ParcelFacts.objects.filter(pk__in=[one.pk for one in some]).update(
            list_price=222_201, ever_listed=True, open_signals=5, tax_due=3_333, on_offer=[1]
        )
        services.save_changes(self.mine, self.search, SearchPage(parse("list-price: 222201")))
        self.derive()
        with later(1):
            mail = self.send()
            self.assertEqual(set(mail.parcels), {one.pk for one in some})
            stranger = self.client_class()
            page = reverse("clients:page", args=[links.link_for_mail(self.imre)])
            got = {"page": stranger.get(page).content.decode(), "stop": stranger.get(f"{page}stop").content.decode()}
            got["after an answer"] = stranger.post(f"{page}answer", {"parcel": some[0].pk, "what": "maybe"}, follow=True).content.decode()
        message: EmailMessage = message_from_bytes(bytes(KeptMail.objects.first().message), policy=default)  # type: ignore[assignment]
        got |= {part.get_content_type(): part.get_content() for part in message.walk() if part.get_content_maintype() == "text"}
        got["headers"] = str(message.items())
        numbers = dict(Parcel.objects.filter(pk__in=[one.pk for one in some]).values_list("pk", "number"))
        secrets = {private.casefold(), "3,333", "distress", "lien", "foreclos", "mortgage", "owner", "absentee", "equity", "probate"}
        for one in some:
            secrets |= {one.owner_name.text.casefold(), one.owner_name.mailing_name.casefold(), numbers[one.pk].casefold()}
            secrets |= {f"{one.loan_balance:,.0f}"} if one.loan_balance > 9_999 else set()
            secrets |= (
                {one.mailing_address.text.casefold()} if one.mailing_address_id and one.mailing_address_id != one.address_id else set()
            )
        secrets |= {value.casefold() for value in Contact.objects.values_list("value", flat=True)}
        for name, text in got.items():
            self.assertTrue(text)
            plain = (page_text(text.encode()) if "<" in text else text).casefold()
            for one in some:
                # What the public remarks themselves say is the listing's to say.
                plain = plain.replace(" ".join(one.remarks.fields[0].casefold().split()), "")
            found = sorted(secret for secret in secrets if secret and secret in " ".join(plain.split()))
            self.assertEqual(found, [], name)


class TheOtherWayRound(ClientCase):
    def test_whom_a_property_suits_and_whom_it_misses_by_one_line(self) -> None:
        parcel = Parcel.objects.get(pk=self.first.pk)
        (fit,) = fits_of(parcel, self.mine)
        self.assertEqual((fit.of.client, fit.misses, fit.shown), (self.imre, "", None))
        self.send()
        self.assertEqual(fits_of(parcel, self.mine)[0].shown.parcel_id, self.first.pk)
        self.price(self.first, 950_000)
        self.assertIn("list price $950,000 where", fits_of(parcel, self.mine)[0].misses)
        # By the very limit it fits.
        self.price(self.first, 900_000)
        self.assertEqual(fits_of(parcel, self.mine)[0].misses, "")
        ParcelFacts.objects.filter(pk=self.first.pk).update(property_class=code_of("duplex"), list_price=950_000)
        self.derive()
        self.assertEqual(fits_of(parcel, self.mine), [])
        self.price(self.first, 200_000)
        self.assertIn("class duplex where", fits_of(parcel, self.mine)[0].misses)
        page = self.client.get(reverse("clients:fits", args=[parcel.pk]))
        self.assertIn("by a hair not: class duplex where", page_text(page.content))
        Client.objects.update(is_left_out=True)
        self.assertEqual(fits_of(parcel, self.mine), [])

    def test_a_search_of_one_line_is_missed_by_everything(self) -> None:
        services.save_changes(self.mine, self.search, SearchPage(parse("class: duplex")))
        self.assertEqual(fits_of(Parcel.objects.get(pk=self.first.pk), self.mine), [])


class Kept(ClientCase):
    def test_hostile_names_and_wrong_input(self) -> None:
        for sent, said in (
            ({"name": ""}, "required"), ({"name": "A", "email": "no address"}, "valid email"), ({"name": "x" * 121}, "at most 120"),
        ):  # fmt: skip
            answer = self.client.post(reverse("clients:new"), sent)
            self.assertEqual(answer.status_code, 400)
            self.assertContains(answer, said, status_code=400)
        name = "<script>alert(1)</script> “A & B”"
        page = self.client.post(reverse("clients:new"), {"name": name, "email": "a@b.example"}, follow=True)
        self.assertContains(page, "&lt;script&gt;alert(1)&lt;/script&gt;")
        made = Client.objects.get(name=name)
        self.client.post(reverse("clients:act", args=[made.pk]), {"do": "give", "saved": self.search.pk})
        mail = mails.write_now(self.mine, made.searches.get())
        mails.approve(self.mine, mail, mail.parcels, "A\nBcc: evil@example.com", "Hi {name}")
        mails.send_approved()
        message: EmailMessage = message_from_bytes(bytes(KeptMail.objects.get().message), policy=default)  # type: ignore[assignment]
        self.assertEqual((message["Subject"], message["Bcc"]), ("A Bcc: evil@example.com", None))
        self.assertNotIn("<script>", message.get_body(("html",)).get_content())
        for do in ("fly", "tell:999999", "answer:1"):
            self.assertEqual(self.client.post(reverse("clients:act", args=[made.pk]), {"do": do}).status_code, 404)

    def test_let_go_of_and_brought_back(self) -> None:
        page = self.client.post(reverse("clients:act", args=[self.imre.pk]), {"do": "delete"}, follow=True)
        self.assertContains(page, "deleted")
        self.assertEqual(self.client.get(reverse("clients:client", args=[self.imre.pk])).status_code, 404)
        self.client.post(undo_address(self.imre))
        self.assertEqual(self.client.get(reverse("clients:client", args=[self.imre.pk])).status_code, 200)
        for do, said in (("pause", "Paused"), ("resume", "Taken up"), ("tell", "Kept"), ("take", "no more")):
            sent = {"do": f"{do}:{self.of.pk}", "subject": "S", "rhythm": "weekly", "day": ["2", "9", "x"], "is_reviewed": "no"}
            self.assertContains(self.client.post(reverse("clients:act", args=[self.imre.pk]), sent, follow=True), said)
