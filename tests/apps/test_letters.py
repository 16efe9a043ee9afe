"""Letters on the team's own terms: written, chosen, sent as they read then; series that stop; a mail house that reports."""

from __future__ import annotations

import csv
import io
import json
import re
import zipfile
from collections import Counter
from datetime import timedelta
from decimal import Decimal

from django.core.management import CommandError, call_command
from django.urls import reverse
from docx import Document
from pypdf import PdfReader

from jaded_ledger.accounts.deletion import delete, undo_address
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.models import DoNotContact
from jaded_ledger.core.mail.letters import LetterError, Recipient, is_of_first_half
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.mailings import letters, series
from jaded_ledger.mailings.letter_fields import FIELDS, salutation, salutation_of_body
from jaded_ledger.mailings.mail_houses import Batch, MailHouseError, mail_houses
from jaded_ledger.mailings.mail_orders import catch_up, catch_up_all, give_to, report_counts
from jaded_ledger.mailings.mailing_files import files_of, merge_data
from jaded_ledger.mailings.mailing_terms import MailingError, change
from jaded_ledger.mailings.mailings import export_of, make, planned
from jaded_ledger.mailings.models import LetterTemplate, Mailing, MailOrder, MailReport, PieceOutcome, Series
from jaded_ledger.mailings.replies import note_outcome
from jaded_ledger.mailings.response import brought_by, brought_by_letters, brought_together, lists_named, responses, starter_named
from jaded_ledger.maps.areas import circle, keep_area, outline_of
from jaded_ledger.maps.models import SaleOfArea
from jaded_ledger.plugins import hooks
from jaded_ledger.records.models import ParcelFacts, World
from jaded_ledger.simulators.mail_house import schedule
from jaded_ledger.simulators.models import MailHouseJob
from tests.support.mailings import HOSTILE, SEARCH, MailCase
from tests.support.page_text import page_text
from tests.support.tiers import at_all_hours, thorough

MANY = "owner-occupied: no\nclass: residential"
FEW = "class: triplex"


class LetterCase(MailCase):
    def letter(self, text: str, name: str = "Mine", form: str = "letters") -> LetterTemplate:
        return letters.write(self.scope, name, form, text)

    def sent(self, text: str, search: str = FEW, **said: str) -> Mailing:
        return self.made(search, form="letters", letter=str(self.letter(text).pk), **said)

    def days_pass(self, count: int) -> None:
        """Let so many days pass for everybody."""
        for world in World.objects.all():
            World.objects.filter(pk=world.pk).update(today=world.today + timedelta(count))
        self.scope = Scope(self.scope.team, self.scope.user, self.scope.today + timedelta(count))


