"""Sentences in the box and on the command line, with the names that are on record."""

from __future__ import annotations

import json
import re
from urllib.parse import unquote

from django.urls import reverse

from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.recorded_names import RecordedNames
from jaded_ledger.records.models import County, Street
from tests.support.commands import run
from tests.support.demo import DemoTestCase


class Names(DemoTestCase):
    def test_on_record_by_as_many_words_as_they_have(self) -> None:
        names = RecordedNames(list(County.objects.all()))
        for trait, words, found in (
            ("city", "alder bay with a garage", ("Alder Bay", 2)),
            ("county", "odell", ("Odell Marsh", 1)),
            ("street", "lantern street", ("Lantern St", 2)),
            ("street", "mast", ("Mast Ln", 1)),
            ("street", "nowhere at all", None),
            ("city", "gotham", None),
            ("owner-name", "zzz", None),
            ("beds", "three", None),
        ):
            with self.subTest(words):
                self.assertEqual(names.find(trait, words.split()), found)
        self.assertTrue(Street.objects.filter(text="LANTERN ST").exists())


class Box(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def taken(self, typed: str, q: str = "") -> str:
        """Return the search after something was typed and sent at once."""
        answer = self.client.get(reverse("find:change"), {"typed": typed, "q": q}, HTTP_HX_REQUEST="true")
        return answer.headers.get("HX-Push-Url", "") or answer.content.decode()

    def test_several_facts_are_several_lines_in_one_act(self) -> None:
        address = unquote(self.taken("empty duplexes with unpaid taxes in Corvid Falls"))
        self.assertIn("q=vacancy: any\nclass: duplex\ntax-years-delinquent: 1..\ncity: Corvid Falls", address)

    def test_what_may_be_two_things_is_offered_and_not_taken(self) -> None:
        page = self.client.get(reverse("find:suggestions"), {"typed": "over 3500 in taxes"})
        self.assertContains(page, "choose what is meant", 2)
        self.assertIn("either tax due $3,501 or more", self.taken("over 3500 in taxes"))
        self.assertIn("not used: “roughly”", self.taken("roughly 2 units on Mast Ln"))

    def test_each_part_has_the_count_after_it(self) -> None:
        page = self.client.get(reverse("find:reading"), {"typed": "empty duplexes in Corvid Falls", "q": "beds: 3.."})
        read = page.context["reading"]
        lines = ("vacancy: any", "class: duplex", "city: Corvid Falls")
        self.assertEqual([one.part.words for one in read.parts], ["empty", "duplexes", "in Corvid Falls"])
        self.assertTrue(read.reading.is_clear)
        for place, part in enumerate(read.parts, 1):
            asked = parse("beds: 3..\n" + "\n".join(lines[:place]))
            self.assertEqual(part.count, compile(asked, self.scope).matches.count())
        self.assertEqual(read.counts, (read.parts[-1].count,))

    def test_what_is_to_be_chosen_comes_last_with_a_count_each(self) -> None:
        page = self.client.get(reverse("find:reading"), {"typed": "roughly over 3500 in taxes and 2 units"})
        read = page.context["reading"]
        self.assertEqual([(one.part.words, one.is_open) for one in read.parts], [("2 units", False), ("over 3500 in taxes", True)])
        self.assertEqual(read.reading.unused, ("roughly",))
        asked = [parse(f"units: 2\n{trait}: 3501..") for trait in ("tax-due", "tax-bill")]
        self.assertEqual(read.counts, tuple(compile(one, self.scope).matches.count() for one in asked))
        offered = self.client.get(reverse("find:suggestions"), {"typed": "roughly over 3500 in taxes and 2 units"})
        self.assertContains(offered, "choose what is meant, without “roughly”", 2)
        self.assertContains(offered, "data-unsure", 3)

    def test_what_no_record_tells_is_not_offered(self) -> None:
        page = self.client.get(reverse("find:reading"), {"typed": "owners over 65 in Corvid Falls"})
        self.assertEqual(page.context["reading"].counts, ())
        self.assertContains(page, "exemptions, years owned")

    def test_what_is_typed_is_no_markup(self) -> None:
        typed = """3 beds <script>alert('x')</script> "y" \\ &amp;"""
        page = self.client.get(reverse("find:suggestions"), {"typed": typed})
        self.assertNotContains(page, "<script>")
        # The request for the counts carries the text as it was typed.
        sent = re.search(r"hx-vals='([^']*)'", page.content.decode())
        assert sent is not None
        self.assertEqual(json.loads(sent[1]), {"typed": typed})

    def test_a_county_alone_is_taken(self) -> None:
        self.assertIn("county: Odell Marsh", unquote(self.taken("in Odell Marsh county", "county: Tamarack")))

    def test_a_ring_is_one_text(self) -> None:
        self.assertIn("within: ..0.5 mi of zip 53301", unquote(self.taken("0.5 mi around zip 53301")))

    def test_open_ends_are_offered_of_what_is_clear_only(self) -> None:
        page = self.client.get(reverse("find:suggestions"), {"typed": "3 beds"})
        self.assertContains(page, "add:beds: 3..")
        self.assertContains(page, "add:beds: ..3")
        page = self.client.get(reverse("find:suggestions"), {"typed": "roughly 3 beds"})
        self.assertNotContains(page, "add:beds: 3..")

    def test_a_refusal_is_kept(self) -> None:
        self.assertIn("ever-listed: no", unquote(self.taken("never listed")))
        self.assertIn("garage: 0", unquote(self.taken("without a garage")))


class Said(DemoTestCase):
    def test_asked_and_explained(self) -> None:
        said = run("find", "--say", "empty duplexes in Corvid Falls", "--format", "json")
        written = run("find", "vacancy: any\nclass: duplex\ncity: Corvid Falls", "--format", "json")
        self.assertEqual(said, written)
        told = run("find", "--say", "roughly 2 units on Mast Ln", "--explain")
        self.assertIn("“2 units”: units: 2", told)
        self.assertIn("not used: “roughly”", told)
        self.assertIn("is in no record; near it: exemptions", run("find", "--say", "owners over 65", "--explain"))
