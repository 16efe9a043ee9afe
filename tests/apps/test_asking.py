"""Find's other ways to ask: acts that follow fast, what is pasted, the phrase book and its hits, questions, alternatives."""

from __future__ import annotations

import io
import json
from urllib.parse import quote, urlencode

from django.core.management import CommandError, call_command
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.core.criteria.acts import Lines
from jaded_ledger.core.criteria.asking import with_answers
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.phrase_book import PHRASE_BOOK
from jaded_ledger.core.criteria.text import CriteriaError, format, parse
from jaded_ledger.core.phrases import hits
from jaded_ledger.find.alternatives import alternatives
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.editor_fields import LONGEST_LINE, typed_lines
from jaded_ledger.find.fill import fills
from jaded_ledger.find.hits import MOST_EXCERPTS, asked_phrases, left_without
from jaded_ledger.find.models import LongSearch, PhraseChange
from jaded_ledger.find.pasted_lines import criterion_of, match_lines
from jaded_ledger.find.phrase_books import book_of, groups_of
from jaded_ledger.find.results import rows
from jaded_ledger.find.suggestions import suggest
from jaded_ledger.records.models import Listing, ParcelFacts, Remarks
from tests.support.demo import DemoTestCase

HTMX = {"HX-Request": "true"}


class FindCase(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def get(self, name: str, *args: int, **query: object):
        return self.client.get(f"{reverse(f'find:{name}', args=args)}?{urlencode(query, doseq=True)}", headers=HTMX)

    def pushed(self, **query: object) -> str:
        return self.get("change", **query)["HX-Push-Url"]


class Acts(FindCase):
    def test_acts_that_wait_are_done_with_the_newest(self) -> None:
        q = "beds: 3..\nclass: duplex\nunits: 2"
        self.assertEqual(self.pushed(q=q, before=["remove:0", "strike:1"], do="turn:2"), "/?q=~%20class%3A%20duplex%0Aunits%3A%20not%202")
        edited = self.get("edit", q=q, before=["remove:0"], line="2", set="1", low="4")
        self.assertEqual(edited["HX-Push-Url"], "/?q=class%3A%20duplex%0Aunits%3A%204..")
        turned = self.client.get(f"/?{urlencode({'q': q, 'before': 'strike:0', 'page': '2'})}", headers=HTMX | {"HX-Target": "search"})
        self.assertIn("~%20beds", turned["HX-Push-Url"])

    def test_what_was_meant_is_not_done_to_another_line(self) -> None:
        self.assertContains(self.get("change", q="beds: 3..\nunits: 2", before="remove:0", do="strike:0"), "no longer there")
        self.assertEqual(self.get("change", q="beds: 3..", before=["strike:0"] * 200, do="strike:0").status_code, 404)

    def test_a_member_is_edited_in_its_group(self) -> None:
        q = "any of:\n  beds: 3..\n  units: 2.."
        self.assertContains(self.get("edit", q=q, line="0", member="1"), "units from")
        changed = self.get("edit", q=q, line="0", member="1", set="1", low="4")
        self.assertEqual(changed["HX-Push-Url"], f"/?q={quote('any of:' + chr(10) + '  beds: 3..' + chr(10) + '  units: 4..', safe='')}")
        self.assertEqual(self.get("edit", q=q, line="0", member="9").status_code, 404)

    def test_a_long_search_has_an_address_and_can_be_edited(self) -> None:
        words = [f"phrase number {number}" for number in range(200)]
        text = "remarks: any of " + ", ".join(f'"{word}"' for word in words)
        answer = self.client.post(reverse("find:change"), {"do": "text", "text": text}, headers=HTMX)
        address = answer["HX-Push-Url"]
        self.assertRegex(address, r"^/\?s=[0-9a-f]{16}$")
        self.assertEqual(format(parse(LongSearch.objects.get(key=address[4:]).text)), text)
        struck = self.client.post(reverse("find:change"), {"s": address[4:], "do": "strike:0"}, headers=HTMX)
        self.assertRegex(struck["HX-Push-Url"], r"^/\?s=[0-9a-f]{16}$")
        self.assertNotEqual(struck["HX-Push-Url"], address)

    def test_a_preview_counts_and_changes_nothing(self) -> None:
        answer = self.get("preview", q="county: Tamarack\nbeds: 3..", line="0", low="4", sense="is")
        count = compile(parse("county: Tamarack\nbeds: 4.."), self.scope).matches.count()
        self.assertContains(answer, f"leaves <b>{count:,}</b> of 7,200")
        self.assertContains(self.get("preview", q="beds: 3..", line="0", low="x"), "is not a figure")
        self.assertContains(self.get("preview", q="~ beds: 3..", line="0", low="4"), "leaves")


class Names(FindCase):
    def test_names_are_matched_in_words_as_phrases_are(self) -> None:
        def counted(text: str) -> int:
            return compile(parse(f"owner-name: {text}"), self.scope).matches.count()

        every = ParcelFacts.objects.exclude(owner_name=None).values_list("owner_name__words", flat=True)
        wanted = sum(" llc " in words or " l l c " in words for words in every)
        self.assertEqual(counted('"l.l.c."'), wanted)
        self.assertEqual(counted('"ostr*"'), sum(" ostr" in words for words in every))
        self.assertEqual(counted('"ostr* helen"'), sum(" ostr" in words and " helen " in words for words in every))
        self.assertEqual(counted('"ostr"'), 0)
        self.assertGreater(wanted, counted('"llc"'))

    def test_the_box_finds_what_is_on_record(self) -> None:
        everything = compile(parse(""), self.scope)
        known = fills(everything.counties)
        listing_id = ParcelFacts.objects.exclude(listing_number=None).first().listing_number.text
        for typed, key in (
            (listing_id, "listing-number"), ("motivated", "remarks"), ("mailing address differs", "owner-occupied"), ("53302", "zip"),
            ("12-001-019", "parcel-number"), ("328 capstan", "address"), ("duplex", "class"),
        ):  # fmt: skip
            with self.subTest(typed):
                found = suggest(typed, everything, known, groups_of(self.user.team), self.scope).found
                self.assertIn(key, [one.trait.key for one in found])
                self.assertLessEqual(len(found), 14)
                for one in found:
                    if one.line:
                        self.assertEqual(parse(one.line).lines[0].trait, one.trait.key)

    def test_the_marked_trait_is_pictured(self) -> None:
        self.assertContains(self.get("picture", q="county: Tamarack", trait="assessed-value"), "<svg")
        duplexes = compile(parse("county: Tamarack\nclass: duplex"), self.scope).matches.count()
        self.assertContains(self.get("picture", q="county: Tamarack\nclass: duplex", trait="class"), f"here duplex {duplexes:,}")
        self.assertContains(self.get("picture", q="beds: x", trait="owner-name"), "as the roll records it")
        self.assertEqual(self.get("picture", trait="nope").status_code, 404)


class PastedColumn(FindCase):
    def test_numbers_listings_and_addresses_are_found(self) -> None:
        listing = Listing.objects.filter(county__name="Tamarack", superseded_at=None, parcel__retired_on=None).first()
        facts = ParcelFacts.objects.filter(county__name="Tamarack", address__zip5__gt="").exclude(address=None).order_by("pk")[40]
        text = "\n".join(["12-001-019", "12 002 001", listing.listing_id.lower(), facts.address.text, "99-999-999", "12-001-019", "nobody"])
        compiled = compile(parse("county: Tamarack"), self.scope)
        found = match_lines(text, compiled)
        self.assertEqual(found.lines, 6)
        self.assertEqual(dict(found.by), {"parcel number": 2, "listing number": 1, "address": 1})
        self.assertEqual([one.line for one in found.missing], ["99-999-999", "nobody"])
        self.assertEqual(set(found.parcels) & {listing.parcel_id, facts.pk}, {listing.parcel_id, facts.pk})
        asked = compile(parse(f"county: Tamarack\n{format(parse(''))}"), self.scope)
        self.assertEqual(asked.matches.count(), 7200)
        criterion = criterion_of(found, compiled.counties)
        wanted = compile(parse("county: Tamarack").with_line(criterion), self.scope).matches
        self.assertLessEqual(set(found.parcels), set(wanted.values_list("pk", flat=True)))

    def test_a_misspelt_address_has_its_nearest(self) -> None:
        (missing,) = match_lines("328 Capstain Street", compile(parse("county: Tamarack"), self.scope)).missing
        self.assertIn("328 CAPSTAN ST", missing.nearest)

    def test_a_number_of_several_counties_is_not_guessed(self) -> None:
        compiled = compile(parse(""), self.scope)
        keys = ParcelFacts.objects.values_list("parcel__number", flat=True)
        seen: set[str] = set()
        twice = next((key for key in keys if key in seen or seen.add(key)), None)
        if twice:
            (missing,) = match_lines(twice, compiled).missing
            self.assertIn("parcels have it", missing.why)

    def test_a_line_too_long_is_refused_with_its_number(self) -> None:
        text = "12-001-019\n" + "1 Capstan St " * 400
        answer = self.client.post(reverse("find:pasted"), {"pasted": text}, headers=HTMX)
        self.assertContains(answer, "line 2:")
        self.assertContains(answer, "5,199 characters; a line has at most 300")
        for length, is_taken in ((LONGEST_LINE, True), (LONGEST_LINE + 1, False)):
            answer = self.client.post(reverse("find:pasted"), {"pasted": "x" * length}, headers=HTMX)
            self.assertEqual("nothing on record" in answer.content.decode(), is_taken)
        self.assertContains(self.get("edit", trait="owner-name", words="x" * 301, set="1"), "at most 300")
        self.assertContains(self.get("names", trait="owner-name", words="x" * 5000), "at most 300")
        with self.assertRaisesRegex(CriteriaError, "1,001 lines are too many"):
            typed_lines("\n".join(map(str, range(1001))))
        self.assertEqual(len(typed_lines("\n".join(map(str, range(1000))))), 1000)

    def test_many_are_added_as_one_line(self) -> None:
        numbers = list(ParcelFacts.objects.filter(county__name="Tamarack").values_list("parcel__number", flat=True)[:400])
        sent = {"q": "county: Tamarack", "pasted": "\n".join(numbers)}
        self.assertContains(self.client.post(reverse("find:pasted"), sent, headers=HTMX), "Add 400 parcels")
        added = self.client.post(reverse("find:pasted"), sent | {"set": "1"}, headers=HTMX)
        self.assertRegex(added["HX-Push-Url"], r"^/\?s=")
        kept = parse(LongSearch.objects.get(key=added["HX-Push-Url"][4:]).text)
        self.assertGreaterEqual(compile(kept, self.scope).matches.count(), 400)
        too_many = {"q": "", "pasted": "\n".join(str(number) for number in range(2000))}
        self.assertContains(self.client.post(reverse("find:pasted"), too_many, headers=HTMX), "at most 1,000")
        self.assertContains(
            self.client.post(reverse("find:pasted"), {"q": "", "pasted": "a\nb", "set": "1"}, headers=HTMX), "none of the lines"
        )


class PhraseBook(FindCase):
    def post(self, **sent: str):
        return self.client.post(reverse("find:phrases"), sent)

    def test_a_shipped_group_is_changed_taken_out_and_restored(self) -> None:
        group = PHRASE_BOOK[0]
        self.post(do="save", key=group.key, name="Eager", purpose="wants out", phrases="must go\nmust sell", refused="")
        changed = groups_of(self.user.team)[0]
        self.assertEqual((changed.key, changed.name, changed.phrases), (group.key, "Eager", ("must go", "must sell")))
        # Another team's book is as it is shipped.
        self.assertEqual(groups_of(self.other_team().team), list(PHRASE_BOOK))
        self.post(do="take-out", key=group.key)
        self.assertNotIn(group.key, [one.key for one in groups_of(self.user.team)])
        self.assertContains(self.client.get(reverse("find:phrases")), "Put back: Motivated seller")
        self.post(do="restore", key=group.key)
        self.assertEqual(groups_of(self.user.team), list(PHRASE_BOOK))

    def test_an_own_group(self) -> None:
        answer = self.post(do="save", key="", name="Hangar <b>", purpose="", phrases="hangar\nair strip*", refused="hangar lane")
        self.assertEqual(answer.status_code, 302)
        entry = book_of(self.user.team)[-1]
        self.assertFalse(entry.is_shipped)
        self.assertContains(self.client.get(answer["Location"]), "Hangar &lt;b&gt;")
        again = self.post(do="save", key="", name="Hangar <b>", purpose="", phrases="x", refused="")
        self.assertNotEqual(answer["Location"], again["Location"])
        found = suggest(
            "hangar",
            compile(parse(""), self.scope),
            fills([]) | fills(compile(parse(""), self.scope).counties),
            groups_of(self.user.team),
            self.scope,
        ).found
        self.assertIn('remarks: any of "hangar", "air strip*"; none of "hangar lane"', [one.line for one in found])
        self.post(do="take-out", key=entry.group.key)
        self.assertNotIn(entry.group.key, [group.key for group in groups_of(self.user.team)])
        self.assertContains(self.post(do="save", key=entry.group.key, name="x", phrases="y"), "no longer in the book")

    def test_every_change_can_be_undone(self) -> None:
        shipped, before = PHRASE_BOOK[0].key, book_of(self.user.team)
        own = self.post(do="save", key="", name="Hangars", purpose="", phrases="hangar", refused="")["Location"].partition("=")[2]
        self.post(do="save", key=own, name="Hangars", purpose="", phrases="hangar\nair strip", refused="")
        self.post(do="save", key=shipped, name="Eager", purpose="", phrases="must go", refused="")
        self.post(do="take-out", key=own)
        self.post(do="take-out", key=shipped)
        # What changes nothing is no change.
        self.post(do="take-out", key=shipped)
        changes = list(PhraseChange.objects.order_by("-pk"))
        self.assertEqual([change.verb for change in changes], ["take-out", "take-out", "keep", "keep", "keep"])
        self.assertContains(self.client.get(reverse("find:phrases")), "Changed lately")
        earlier = next(change for change in changes if change.name == "Eager")
        self.assertContains(self.post(do="undo", change=earlier.pk), "changed again since")
        for change in changes:
            self.assertEqual(self.post(do="undo", change=change.pk).status_code, 302)
        self.assertEqual(book_of(self.user.team), before)
        self.assertContains(self.post(do="undo", change=changes[0].pk), "undone before")

    def test_a_reader_changes_nothing_and_another_team_undoes_nothing(self) -> None:
        key = self.post(do="save", key="", name="Hangars", purpose="", phrases="hangar", refused="")["Location"].partition("=")[2]
        before, change = book_of(self.user.team), PhraseChange.objects.get()
        self.client.force_login(self.other_team(), backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.post(do="undo", change=change.pk), "undone before")
        User.objects.filter(pk=self.user.pk).update(role=User.Role.READER)
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("find:phrases"))
        self.assertNotContains(page, 'value="save"')
        self.assertNotContains(page, 'value="undo"')
        for sent in (
            {"do": "save", "key": key, "name": "x", "phrases": "y"}, {"do": "take-out", "key": key},
            {"do": "take-out", "key": PHRASE_BOOK[0].key}, {"do": "restore", "key": PHRASE_BOOK[0].key},
            {"do": "undo", "change": change.pk},
        ):  # fmt: skip
            self.assertEqual(self.post(**sent).status_code, 403, sent)
        self.assertEqual(book_of(self.user.team), before)

    def test_what_is_wrong_is_said_and_nothing_is_lost(self) -> None:
        for sent, told in (
            ({"name": "", "phrases": "a"}, "no name yet"), ({"name": "x", "phrases": " \n"}, "no phrase yet"),
            ({"name": "x", "phrases": "!!"}, "no word"), ({"name": "x", "phrases": "y", "refused": "z" * 300}, "at most 200"),
            ({"name": "x", "phrases": "\n".join(f"w{n}" for n in range(99))}, "at most 60"),
        ):  # fmt: skip
            answer = self.post(do="save", key="", purpose="kept as typed", **sent)
            self.assertContains(answer, told)
            self.assertContains(answer, "kept as typed")

    def test_the_page_counts_what_a_search_counts(self) -> None:
        page = self.client.get(f"{reverse('find:phrases')}?group=as-is")
        for phrase, count in page.context["phrases"]:
            asked = parse(f'remarks: any of "{phrase}"')
            self.assertEqual(count, compile(asked, self.scope).matches.count(), phrase)
        self.assertEqual(page.context["left"], compile(parse(page.context["line"]), self.scope).matches.count())