class Writing(LetterCase):
    def test_a_team_begins_with_the_shipped_ones(self) -> None:
        self.assertContains(self.client.get(reverse("mailings:letters")), "To an executor")
        shipped = letters.letters_of(self.scope)
        self.assertEqual(
            {one.name for one in shipped},
            {"First letter", "To owners of several", "To an executor", "After a sale nearby", "After a sale nearby (letter)"},
        )
        for one in shipped:
            letters.read(one.text)
            delete(self.scope, one)
        # Whoever took them away wants them no more.
        letters.begin_with_shipped(self.scope)
        self.assertFalse(letters.letters_of(self.scope).exists())

    def test_written_copied_taken_away_and_put_back(self) -> None:
        answer = self.client.post(reverse("mailings:new-letter"), {"form": "letters"}, follow=True)
        (letter,) = letters.letters_of(self.scope)
        self.assertContains(answer, letter.name)
        address = reverse("mailings:letter", args=[letter.pk])
        self.client.post(address, {"name": "  To  my street ", "text": "Dear {salutation|neighbor},\r\n\r\nbye\r\n"})
        letter.refresh_from_db()
        self.assertEqual((letter.name, letter.text), ("To my street", "Dear {salutation|neighbor},\n\nbye"))
        self.assertEqual(letter.changed_by, self.user)
        wrong = self.client.post(address, {"name": "x", "text": "Dear {neighbor}"})
        self.assertContains(wrong, "Line 1: there is no field {neighbor}", status_code=400)
        # What was typed is still there, and nothing of it was kept.
        self.assertContains(wrong, "Dear {neighbor}</textarea>", status_code=400)
        self.assertEqual(letters.letters_of(self.scope).get().name, "To my street")
        self.client.post(reverse("mailings:new-letter"), {"copy": letter.pk})
        copied = letters.letters_of(self.scope).exclude(pk=letter.pk).get()
        self.assertEqual((copied.name, copied.text), ("To my street again", letter.text))
        for name, why in (("To my street", "already; give this one another name"), (" ", "1 to 80"), ("x" * 81, "1 to 80")):
            with self.subTest(name), self.assertRaisesRegex(LetterError, why):
                letters.change(self.scope, copied, name, "Hi")
        page = self.client.post(reverse("mailings:remove-letter", args=[letter.pk]), follow=True)
        self.assertContains(page, undo_address(letter))
        self.letter("Hi", "To my street")
        refused = self.client.post(undo_address(letter), follow=True)
        self.assertContains(refused, "Rename that one first")
        delete(self.scope, letters.letters_of(self.scope).get(name="To my street"))
        self.client.post(undo_address(letter))
        self.assertTrue(letters.letters_of(self.scope).filter(pk=letter.pk).exists())

    def test_two_who_change_one_at_once(self) -> None:
        letter = self.letter("Dear {owner}")
        address = reverse("mailings:letter", args=[letter.pk])
        (seen,) = re.findall(r'name="seen" value="([^"]+)"', self.client.get(address).content.decode())
        other = User.objects.create_user("marsh", team=self.scope.team, role=User.Role.AGENT)
        letters.change(Scope(self.scope.team, other, self.scope.today), letter, "Mine", "Theirs <b>")
        answer = self.client.post(address, {"name": "Mine", "text": "Ours", "seen": seen})
        self.assertEqual(answer.status_code, 409)
        said = page_text(answer.content)
        for text in ("Marsh changed this letter after you opened it", "Theirs <b>", "Ours"):
            self.assertIn(text, said)
        letter.refresh_from_db()
        self.assertEqual(letter.text, "Theirs <b>")
        # The same text again is no quarrel; sent once more, one's own text takes the place of theirs.
        self.assertEqual(self.client.post(address, {"name": "Mine", "text": "Theirs <b>", "seen": seen}).status_code, 302)
        (seen,) = re.findall(r'name="seen" value="([^"]+)"', self.client.get(address).content.decode())
        self.assertEqual(self.client.post(address, {"name": "Mine", "text": "Ours", "seen": seen}).status_code, 302)
        letter.refresh_from_db()
        self.assertEqual((letter.text, letter.changed_by), ("Ours", self.user))

    def test_another_teams_letters_are_none_of_ours(self) -> None:
        other = Scope(Team.objects.create(name="Other"), None, self.scope.today)
        theirs = letters.write(other, "Theirs", "letters", "Hi")
        for name in ("letter", "preview-letter", "remove-letter"):
            self.assertEqual(self.client.post(reverse(f"mailings:{name}", args=[theirs.pk]), {"text": "x"}).status_code, 404, name)
        self.assertEqual(self.client.post(undo_address(theirs)).status_code, 404)
        with self.assertRaisesRegex(MailingError, "there is no letter"):
            change(self.scope, self.begun(form="letters"), {"letter": str(theirs.pk)})

    def test_the_preview_is_of_real_owners_and_says_who_gets_none(self) -> None:
        letter = self.letter("x")
        address = reverse("mailings:preview-letter", args=[letter.pk])
        said = self.client.post(address, {"text": "Dear {salutation|neighbor}, of {owner}"})
        first = ParcelFacts.objects.filter(owner__isnull=False).order_by("pk").values_list("owner_name__mailing_name", flat=True)[:60]
        self.assertContains(said, "letter 1 of")
        self.assertTrue(any(name in page_text(said.content) for name in first))
        self.assertIn("Nobody would get it: {sale-price}", page_text(self.client.post(address, {"text": "{sale-price}"}).content))
        self.assertContains(self.client.post(address, {"text": "{owned-since}"}), "would get none: {owned-since}")
        self.assertContains(self.client.post(address, {"text": "{"}), "stands alone")
        for number in ("0", "-1", "9" * 30, "x"):
            self.assertEqual(self.client.post(address, {"text": "Hi", "piece": number}).status_code, 200)

    def test_names_as_they_are_greeted(self) -> None:
        for name, greeted in (
            ("HELEN M & PETER OSTROM", "Helen M. and Peter Ostrom"), ("DORA KELM", "Dora Kelm"), ("A B C", "A. B. C."),
            ("JOSÉ RUIZ JR", "José Ruiz Jr"),
        ):  # fmt: skip
            self.assertEqual(salutation(name), greeted)
        for name, greeted in (
            ("KELM FAMILY TRUST", "Trustee of the Kelm Family Trust"), ("THE KELM FAMILY TRUST", "Trustee of the Kelm Family Trust"),
            ("ESTATE OF DORA KELM", "Executor of the Estate of Dora Kelm"), ("OAKUM HOLDINGS LLC", "Oakum Holdings LLC"),
            ("DORA KELM TRUSTEE OF THE KELM TRUST", "Dora Kelm Trustee of the Kelm Trust"),
            ("FIRST TRUST COMPANY", "First Trust Company"),
        ):  # fmt: skip
            self.assertEqual(salutation_of_body(name), greeted)


