"""The text form of a search: every form is read, written in one spelling, and what is wrong is said."""

from __future__ import annotations

import unittest
from decimal import Decimal

from hypothesis import given

from jaded_ledger.core.criteria.asking import questions
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import AnyOf, Criterion, Exactly, FigureRange, Match, Named, Numbers, Search
from jaded_ledger.core.criteria.text import LARGEST, CriteriaError, format, line_text, parse, parse_line
from tests.support.strategies import searches
from tests.support.tiers import deep

EVERY_FORM = """\
county: Tamarack
class: single-family, duplex
last-sale: before 5 years ago, or unknown
equity-pct: 60..
owner-occupied: no
owner-name: "ostrom"; not "bank"
parcel-number: 12-034-*; not 12-034-7..9
house-number: 100..298
house-side: even
remarks: any of "as is", "needs work"; none of "room to grow"
on-list: all of "Tax 2026", "Absentee"
any of:
  tax-years-delinquent: 2..
  tax-suit: filed, judgment
~ beds: 3.."""


class RoundTrip(unittest.TestCase):
    def test_every_form_is_read_and_written_as_it_was(self) -> None:
        self.assertEqual(format(parse(EVERY_FORM)), EVERY_FORM)

    @deep(150)
    @given(searches())
    def test_what_is_written_reads_back_the_same(self, search) -> None:
        self.assertEqual(parse(format(search)), search)

    def test_a_place_called_as_a_word_of_the_text_form_is_written_in_quotes(self) -> None:
        for name in ("NONE", "Any", "known", "Unknown", "not blank"):
            for search in (Search((name,)), Search((), (Criterion("city", (Exactly(name),)),))):
                self.assertEqual(parse(format(search)), search)

    def test_comments_and_blank_lines_are_passed_over(self) -> None:
        self.assertEqual(format(parse("# two or more\n\n  \nbeds: 2..\n")), "beds: 2..")


class Values(unittest.TestCase):
    def accepts(self, line: str) -> tuple:
        return parse_line(line).accepts

    def test_figures(self) -> None:
        for typed, meant in [
            ("250k", "250000"), ("1.2m", "1200000"), ("$1,284,500", "1284500"), ("$250k", "250000"), ("3", "3"), ("0", "0"),
        ]:  # fmt: skip
            with self.subTest(typed):
                self.assertEqual(self.accepts(f"assessed-value: {typed}"), (Exactly(Decimal(meant)),))

    def test_commas_make_thousands_or_alternatives(self) -> None:
        self.assertEqual(self.accepts("assessed-value: 1,000, 2,000"), (Exactly(Decimal(1000)), Exactly(Decimal(2000))))
        self.assertEqual(
            self.accepts("assessed-value: 5..10, 20.."), (FigureRange(Decimal(5), Decimal(10)), FigureRange(Decimal(20), None))
        )

    def test_a_bare_number_is_not_scaled(self) -> None:
        self.assertEqual(self.accepts("assessed-value: 250"), (Exactly(Decimal(250)),))
        self.assertEqual(self.accepts("equity-pct: 60 %"), (Exactly(Decimal(60)),))

    def test_names(self) -> None:
        self.assertEqual(
            self.accepts('owner-name: "ostrom", "harb"*, = "OSTROM HELEN M & PETER"'),
            (Named("ostrom"), Named("harb", Match.BEGINNING), Named("OSTROM HELEN M & PETER", Match.EXACT)),
        )
        self.assertEqual(self.accepts(r'owner-name: = "SMITH \"BUD\" \\ CO"'), (Named('SMITH "BUD" \\ CO', Match.EXACT),))

    def test_choices_by_synonym_and_flags(self) -> None:
        self.assertEqual(self.accepts("class: Condo, two-flat"), (Exactly("condominium"), Exactly("duplex")))
        self.assertEqual(self.accepts("owner-occupied: NO"), (Exactly(False),))

    def test_parcel_numbers_forgive_separators(self) -> None:
        self.assertEqual(self.accepts("parcel-number: 12 034 007"), (Numbers("12-034-007"),))
        self.assertEqual(self.accepts("parcel-number: Pike Hollow/12.034.7..9"), (Numbers("12-034-7..9", "pike-hollow"),))

    def test_what_is_struck_asks_nothing(self) -> None:
        search = parse("beds: ask\n~ baths: ask\nclass: duplex\nany of:\n  units: 2..\n  year-built: ask")
        self.assertEqual([(one.line, one.member, one.criterion.trait) for one in questions(search)], [(0, 0, "beds"), (3, 1, "year-built")])

    def test_unknown_and_ask(self) -> None:
        alone = parse_line("beds: unknown")
        self.assertEqual((alone.accepts, alone.refuses, alone.unknown), ((), (), True))
        waiting = parse_line("beds: ask")
        self.assertTrue(waiting.ask)
        self.assertFalse(waiting.is_applied)
        self.assertTrue(parse_line("beds: ask 3..").is_applied)

    def test_any_and_none(self) -> None:
        """What a user would try: of an event, a set, a count or an amount of which 0 is none, a choice that has a word for it, a name."""
        for text, canonical in [
            ("auction: any", "any"), ("signals: none", "none"), ("evictions: any", "1.."), ("evictions: none", "0"),
            ("tax-due: any", "1.."),
            ("owner-role: any", "any"), ("owner-role: none", "nobody"), ("tax-suit: any", "any"), ("tax-suit: none", "none"),
            ("price-cuts: any", "any"), ("owner-name: any", "any"), ("zoning: any", "any"), ("beds: any", "any"), ("last-sale: ANY", "any"),
            ("owner-name: not any", "not any"), ("city: any", "any"),
        ]:  # fmt: skip
            self.assertEqual(line_text(parse_line(text)), f"{text.partition(':')[0]}: {canonical}")
        self.assertEqual(line_text(parse_line('owner-name: "any"')), 'owner-name: "any"', "the word, in quotes")
        for text, said in [
            ("beds: none", "can't be told of beds; ask for unknown"), ("owner-name: none", "can't be told of owner"),
            ("free-and-clear: any", "neither yes nor no"),
        ]:  # fmt: skip
            with self.subTest(text), self.assertRaises(CriteriaError) as caught:
                parse_line(text)
            self.assertIn(said, str(caught.exception))

    def test_groups(self) -> None:
        search = parse("~ any of:\n  beds: 3..\n\tbaths: 2..\ncity: Alder Bay")
        group, place = search.lines
        self.assertIsInstance(group, AnyOf)
        self.assertTrue(group.struck)
        self.assertEqual(len(group.criteria), 2)
        self.assertEqual(place.trait, "city")


