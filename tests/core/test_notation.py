"""What people write for a value, at its edges: each form by itself, and what the next figure or day makes of it.

Which forms there are is common practice; the whole table of them is tests/reference/typed_words.tsv.
"""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core import dates
from jaded_ledger.core.criteria.bounds import Bounds, bounds_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.date_notation import span
from jaded_ledger.core.criteria.display import value_words
from jaded_ledger.core.criteria.figure_notation import figure, figures, is_figure
from jaded_ledger.core.criteria.parcel_numbers import KeyRange, ParcelNumberError, form_of, mask
from jaded_ledger.core.criteria.search import Exactly, FigureRange
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse, parse_line
from jaded_ledger.core.criteria.trait_names import Fit, is_slip, meanings, near_meanings, singular
from jaded_ledger.core.criteria.traits import Catalogue
from jaded_ledger.core.criteria.wrong_value import ValueTextError

TODAY = date(2026, 11, 24)
BEDS, PRICE, SHARE, BATHS = (CATALOGUE[key] for key in ("beds", "list-price", "equity-pct", "baths"))


class Figures(unittest.TestCase):
    def test_an_end_that_is_left_out_is_the_next_figure(self) -> None:
        for trait, text, low, high in [
            (BEDS, "over 3", "4", None), (BEDS, "under 3", None, "2"), (BEDS, "over 2.5", "3", None), (BEDS, "under 2.5", None, "2"),
            (SHARE, "over 60", "60.01", None), (SHARE, "under 60", None, "59.99"), (BATHS, "> 1.5", "1.51", None),
            (PRICE, "under 300k", None, "299999"), (PRICE, "<= 300k", None, "300000"), (PRICE, ">= 300k", "300000", None),
            (PRICE, "more than 1m but less than 2m", "1000001", "1999999"), (BEDS, "3..3", "3", "3"),
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertEqual(figures(trait, text), FigureRange(*(end and Decimal(end) for end in (low, high))))

    def test_a_range_of_one_figure_is_none_backwards_and_one_of_less_is(self) -> None:
        self.assertEqual(figures(BEDS, "3-3"), FigureRange(Decimal(3), Decimal(3)))
        with self.assertRaisesRegex(ValueTextError, "backwards"):
            figures(BEDS, "over 2 but under 3")
        with self.assertRaisesRegex(ValueTextError, "no end"):
            figures(BEDS, " .. ")

    def test_what_is_asked(self) -> None:
        for trait, text, said in [
            (PRICE, "200-300k", "200k..300k or 200..300k"), (PRICE, "1-2m", "1m..2m or 1..2m"), (BEDS, "60%", "is in percent"),
            (BEDS, "$3", "is in dollars"), (SHARE, "$3", "is in dollars, and equity % is in percent"),
        ]:  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(ValueTextError, said):
                figures(trait, text)
        # From nothing there is no other reading, and dots are written on purpose.
        self.assertEqual(figures(PRICE, "0-300k"), FigureRange(Decimal(0), Decimal(300_000)))
        self.assertEqual(figures(PRICE, "200..300k"), FigureRange(Decimal(200), Decimal(300_000)))

    def test_commas(self) -> None:
        for text, said in [("baths: 1,5", "1.5 or 1, 5"), ("beds: 3,4", "write 3, 4$"), ("list-price: 1,2345", "write 1, 2345$"),
                           ("list-price: 1,2,3", "write 1, 2, 3$")]:  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(CriteriaError, said):
                parse_line(text)
        self.assertEqual(line_text(parse_line("list-price: 1,234,567..2,000,000")), "list-price: 1234567..2000000")
        self.assertEqual(line_text(parse_line("list-price: $1,234.50")), "list-price: 1234.5")

    def test_what_is_one_figure(self) -> None:
        self.assertTrue(all(map(is_figure, ("0", ".5", "-3", "250k", "1.2 million", "seven"))))
        self.assertFalse(any(map(is_figure, ("", "-", "3+", "under 3", "k", "thirteen hundred", "1,5"))))
        with self.assertRaisesRegex(ValueTextError, "larger"):
            figure("1000000000000000")
        self.assertEqual(figure("999999999999999"), Decimal(999_999_999_999_999))

    def test_it_reads_as_it_was_said_where_that_is_rounder(self) -> None:
        for trait, text, reads in [
            (PRICE, "under 300k", "under $300,000"), (PRICE, "over 1m", "over $1,000,000"), (PRICE, "..300000", "$300,000 or less"),
            (PRICE, "..299500", "$299,500 or less"), (SHARE, "under 60", "under 60 %"), (BEDS, "under 3", "2 or less"),
            (PRICE, "under 300k but over 100k", "$100,001 to $299,999"),
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertEqual(value_words(trait, figures(trait, text)), reads)

    @given(st.integers(-(10**9), 10**9), st.sampled_from([BEDS, PRICE, SHARE, BATHS]))
    def test_every_figure_is_under_over_or_itself(self, number: int, trait) -> None:
        under, over = figures(trait, f"under {number}"), figures(trait, f"over {number}")
        step = Decimal(1).scaleb(-trait.decimals)
        self.assertEqual((under.high + step, over.low - step), (number, number))
        self.assertEqual(figures(trait, str(number)), Exactly(Decimal(number)))

    def test_bounds(self) -> None:
        self.assertEqual(bounds_of("3 or more"), Bounds(low="3"))
        self.assertEqual(bounds_of("moreover"), Bounds(value="moreover"))
        self.assertEqual(bounds_of("minimum 3"), Bounds(low="3"))
        self.assertEqual(bounds_of("more than 3 but less than 5"), Bounds(above="3", below="5"))
        self.assertEqual(bounds_of("less than 5 and more than 3"), Bounds(above="3", below="5"))
        self.assertEqual(bounds_of("more than 3 and more than 5").above, "3 and more than 5")


class Decades(unittest.TestCase):
    def test_a_decade_is_ten_years(self) -> None:
        for text, low, high in (("1950s", 1950, 1959), ("the 1900s", 1900, 1909), ("2000s", 2000, 2009)):
            self.assertEqual(figures(CATALOGUE["year-built"], text), FigureRange(Decimal(low), Decimal(high)))


class Days(unittest.TestCase):
    def days(self, text: str) -> tuple[date | None, date | None]:
        found = span(text).resolve(TODAY)
        return found.low, found.high

    def test_periods_end_with_their_last_day(self) -> None:
        for text, low, high in [
            ("4/2014", (2014, 4, 1), (2014, 4, 30)), ("12/2015", (2015, 12, 1), (2015, 12, 31)),
            ("feb 2012", (2012, 2, 1), (2012, 2, 29)), ("feb 2013", (2013, 2, 1), (2013, 2, 28)), ("dec 2014", (2014, 12, 1),
            (2014, 12, 31)),
            ("after dec 2014", (2015, 1, 1), None), ("until 2014", None, (2014, 12, 31)), ("before 2014", None, (2013, 12, 31)),
            ("2014+", (2014, 1, 1), None), ("..2014", None, (2014, 12, 31)), ("1990s", (1990, 1, 1), (1999, 12, 31)),
            ("after 4/30/2014", (2014, 5, 1), None), ("until 4/30/2014", None, (2014, 4, 30)), ("2014-2014", (2014, 1, 1),
            (2014, 12, 31)),
            ("after 2014 and before 2016", (2015, 1, 1), (2015, 12, 31)), ("sept 3rd, 2014", (2014, 9, 3), (2014, 9, 3)),
            ("3 sept 2014", (2014, 9, 3), (2014, 9, 3)), ("18 Nov 2026", (2026, 11, 18), (2026, 11, 18)),
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertEqual(self.days(text), (low and date(*low), high and date(*high)))

    def test_told_from_today(self) -> None:
        for text, low, high in [
            ("last 90 days", (2026, 8, 26), (2026, 11, 24)), ("more than 5 years ago", None, (2021, 11, 23)),
            ("at least 5 years ago", None, (2021, 11, 24)), ("5+ years ago", None, (2021, 11, 24)),
            ("older than 5 years", None, (2021, 11, 23)),
            ("until yesterday", None, (2026, 11, 23)), ("since yesterday", (2026, 11, 23), None), ("next 2 weeks", (2026, 11, 24),
            (2026, 12, 8)),
            ("past year", (2025, 11, 24), (2026, 11, 24)), ("within the last two months", (2026, 9, 24), (2026, 11, 24)),
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertEqual(self.days(text), (low and date(*low), high and date(*high)))
        self.assertEqual(span("at least 5 years ago"), dates.Until(dates.Ago(dates.Length(5, dates.CalendarUnit.YEAR))))
        self.assertEqual(span(str(span("5+ years ago"))), span("5+ years ago"))

    def test_what_is_asked_or_wrong(self) -> None:
        for text, said in [
            ("4/30/14", "of 2014 or of 1914"), ("30/4/2014", "write 4/30/2014"), ("13/13/2014", "not in the calendar"),
            ("this year", "by the calendar"),
            ("last quarter", "in the last 3 months"), ("90 days", "more than 90 days ago"),
            ("after 5 years ago", "leaves out the day itself"),
            ("2016..2014", "backwards"), ("..", "no end"), ("after 12/31/9999", "outside the calendar"), ("someday", "is not a date"),
            ("2014-13", "not in the calendar"), ("between 2014 and later", "is not a date"),
        ]:  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(ValueTextError, said):
                span(text)

    def test_it_reads_as_a_period(self) -> None:
        sale = CATALOGUE["last-sale"]
        for text, reads in [("2014", "in 2014"), ("2014..2016", "in 2014 to 2016"), ("apr 2014", "in Apr 2014"),
                            ("2014-04-01..2014-04-29", "between 1 Apr 2014 and 29 Apr 2014"),
                            ("at least 5 years ago", "5 years ago or earlier"),
                            ("2014-01-01..2014-12-30", "between 1 Jan 2014 and 30 Dec 2014")]:  # fmt: skip
            with self.subTest(text):
                self.assertEqual(value_words(sale, span(text)), reads)


class Words(unittest.TestCase):
    def test_text_form(self) -> None:
        for typed, canonical in [
            ("\ufeffbeds: 3+", "beds: 3.."), ("beds: not blank", "beds: any"),
            ("class: duplex or not known", "class: duplex, or unknown"),
            ('owner-name: "blank"', 'owner-name: "blank"'),
            ("last-sale: April 30, 2014, May 1, 2015", "last-sale: 2014-04-30, 2015-05-01"),
            ("owner-name: not known", "owner-name: unknown"), ("~ bedrooms: 3+", "~ beds: 3.."), ("flips: none", "flips: 0"),
            ("flips: any", "flips: 1.."),
        ]:  # fmt: skip
            with self.subTest(typed):
                self.assertEqual("\n".join(line_text(line) for line in parse(typed)), canonical)

    def test_a_name_of_two_traits_is_asked(self) -> None:
        lots = [replace(CATALOGUE[key], synonyms=("plot",)) for key in ("lot-sqft", "lot-acres")]
        both = Catalogue(lots)
        self.assertEqual(both.named("Plot"), tuple(lots))
        with (
            mock.patch("jaded_ledger.core.criteria.text.CATALOGUE", both),
            self.assertRaisesRegex(CriteriaError, "can be lot-sqft or lot-acres"),
        ):
            parse_line("plot: 3+")

    def test_umbrellas_hold_what_is_declared(self) -> None:
        for trait in CATALOGUE:
            keys = {choice.key for choice in trait.choices}
            for one in trait.umbrellas:
                with self.subTest(one.key):
                    self.assertLessEqual(set(one.holds), keys)
                    self.assertGreater(len(one.holds), 1)
                    self.assertNotIn(one.key, keys)
                    self.assertEqual(set(trait.codes(one.key)), {choice.code for choice in trait.choices if choice.key in one.holds})
        kind = CATALOGUE["class"]
        self.assertEqual((kind.codes("duplex"), kind.codes("nothing of it")), ((2,), ()))

    def test_names_by_how_they_fit(self) -> None:
        def first(typed: str) -> tuple[str, str, Fit]:
            found = meanings(typed, CATALOGUE)[0]
            return found.trait.key, found.value, found.fit

        self.assertEqual(first("beds"), ("beds", "", Fit.EXACT))
        self.assertEqual(first("price list"), ("list-price", "", Fit.ANY_ORDER))
        self.assertEqual(first("assessed val"), ("assessed-value", "", Fit.BEGINNING))
        self.assertEqual(first("val assessed"), ("assessed-value", "", Fit.BEGINNINGS))
        self.assertEqual(first("not duplex"), ("class", "not duplex", Fit.EXACT))
        self.assertEqual(first("no divorce"), ("divorce", "none", Fit.EXACT))
        self.assertEqual(meanings("qwxyz", CATALOGUE), [])
        self.assertEqual(near_meanings("duplx", CATALOGUE, 3)[0].fit, Fit.SLIP)
        self.assertEqual(near_meanings("estimaated vallue", CATALOGUE, 3)[0].trait.key, "estimated-value")
        self.assertEqual(near_meanings("zzzzzzzz", CATALOGUE, 3), [])

    def test_a_slip_is_one_letter_of_four_or_more(self) -> None:
        for typed, word, is_one in [("zoen", "zone", True), ("zon", "zone", False), ("mortgage", "mortgage", True),
        ("morgge", "mortgage", False),
                                    ("beds", "bed", False)]:  # fmt: skip
            with self.subTest(typed):
                self.assertEqual(is_slip(typed, word), is_one)
        self.assertEqual([singular(word) for word in ("gas", "beds", "pass", "axes")], ["gas", "bed", "pass", "axe"])


class NumbersOfNoForm(unittest.TestCase):
    def test_a_free_mask(self) -> None:
        free = mask("*")
        self.assertEqual((free.key("12-a 7"), free.key("A" * 40), free.format("12A7")), ("12A7", "A" * 40, "12A7"))
        self.assertEqual(free.ranges("12-*"), (KeyRange("12", "13"),))
        for wrong in ("", "--", "~5", "A" * 41, "ä b!"):
            with self.subTest(wrong), self.assertRaises(ParcelNumberError):
                free.key(wrong)

    def test_the_form_of_numbers(self) -> None:
        for numbers, form in [(["12-034-007", "99-001-118"], "NN-NNN-NNN"), (["12-034-007", "9-001-118"], "*"), (["12034007"], "*"),
                              ([], "*"), (["1-2", ""], "N-N"), (["1" * 30 + "-" + "2" * 11], "*")]:  # fmt: skip
            with self.subTest(numbers):
                self.assertEqual(form_of(numbers), form)