class Sending(LetterCase):
    def test_each_piece_says_what_is_on_record_of_its_property(self) -> None:
        mailing = self.sent("{address|?} / {years-owned|?} / {assessed-value|?} / {year-built|?} / {parcels} / {code}", note="{code}")
        text = "".join(
            content for _, content in [(name, _text(content)) for name, content in files_of(mailing, export_of(mailing, self.scope))]
        )
        pieces = list(mailing.pieces.select_related("parcel__facts__address"))
        self.assertGreater(len(pieces), 5)
        for piece in pieces:
            facts, values = piece.parcel.facts, piece.values
            self.assertEqual(values.get("address"), facts.street_line or None)
            self.assertEqual(values.get("year-built"), str(facts.year_built) if facts.year_built else None)
            self.assertEqual(values.get("assessed-value"), None if facts.assessed_value is None else f"${facts.assessed_value:,}")
            self.assertEqual(values["parcels"], str(len(piece.parcels)))
            self.assertIn(f"/ {len(piece.parcels)} / {mailing.code}-{piece.number}", text)

    def test_one_that_asks_to_be_called_gives_a_number_or_is_not_made(self) -> None:
        """Without a number, and with one that the letter does not give; in whatever way the mailing is made."""
        mailing = self.begun(FEW, form="letters", letter=str(self.letter("Call me about {address|it}.\n{phone|}").pk))
        other = self.begun(MANY, form="letters", letter=str(self.letter("Call me.", "No number").pk))
        Team.objects.filter(pk=self.scope.team.pk).update(phone="")
        self.scope.team.refresh_from_db()
        for one, said in ((mailing, "set one under Prices and printers"), (other, "gives no phone number")):
            page = self.client.get(reverse("mailings:mailing", args=[one.pk]))
            self.assertIn(said, page_text(page.content))
            with self.assertRaisesRegex(MailingError, "asks owners to call"):
                make(one, self.scope, planned(one, self.scope))
            self.assertContains(self.client.post(reverse("mailings:make-mailing", args=[one.pk]), follow=True), "asks owners to call")
        Team.objects.filter(pk=self.scope.team.pk).update(phone="(414) 555-0142")
        self.scope.team.refresh_from_db()
        with self.assertRaisesRegex(MailingError, r"write \{phone\} into it"):
            make(other, self.scope, planned(other, self.scope))
        make(mailing, self.scope, planned(mailing, self.scope))
        self.assertEqual({piece.values["phone"] for piece in mailing.pieces.all()}, {"(414) 555-0142"})

    def test_phone_and_license_are_set_with_the_prices(self) -> None:
        address = reverse("mailings:settings")
        self.client.post(address, {"phone": "1-414-555-0142", "license": "  License   57 "})
        self.scope.team.refresh_from_db()
        self.assertEqual((self.scope.team.phone, self.scope.team.license), ("(414) 555-0142", "License 57"))
        for sent, said in (
            ({"phone": "555-0142"}, "is not a phone number of ten digits"),
            ({"license": "x" * 121}, "at most 120 characters"),
        ):
            answer = self.client.post(address, sent)
            self.assertContains(answer, said, status_code=400)
        self.scope.team.refresh_from_db()
        self.assertEqual(self.scope.team.phone, "(414) 555-0142")

    def test_a_made_one_stays_as_it_was_sent(self) -> None:
        mailing = self.sent("Before {code}")
        letter = mailing.letter
        before = b"".join(content for _, content in files_of(mailing, export_of(mailing, self.scope)))
        letters.change(self.scope, letter, "Other name", "After {code}")
        delete(self.scope, letter)
        after = b"".join(content for _, content in files_of(mailing, export_of(mailing, self.scope)))
        self.assertEqual(_text(before), _text(after))
        self.assertIn(f"Before {mailing.code}-1", _text(after))
        page = self.client.get(f"{reverse('mailings:ring')}?typed={mailing.code}-1")
        self.assertContains(page, "Before ")
        self.assertContains(page, 'aria-label="Letter page')

    def test_several_letters_by_kind_of_owner_and_none_for_some(self) -> None:
        company, trust = self.letter("Company", "C"), self.letter("Trust", "T")
        mailing = self.begun(MANY, form="letters", letter=str(self.letter("Usual", "U").pk))
        change(self.scope, mailing, {"letter-company": str(company.pk), "letter-trust": trust.name, "letter-estate": "none"})
        plan = planned(mailing, self.scope)
        by = {recipient: {key for (who, key) in plan.written_to if who == recipient} for recipient in Recipient}
        self.assertEqual((by[Recipient.COMPANY], by[Recipient.TRUST], by[Recipient.ESTATE]), ({company.pk}, {trust.pk}, set()))
        self.assertEqual(by[Recipient.PERSON], {mailing.letter_id})
        self.assertGreater(plan.made.reasons[Reason.NO_LETTER], 0)
        self.assertEqual(sum(plan.written_to.values()), len(plan.made.pieces))
        page = self.client.get(reverse("mailings:mailing", args=[mailing.pk]))
        self.assertContains(page, "estates, to the executor")
        change(self.scope, mailing, {"letter-estate": "", "letter-company": ""})
        self.assertEqual(mailing.letter_of, {"trust": trust.pk})
        self.assertEqual(planned(mailing, self.scope).made.reasons[Reason.NO_LETTER], 0)

    def test_two_tried_against_each_other_on_halves_that_stay(self) -> None:
        one, other = self.letter("One", "One"), self.letter("Other", "Other")
        mailing = self.begun(MANY, form="letters", letter=str(one.pk), against=str(other.pk))
        first, second = (
            {piece.owner_id: plan.written[piece.parcel_id].letter.key for piece in plan.made.pieces}
            for plan in (planned(mailing, self.scope), planned(mailing, self.scope))
        )
        self.assertEqual(first, second)
        count = Counter(first.values())
        # Four standard deviations of a fair coin.
        self.assertLess(abs(count[one.pk] - len(first) / 2), 2 * len(first) ** 0.5)
        for owner, key in first.items():
            self.assertEqual(key == one.pk, is_of_first_half(one.pk, other.pk, f"owner {owner}"))
        make(mailing, self.scope, planned(mailing, self.scope))
        kept = {piece.owner_id: piece.letter.letter_id for piece in mailing.pieces.select_related("letter")}
        self.assertEqual(kept, first)
        replied = [piece for piece in mailing.pieces.select_related("letter") if piece.letter.letter_id == one.pk][:6]
        for piece in replied:
            note_outcome(self.scope, piece, PieceOutcome.Kind.REPLY)
        by = {brought.label: brought for brought in brought_by_letters(self.scope)}
        self.assertEqual((by["One"].pieces, by["One"].outcomes.get("reply"), by["Other"].outcomes.get("reply")), (count[one.pk], 6, None))
        self.assertEqual(by["One"].cost + by["Other"].cost, mailing.cost)
        page = page_text(self.client.get(reverse("mailings:response")).content)
        self.assertIn("“One” against “Other”", page)
        self.assertIn("By letter", page)

    def test_an_unknown_field_refuses_and_its_wording_does_not(self) -> None:
        unknown = ParcelFacts.objects.filter(year_built=None)
        mailing = self.begun("class: residential-lot", form="letters", letter=str(self.letter("Built in {year-built}").pk))
        made = planned(mailing, self.scope).made
        refused = [one for one in made.refusals if one.reason is Reason.NO_FIELD]
        self.assertTrue(refused)
        self.assertEqual({one.detail for one in refused}, {"year-built"})
        self.assertEqual(unknown.filter(pk__in=[one.parcel_id for one in refused]).count(), len(refused))
        letters.change(self.scope, mailing.letter, "Mine", "Built in {year-built|a good year}")
        mailing.refresh_from_db()
        self.assertEqual(planned(mailing, self.scope).made.reasons[Reason.NO_FIELD], 0)

    def test_the_sale_that_the_search_is_around(self) -> None:
        facts = ParcelFacts.objects.exclude(place=None).filter(property_class__isnull=False).order_by("pk")[20]
        area = keep_area(self.scope, "Around it", outline_of(circle(facts.place, 800)))
        SaleOfArea.objects.create(
            area=area, parcel_id=facts.pk, listing_id="1", address="103 Capstan St", closed_on=self.scope.today - timedelta(3),
            close_price=Decimal(312_000), days=1,
        )  # fmt: skip
        text = "{sale-address} sold on {sale-date} for {sale-price} after {sale-days}."
        mailing = self.sent(text, 'in-area: any of "Around it"', relaxed="recent")
        days = self.scope.today - timedelta(3)
        said = _text(b"".join(content for _, content in files_of(mailing, export_of(mailing, self.scope))))
        self.assertIn(f"103 Capstan St sold on {days:%B} {days.day}, {days.year} for $312,000 after 1 day.", said)
        elsewhere = self.begun(form="letters", letter=str(mailing.letter_id))
        self.assertEqual(planned(elsewhere, self.scope).made.pieces, [])

    @thorough
    def test_hostile_names_through_every_form(self) -> None:
        mailing = self.begun(form="letters", letter=str(self.letter("{owner} {salutation|x}\n{address|x}").pk))
        chosen = [piece.parcel_id for piece in planned(mailing, self.scope).made.pieces][: len(HOSTILE)]
        for pk, name in zip(chosen, HOSTILE, strict=True):
            facts = ParcelFacts.objects.select_related("owner_name").get(pk=pk)
            type(facts.owner_name).objects.filter(pk=facts.owner_name_id).update(mailing_name=name)
        make(mailing, self.scope, planned(mailing, self.scope))
        self.assertTrue(all(content.startswith(b"%PDF") for _, content in files_of(mailing, export_of(mailing, self.scope))))
        rows = list(csv.DictReader(io.StringIO("".join(merge_data(mailing, export_of(mailing, self.scope))))))
        self.assertEqual(len(rows), mailing.pieces_made)
        self.assertFalse([row for row in rows for cell in row.values() if cell and cell[0] in "=+@\t"])
        answer = self.client.post(reverse("mailings:documents", args=[mailing.pk]))
        archive = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
        self.assertEqual(archive.namelist(), ["Mine.docx", f"pieces-{mailing.code}.csv"])
        self.assertIn("«owner»", archive.read("Mine.docx").decode("latin-1") + _document(archive.read("Mine.docx")))

    def test_merge_data_have_a_column_for_each_wording(self) -> None:
        mailing = self.sent("{years-owned|a while} and {years-owned|some time} at {address|home}: {code}")
        rows = list(csv.DictReader(io.StringIO("".join(merge_data(mailing, export_of(mailing, self.scope))))))
        self.assertLessEqual({"letter", "years_owned", "years_owned_2", "address", "code"}, set(rows[0]))
        for row, piece in zip(rows, mailing.pieces.all(), strict=True):
            owned = piece.values.get("years-owned")
            self.assertEqual((row["years_owned"], row["years_owned_2"]), (owned or "a while", owned or "some time"))
            self.assertEqual((row["code"], row["letter"]), (f"{mailing.code}-{piece.number}", "Mine"))

    def test_postcards_have_two_sides(self) -> None:
        card = self.letter("Hello {code}", "Card", "postcards")
        mailing = self.made(form="postcards", letter=str(card.pk))
        reader = PdfReader(io.BytesIO(b"".join(content for _, content in files_of(mailing, export_of(mailing, self.scope)))))
        self.assertEqual(len(reader.pages), 2 * mailing.pieces_made)
        self.assertEqual([float(side) for side in reader.pages[0].mediabox[2:]], [432, 306])
        with self.assertRaisesRegex(MailingError, "there is no letter “Card”"):
            change(self.scope, self.begun(form="letters", letter=str(self.letter("x").pk)), {"letter": "Card"})

    def test_wrong_choices_say_so(self) -> None:
        for one in letters.letters_of(self.scope):
            delete(self.scope, one)
        letters.begin_with_shipped(self.scope)
        for one in letters.letters_of(self.scope):
            delete(self.scope, one)
        mailing = self.begun()
        page = self.client.post(reverse("mailings:change-mailing", args=[mailing.pk]), {"form": "letters"})
        self.assertContains(page, "Write a letter first, under Letters", status_code=400)
        mailing.refresh_from_db()
        self.assertEqual(mailing.form, "labels")

    def test_by_the_command(self) -> None:
        self.letter("One {code}", "One")
        self.letter("Two", "Two")
        out = io.StringIO()
        said = {"to": "owner-mailing", "form": "letters", "dry_run": True, "format": "json"}
        call_command("mailing", SEARCH, letter="One", against="Two", letter_for=["estate=none"], stdout=out, **said)
        told_there = json.loads(out.getvalue())
        mailing = self.begun(form="letters", letter="One", against="Two", **{"letter-estate": "none"})
        self.assertEqual(told_there, planned(mailing, self.scope).as_json())
        for more, why in (({"letter": "Three"}, "there is no letter “Three”"), ({"letter_for": ["x=One"]}, "write KIND=NAME")):
            with self.subTest(why), self.assertRaisesRegex(CommandError, why):
                call_command("mailing", SEARCH, stdout=io.StringIO(), **said | more)