class Hits(FindCase):
    Q = 'county: Tamarack\nremarks: any of "as is", "needs work*", "motivated", "price reduced"'

    def test_sorted_by_how_many_phrases_are_hit(self) -> None:
        compiled = compile(parse(self.Q), self.scope)
        phrases = asked_phrases(compiled.search)
        self.assertEqual([phrase.phrase for phrase in phrases], ["as is", "needs work*", "motivated", "price reduced"])
        texts = dict(compiled.matches.values_list("pk", "remarks__text"))
        counts = {pk: sum(hits(text, phrase.phrase) for phrase in phrases) for pk, text in texts.items()}
        shown = rows(compiled.matches, ("owner-name",), "phrases-hit", 1, phrases)
        self.assertEqual([counts[row.parcel_id] for row in shown], sorted(counts.values(), reverse=True)[: len(shown)])
        self.assertGreater(counts[shown[0].parcel_id], 1)
        for row in shown:
            self.assertEqual(len({excerpt.asked.phrase for excerpt in row.hits.excerpts}), counts[row.parcel_id])

    def test_the_hit_is_shown_and_not_this_refuses_it(self) -> None:
        row = next(
            row for row in rows(compile(parse(self.Q), self.scope).matches, (), "", 1, asked_phrases(parse(self.Q)))
            if "plain to see" in row.hits.excerpts[0].after
        )  # fmt: skip
        panel = self.get("hits", row.parcel_id, q=self.Q)
        self.assertContains(panel, "<mark>As is</mark> plain to see")
        self.assertContains(panel, 'value="refuse:0:as is plain"')
        pushed = self.pushed(q=self.Q, do="refuse:0:as is plain")
        self.assertIn(quote('none of "as is plain"'), pushed)
        after = compile(parse(f'{self.Q}; none of "as is plain"'), self.scope).matches
        self.assertNotIn(row.parcel_id, after.values_list("pk", flat=True))
        self.assertContains(panel, f"leaves {after.count():,}")

    def test_many_hits_are_counted_in_one_statement(self) -> None:
        """A remark of 30,000 characters with two thousand hits costs what one of a sentence does."""
        search = parse(self.Q + '\nany of:\n  remarks: any of "motivated"\n  beds: 2..')
        facts = compile(search, self.scope).matches.first()
        sentences = [f"As is, they say, in the {place}th year. Motivated, too." for place in range(580)]
        text = " ".join(sentences)
        long = Remarks.objects.create(**Remarks.forms_of([text, *[""] * (len(facts.remarks.fields) - 1)]))
        asked = []
        for remarks in (facts.remarks, long):
            ParcelFacts.objects.filter(pk=facts.pk).update(remarks=remarks)
            with CaptureQueriesContext(connection) as queries:
                panel = self.get("hits", facts.pk, q=format(search))
            asked.append(len(queries))
        self.assertGreater(len(text), 29_000)
        # The first request also asks for what is remembered from then on.
        self.assertLessEqual(asked[1], asked[0])
        self.assertContains(panel, f"{2 * 580 - MOST_EXCERPTS:,} more hits")
        self.assertEqual(panel.content.decode().count("Not this"), MOST_EXCERPTS)
        # What each leaves is what the search with it leaves, in a line and in a group.
        for line, phrase in ((0, "as is they"), (0, "motivated too"), (1, "motivated too")):
            lines = Lines(search)
            lines.do("refuse", str(line), phrase)
            left = compile(lines.search, self.scope).matches.count()
            self.assertEqual(left_without(search, [(line, phrase)], self.scope), {(line, phrase): left})
        self.assertEqual(left_without(search, [], self.scope), {})

    def test_only_in_the_fields_that_are_named(self) -> None:
        every = compile(parse('remarks: any of "closing"'), self.scope).matches.count()
        by_field = [
            compile(parse(f'remarks: any of "closing" in {name}'), self.scope).matches.count() for name in CATALOGUE["remarks"].fields
        ]
        self.assertGreater(by_field[1], 0)
        self.assertLessEqual(max(by_field), every)
        self.assertGreaterEqual(sum(by_field), every)

    def test_the_file_and_the_walk_go_in_the_same_order(self) -> None:
        address = f"/?{urlencode({'q': self.Q, 'sort': 'phrases-hit'})}"
        page = self.client.get(address)
        first, second = [row.parcel_id for row in page.context["rows"][:2]]
        opened = self.client.get(
            f"{reverse('properties:property', args=[first])}?{urlencode({'q': self.Q, 'sort': 'phrases-hit', 'at': 1})}"
        )
        self.assertContains(opened, f"/property/{second}")