class Mistakes(unittest.TestCase):
    """Each error names the line and the word, and says what would be accepted."""

    def setUp(self) -> None:
        # The core alone knows of no county's own columns.
        self.addCleanup(CATALOGUE.look_up_in, CATALOGUE.look_up_in(dict))

    def test_what_is_wrong_is_said(self) -> None:
        for text, line, said in [
            ("bedz: 3", 1, '"bedz" is not a trait; did you mean beds?'),
            ("beds: 3..\nowed-pct: 60..", 2, '"owed-pct" is not a trait'),
            ("in-herd: all of \"A\"", 1, '"in-herd" is not a trait'),
            ("class: duplx", 1, "did you mean duplex?"),
            ("beds: thrice", 1, '"thrice" is not a figure'),
            ("beds: 5..3", 1, "runs backwards"),
            ("beds: ..", 1, "has no end"),
            ("beds:", 1, "has no value"),
            ("beds", 1, "is not a criterion"),
            ("beds: 3 ; ; 4", 1, "can't stand here"),
            ("beds: 99999999999999999", 1, "larger than any figure"),
            ("owner-occupied: maybe", 1, "neither yes nor no"),
            ("last-sale: someday", 1, "is not a date"),
            ("last-sale: 2026-02-30", 1, "not in the calendar"),
            ("last-sale: between 2026-02-02 and 2026-01-01", 1, "runs backwards"),
            ("last-sale: 99999 years ago", 1, "outside the calendar"),
            ('owner-name: "ostrom', 1, "does not end"),
            ('owner-name: ""', 1, "is empty"),
            ('class: "duplex"*', 1, "not a name as recorded"),
            ('beds: any of "3"', 1, "for phrases and lists"),
            ("parcel-number: !!", 1, "not a parcel number"),
            ("county: not Tamarack", 1, "chosen by name"),
            ("county: A\ncounty: B", 2, "chosen twice"),
            ("any of:\nbeds: 3", 1, "the group is empty"),
            ("any of:\n  county: A", 2, "can't stand in a group"),
            ("any of:\n  ~ beds: 3", 2, "can't be turned off"),
            ("any of:\n  any of:\n    beds: 3", 2, "within another"),
            ("beds: not", 1, "can't stand here"),
            ("beds: 3\n" * (LARGEST + 1), LARGEST + 1, "at most"),
        ]:  # fmt: skip
            with self.subTest(text), self.assertRaises(CriteriaError) as caught:
                parse(text)
            self.assertEqual(caught.exception.line, line)
            self.assertIn(said, str(caught.exception))
            self.assertTrue(str(caught.exception).startswith(f"line {line}: "))

    def test_the_word_that_is_wrong_is_named(self) -> None:
        for text, word in (
            ("beds: 3 4", "4"),
            ('class: "single', '"single'),
            ("beds: , 3", ","),
            ('remarks: any of "a" in nowhere', "nowhere"),
        ):
            with self.subTest(text), self.assertRaises(CriteriaError) as caught:
                parse_line(text)
            self.assertIn(word, str(caught.exception))