@at_all_hours
class Going(LetterCase):
    """Series."""

    def begun_series(self, every: str = "30", rounds: str = "3") -> tuple[Mailing, Series]:
        mailing = self.sent("Hi {owner}", relaxed="recent public")
        return mailing, series.begin_series(self.scope, mailing, every, rounds)

    def test_wrong_ones_say_so(self) -> None:
        with self.assertRaisesRegex(MailingError, "make the mailing first"):
            series.begin_series(self.scope, self.begun(), "30", "3")
        mailing = self.made()
        for every, rounds, why in (
            ("0", "3", "days between two is a whole number from 1 to 730"), ("731", "3", "730"), ("x", "3", "not “x”"),
            ("30", "1", "from 2 to 24"), ("30", "25", "from 2 to 24"),
        ):  # fmt: skip
            with self.subTest(every=every, rounds=rounds), self.assertRaisesRegex(MailingError, why):
                series.begin_series(self.scope, mailing, every, rounds)
        series.begin_series(self.scope, mailing, "730", "24")
        with self.assertRaisesRegex(MailingError, "of a series already"):
            series.begin_series(self.scope, mailing, "30", "3")

    def test_due_on_its_day_and_wherever_what_is_due_is_shown(self) -> None:
        mailing, begun = self.begun_series()
        day = mailing.made_on + timedelta(30)
        self.assertEqual(begun.next_on, day)
        dues = [one for found in hooks.due(scope=self.scope, until=day - timedelta(1)) for one in found if "mailing due" in one.what]
        self.assertEqual(dues, [])
        (one,) = [one for found in hooks.due(scope=self.scope, until=day) for one in found if "mailing due" in one.what]
        self.assertEqual((one.on, one.what), (day, f"mailing due: {mailing.name}, no. 2 of 3"))
        self.days_pass(29)
        self.assertNotContains(self.client.get(reverse("mailings:mailings")), "<b>due</b>")
        self.days_pass(1)
        self.assertContains(self.client.get(reverse("mailings:mailings")), "<b>due</b>")
        self.days_pass(5)
        # What is overdue is due today.
        self.assertEqual([one.on for one in series.due_mailings(self.scope, self.scope.today)], [self.scope.today])

    def test_it_stops_for_whoever_answers_sells_lists_or_wants_no_more(self) -> None:
        mailing, begun = self.begun_series()
        pieces = list(mailing.pieces.all())
        replied, sold, listed, quiet, returned, undone = pieces[:6]
        note_outcome(self.scope, replied, PieceOutcome.Kind.REPLY)
        note_outcome(self.scope, quiet, PieceOutcome.Kind.OPTED_OUT)
        note_outcome(self.scope, returned, PieceOutcome.Kind.RETURNED)
        other = ParcelFacts.objects.exclude(owner=sold.owner).filter(owner__isnull=False).first()
        ParcelFacts.objects.filter(pk=sold.parcel_id).update(owner=other.owner)
        ParcelFacts.objects.filter(pk=listed.parcel_id).update(is_active=True, list_date=self.scope.today + timedelta(3))
        taken_back = note_outcome(self.scope, undone, PieceOutcome.Kind.REPLY)
        PieceOutcome.objects.filter(pk=taken_back.pk).update(undone_at=self.scope.user.date_joined)
        self.days_pass(30)
        again = series.begin_round(self.scope, begun)
        self.assertEqual((again.round, again.letter, again.name), (2, mailing.letter, f"{mailing.name}, no. 2"))
        self.assertEqual(series.begin_round(self.scope, begun), again)
        made = planned(again, self.scope).made
        reasons = {one.parcel_id: (one.reason, one.detail) for one in made.refusals}
        self.assertEqual(reasons[replied.parcel_id][0], Reason.STOPPED)
        self.assertIn("replied, ", reasons[replied.parcel_id][1])
        self.assertEqual(reasons[sold.parcel_id], (Reason.STOPPED, "has another owner now"))
        self.assertEqual(reasons[listed.parcel_id], (Reason.STOPPED, "was listed with an agent"))
        self.assertEqual(reasons[quiet.parcel_id][0], Reason.DO_NOT_MAIL)
        self.assertEqual(reasons[returned.parcel_id][0], Reason.RETURNED)
        self.assertNotIn(undone.parcel_id, reasons)
        gone = {piece.parcel_id for piece in (replied, sold, listed, quiet, returned)}
        self.assertEqual({piece.parcel_id for piece in made.pieces}, {piece.parcel_id for piece in pieces} - gone)

    def test_it_ends_with_its_last_or_when_it_is_ended(self) -> None:
        _, begun = self.begun_series(rounds="2")
        series.end_series(self.scope, begun)
        with self.assertRaisesRegex(MailingError, "has ended"):
            series.begin_round(self.scope, begun)
        series.continue_series(self.scope, begun)
        self.days_pass(30)
        again = series.begin_round(self.scope, begun)
        make(again, self.scope, planned(again, self.scope))
        begun.refresh_from_db()
        self.assertIsNone(begun.next_on)
        self.assertEqual(series.standings(self.scope), [])

    def test_the_next_is_counted_from_when_it_was_made(self) -> None:
        _, begun = self.begun_series()
        self.days_pass(40)
        again = series.begin_round(self.scope, begun)
        make(again, self.scope, planned(again, self.scope))
        begun.refresh_from_db()
        self.assertEqual(begun.next_on, self.scope.today + timedelta(30))

    def test_a_draft_that_is_thrown_away_is_prepared_anew(self) -> None:
        _, begun = self.begun_series()
        self.days_pass(30)
        first = series.begin_round(self.scope, begun)
        self.client.post(reverse("mailings:act-on-mailing", args=[first.pk]), {"do": "delete"})
        second = series.begin_round(self.scope, begun)
        self.assertNotEqual(first, second)
        # Put back it would be a second no. 2.
        answer = self.client.post(undo_address(first), follow=True)
        self.assertContains(answer, "Another is prepared in its place")


