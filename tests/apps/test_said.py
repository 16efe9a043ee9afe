"""Sentences in the box and on the command line, with the names that are on record."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from urllib.parse import unquote

from django.http import HttpResponse
from django.urls import reverse

from jaded_ledger.accounts.models import Team as AccountsTeam
from jaded_ledger.core.criteria.language.reading import Reading
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.models import PhraseCorrection
from jaded_ledger.find.recorded_names import RecordedNames
from jaded_ledger.find.said import reading_of
from jaded_ledger.lists import services
from jaded_ledger.maps.areas import keep_area, outline_of_circle
from jaded_ledger.records.models import County, Parcel, Street
from tests.support.commands import run
from tests.support.demo import DemoTestCase


class Names(DemoTestCase):
    def test_on_record_by_as_many_words_as_they_have(self) -> None:
        names = RecordedNames(list(County.objects.all()), self.scope.team)
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
        self.assertIn("within: 0.5 mi of zip 53301", unquote(self.taken("0.5 mi around zip 53301")))

    def test_open_ends_are_offered_of_what_is_clear_only(self) -> None:
        page = self.client.get(reverse("find:suggestions"), {"typed": "3 beds"})
        self.assertContains(page, "add:beds: 3..")
        self.assertContains(page, "add:beds: ..3")
        page = self.client.get(reverse("find:suggestions"), {"typed": "roughly 3 beds"})
        self.assertNotContains(page, "add:beds: 3..")

    def test_a_refusal_is_kept(self) -> None:
        self.assertIn("ever-listed: no", unquote(self.taken("never listed")))
        self.assertIn("garage: 0", unquote(self.taken("without a garage")))


class Team(DemoTestCase):
    """What a team named, and how it corrected a reading."""

    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def read(self, typed: str) -> Reading:
        return reading_of(typed, list(County.objects.all()), self.scope)

    def test_lists_tags_stages_and_areas_are_known_by_their_names(self) -> None:
        services.make_list(self.scope, "Pre-probate mail, fall & winter 2026")
        services.delete_list(self.scope, services.make_list(self.scope, "Gone list"))
        services.tag(self.scope, "hot", Parcel.objects.values_list("pk", flat=True)[:1])
        keep_area(self.scope, "Mill End", outline_of_circle(0, 0, 50))
        for typed, lines in (
            ("on the list pre-probate mail, fall and winter 2026", ('on-list: any of "Pre-probate mail, fall & winter 2026"',)),
            ("on our Pre-probate list", ('on-list: any of "Pre-probate mail, fall & winter 2026"',)),
            ("not tagged hot", ('tag: none of "hot"',)),
            ("3 beds in mill end", ("beds: 3", 'in-area: any of "Mill End"')),
            ("on the list Gone list", ()),
        ):
            with self.subTest(typed):
                self.assertEqual(self.read(typed).lines, lines)
        # A place on record and an area with one name are both offered.
        keep_area(self.scope, "Mill Side", outline_of_circle(0, 0, 50))
        options = self.read("in mill side").parts[0].options
        self.assertEqual(options, (("neighborhood: Mill Side",), ('in-area: any of "Mill Side"',)))
        # Another team's names are no names here.
        other = AccountsTeam.objects.create(name="Others")
        self.assertEqual(reading_of("tagged hot", [], replace(self.scope, team=other)).lines, ())

    def learn(self, typed: str, line: str, **fields: str) -> HttpResponse:
        """Type a sentence, edit its first line at once, and send what the page then sends."""
        q = unquote(self.client.post(reverse("find:change"), {"typed": typed}, HTTP_HX_REQUEST="true").headers["HX-Push-Url"])
        text = q.partition("q=")[2]
        edited = self.client.post(
            reverse("find:edit"), {"q": text, "said": typed, "line": line, "set": "1", **fields}, HTTP_HX_REQUEST="true"
        )
        sent = re.search(r"hx-vals='(\{\"phrase\"[^']*)'", edited.content.decode())
        if sent is None:
            return edited
        return self.client.post(reverse("find:correct"), json.loads(sent[1]))

    def test_an_edit_right_after_a_sentence_corrects_it(self) -> None:
        self.assertEqual(self.read("empty with 2 units").lines, ("vacancy: any", "units: 2"))
        said = self.learn("empty with 2 units", "1", low="2", high="")
        self.assertContains(said, "“2 units” means units 2 or more")
        # It is offered first, beside what the words say, and Enter takes neither.
        part = self.read("2 Units with 3 beds").parts[0]
        self.assertEqual(part.options, (("units: 2..",), ("units: 2",)))
        page = self.client.get(reverse("find:change"), {"typed": "2 units with 3 beds"}, HTTP_HX_REQUEST="true")
        self.assertContains(page, "either units 2 or more, or units 2")
        self.assertEqual(self.read("3 units").lines, ("units: 3",), "other figures are other words")
        # It is undone where it was said, and the phrase is read as before.
        (row,) = PhraseCorrection.objects.all()
        self.client.post(reverse("find:correct"), {"correction": row.pk})
        self.assertEqual(self.read("2 units").lines, ("units: 2",))

    def test_what_corrects_nothing_is_not_kept(self) -> None:
        self.learn("empty with 2 units", "1", low="2", high="2")
        self.client.post(reverse("find:edit"), {"q": "units: 2", "said": "3 beds", "line": "0", "set": "1", "low": "4"})
        self.client.post(reverse("find:correct"), {"phrase": "…", "criteria": "beds: 3"})
        self.client.post(reverse("find:correct"), {"phrase": "big", "criteria": "beds 3"})
        self.assertFalse(PhraseCorrection.objects.exists())

    def test_the_phrase_book_has_them(self) -> None:
        here = f"{reverse('find:phrases')}?group=corrections"
        self.assertContains(self.client.get(here), "No corrections yet")
        self.client.post(here, {"do": "save", "phrase": "  fixer ", "criteria": "class: duplex, triplex"})
        self.assertEqual(self.read("fixers with 3 beds").lines, ("class: duplex, triplex", "beds: 3"))
        page = self.client.post(here, {"do": "save", "phrase": "odd", "criteria": "nothing: 3"})
        self.assertContains(page, "odd")
        self.assertContains(page, "alert")
        (row,) = PhraseCorrection.objects.all()
        self.client.post(here, {"do": "save", "correction": row.pk, "criteria": "class: duplex"})
        self.assertEqual(self.read("fixer").lines, ("class: duplex",))
        # Words that mean nothing else are taken, one alone, too.
        self.client.post(here, {"do": "save", "phrase": "wharfling", "criteria": "class: duplex"})
        self.assertIn("class: duplex", unquote(self.client.get(reverse("find:change"), {"typed": "wharfling"}).url))
        self.client.post(here, {"do": "delete", "correction": PhraseCorrection.objects.get(phrase="wharfling").pk})
        self.assertContains(self.client.get(here), "class: duplex")
        current = PhraseCorrection.objects.get(deleted_at=None)
        self.assertContains(self.client.post(here, {"do": "delete", "correction": current.pk}, follow=True), "Undo")
        self.assertNotEqual(self.read("fixer").lines, ("class: duplex",))
        # Another team's are not to be had.
        PhraseCorrection.objects.filter(pk=current.pk).update(team=AccountsTeam.objects.create(name="Others"), deleted_at=None)
        self.assertEqual(self.client.post(here, {"do": "delete", "correction": current.pk}).status_code, 404)

    def test_a_reading_that_finds_nothing_says_what_is_near(self) -> None:
        fewer = compile(parse("beds: ..40"), self.scope).matches.count()
        page = self.client.get(reverse("find:change"), {"typed": "40 beds"}, HTTP_HX_REQUEST="true")
        self.assertContains(page, f"“40 beds” finds nothing; beds 40 or less finds {fewer:,}. Choose")
        panel = self.client.get(reverse("find:reading"), {"typed": "40 beds"})
        self.assertContains(panel, "add:beds: ..40")
        # Where nothing is left before it, nothing is asked.
        page = self.client.get(reverse("find:change"), {"typed": "40 beds", "q": "beds: 99"}, HTTP_HX_REQUEST="true")
        self.assertIn("beds: 40", unquote(page.headers["HX-Push-Url"]))


class Said(DemoTestCase):
    def test_asked_and_explained(self) -> None:
        said = run("find", "--say", "empty duplexes in Corvid Falls", "--format", "json")
        written = run("find", "vacancy: any\nclass: duplex\ncity: Corvid Falls", "--format", "json")
        self.assertEqual(said, written)
        told = run("find", "--say", "roughly 2 units on Mast Ln", "--explain")
        self.assertIn("“2 units”: units: 2", told)
        self.assertIn("not used: “roughly”", told)
        self.assertIn("is in no record; near it: exemptions", run("find", "--say", "owners over 65", "--explain"))