class Questions(FindCase):
    def test_answers_are_filled_in(self) -> None:
        search = parse("beds: ask\nclass: ask duplex\nany of:\n  units: ask\n  baths: 2")
        filled = with_answers(search, [("beds", "3.."), ("units", "2..4")])
        self.assertEqual(format(filled), "beds: ask 3..\nclass: ask duplex\nany of:\n  units: ask 2..4\n  baths: 2")
        for answers, told in (
            ([("beds", "3..")], "units is to be asked"),
            ([("lot-acres", "1")], "is not asked"),
            ([("beds", "x")], "figure"),
        ):
            with self.assertRaisesRegex(CriteriaError, told):
                with_answers(search, answers)
        with self.assertRaisesRegex(CriteriaError, "asks for nothing"):
            with_answers(parse("beds: 3"), [("beds", "3")])

    def test_on_the_page(self) -> None:
        page = self.client.get("/", {"q": "beds: ask\n~ units: ask\nclass: ask duplex"})
        self.assertContains(page, "This search asks")
        self.assertEqual([one.trait.key for one in page.context["asked"]], ["beds"])
        self.assertEqual(
            self.pushed(q="beds: ask\nclass: ask", do="answer:", answer=["3..", ""]), "/?q=beds%3A%20ask%203..%0Aclass%3A%20ask"
        )
        self.assertContains(self.get("change", q="beds: ask", do="answer:", answer="many"), "is not a figure")

    def test_on_the_command_line(self) -> None:
        def counted(*words: str) -> dict[str, int]:
            out = io.StringIO()
            call_command("find", "county: Tamarack\nbeds: ask", *words, format="json", stdout=out)
            return json.loads(out.getvalue())

        self.assertEqual(counted("--ask", "beds=3.."), counted("--ask=beds = 3.."))
        self.assertEqual(counted("--ask", "beds=3..")["parcels"], compile(parse("county: Tamarack\nbeds: 3.."), self.scope).matches.count())
        for words in ((), ("--ask", "beds"), ("--ask", "units=2"), ("--ask", "beds=x")):
            with self.assertRaises(CommandError):
                counted(*words)


class Alternatives(FindCase):
    def test_a_line_that_empties_says_which_values_would_not(self) -> None:
        for q, line, act in (
            ("county: Tamarack\nunits: 3..\nclass: single-family", 1, "also"),
            ("county: Tamarack\nclass: single-family\nunits: 3..", 1, "instead"),
            ('county: Tamarack\nowner-name: "no such name"', 0, "also"),
            ("county: Tamarack\ncity: Alder Bay\nlast-sale: since 2026-11-20\nbeds: 9..", 2, "instead"),
        ):
            with self.subTest(q):
                search = parse(q)
                self.assertEqual(compile(search, self.scope).matches.count(), 0)
                for alternative in alternatives(search, line, self.scope):
                    self.assertTrue(alternative.act.startswith(f"{act}:{line}:"))
                    address = self.pushed(q=q, do=alternative.act)
                    page = self.client.get(address)
                    self.assertEqual(page.context["balance"].matches, alternative.count, alternative)

    def test_where_nothing_would(self) -> None:
        page = self.client.get("/", {"q": "county: Tamarack\nclass: single-family\nunits: 3..\nbeds: 0"})
        self.assertContains(page, "Nothing is left after")
        self.assertEqual(Team.objects.count(), 1)