class House(LetterCase):
    @thorough
    def test_it_takes_a_batch_charges_and_reports(self) -> None:
        mailing = self.sent("Hi {owner}", MANY)
        (offer_house,) = mail_houses().values()
        order = give_to(self.scope, mailing, offer_house.key)
        job = MailHouseJob.objects.get(reference=order.reference)
        self.assertEqual((job.pieces, len(PdfReader(io.BytesIO(bytes(job.pdf))).pages)), (mailing.pieces_made, mailing.pieces_made))
        self.assertEqual(bytes(job.csv).decode().count("\r\n"), mailing.pieces_made + 1)
        mailing.refresh_from_db()
        self.assertEqual((order.charge, mailing.cost), (offer_house.price("letters") * mailing.pieces_made,) * 2)
        with self.assertRaisesRegex(MailingError, "was given to a mail house before"):
            give_to(self.scope, mailing, offer_house.key)
        self.assertEqual(catch_up(self.scope, order), 0)
        planned_reports = schedule(order.reference, mailing.pieces_made, self.scope.today)
        begins = self.scope.today
        for _ in range(16):
            self.days_pass(1)
            catch_up_all()
            catch_up(self.scope, order)
            due = [one for one in planned_reports if one.on <= self.scope.today]
            self.assertEqual(order.reports.count(), len(due))
        counts = dict(report_counts(order))
        self.assertEqual(counts["printed"], mailing.pieces_made)
        self.assertEqual(counts["delivered"] + counts["came back"], mailing.pieces_made)
        # Two of a hundred come back: four standard deviations.
        self.assertLess(abs(counts["came back"] - 0.02 * mailing.pieces_made), 4 * (0.0196 * mailing.pieces_made) ** 0.5)
        returned = [one.piece for one in order.reports.filter(kind="returned").select_related("piece")]
        for piece in returned:
            (outcome,) = piece.outcomes.all()
            self.assertEqual((outcome.kind, outcome.note), ("returned", "reported by Slate Pier Mail (stand-in)"))
            self.assertTrue(DoNotContact.objects.filter(team=self.scope.team, source="returned", value=piece.place).exists())
        self.assertGreater(self.scope.today, begins)
        page = self.client.get(reverse("mailings:mailing", args=[mailing.pk]))
        self.assertContains(page, "came back")
        # An address from which mail came back gets none.
        again = planned(self.begun(MANY, relaxed="mailed recent"), self.scope).made
        self.assertFalse({piece.parcel_id for piece in returned} & {piece.parcel_id for piece in again.pieces})

    def test_what_it_does_not_take_it_says(self) -> None:
        with self.assertRaisesRegex(MailingError, "make the mailing first"):
            give_to(self.scope, self.begun(), "stand-in")
        labels = self.made()
        with self.assertRaisesRegex(MailingError, "no such mail house makes labels"):
            give_to(self.scope, labels, "stand-in")
        mailing = self.sent("Hi", relaxed="mailed")
        note_outcome(self.scope, mailing.pieces.last(), PieceOutcome.Kind.OPTED_OUT)
        answer = self.client.post(reverse("mailings:give-to-mail-house", args=[mailing.pk]), {"house": "stand-in"}, follow=True)
        self.assertContains(answer, "asked not to be contacted; begin another mailing on these terms")
        self.assertFalse(MailOrder.objects.exists())
        house = mail_houses()["stand-in"]
        with self.assertRaisesRegex(MailHouseError, "a row and a page for each piece"):
            house.take(
                Batch(
                    "letters", 2, b"a\r\n1\r\n", b"".join(c for _, c in files_of(mailing, export_of(mailing, self.scope))), self.scope.today
                )
            )

    def test_reports_of_pieces_that_there_are_not_are_left(self) -> None:
        mailing = self.sent("Hi")
        order = give_to(self.scope, mailing, "stand-in")
        MailHouseJob.objects.filter(reference=order.reference).update(pieces=mailing.pieces_made + 40)
        self.days_pass(30)
        catch_up(self.scope, order)
        self.assertEqual(MailReport.objects.filter(order=order, piece__isnull=False).count(), mailing.pieces_made)


class WhatTheyBrought(LetterCase):
    def test_by_list_by_starter_and_what_the_search_has_brought(self) -> None:
        first = self.made("class: residential\nowner-occupied: no\nequity-pct: 60..")
        found = responses(self.scope)
        self.assertEqual([one.label for one in brought_together(found, starter_named)], ["Absentee with high equity"])
        self.assertEqual(brought_together(found, lists_named), [])
        again = self.begun("class: residential\nowner-occupied: no\nequity-pct: 60..", relaxed="mailed")
        self.assertEqual([one.label for one in brought_by(again, self.scope)], [first.name])
        self.assertContains(self.client.get(reverse("mailings:mailing", args=[again.pk])), "What this search has brought")
        self.assertEqual(brought_by(self.begun("beds: 7"), self.scope), [])

    def test_every_field_is_offered_beside_the_text(self) -> None:
        letter = self.letter("Hi")
        page = self.client.get(reverse("mailings:letter", args=[letter.pk])).content.decode()
        for key in FIELDS:
            self.assertIn(f'data-field="{key}"', page)


def _text(pdf: bytes) -> str:
    return " ".join(" ".join(page.extract_text().split()) for page in PdfReader(io.BytesIO(pdf)).pages)


def _document(content: bytes) -> str:
    found = Document(io.BytesIO(content))
    return "".join(node.text or "" for paragraph in found.paragraphs for node in paragraph._p.iter() if node.tag.endswith("}t"))
