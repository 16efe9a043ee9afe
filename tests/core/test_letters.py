"""Letters: their fields, which goes to whom, how they stand on the page, and the documents that a word processor merges."""

from __future__ import annotations

import io
import random
import unittest
from itertools import pairwise

import pypdf
from docx import Document
from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.mail import letters as l
from jaded_ledger.core.mail import pieces as p
from jaded_ledger.core.mail.letter_docx import write_docx
from jaded_ledger.core.mail.letter_layout import MOST_LISTED, PAPERS, SMALLEST, TYPE, LetterFit, LongerThanPageError, lay_out, listed
from jaded_ledger.core.mail.letter_layout import _wrapped as wrapped
from jaded_ledger.core.mail.letter_pdf import write_letters
from jaded_ledger.core.mail.sheets import INCH
from jaded_ledger.core.mail.typesetting import text_width
from tests.support.pieces import TODAY, candidate, terms

KNOWN = ("salutation", "address", "years-owned", "parcel-list", "parcels", "code")
TO = ("HELEN OSTROM", "418 CAPSTAN ST", "ALDER BAY WI 53301")
LETTER, CARD = PAPERS["letter"], PAPERS["card-6x4"]
TEXT = "Dear {salutation|neighbor},\n\nYou have owned {address} for {years-owned}.\n\n{parcel-list|}\nName {code}."


def read(text: str = TEXT, key: int = 1, name: str = "First") -> l.Letter:
    return l.letter_from(text, KNOWN, key, name)


def said(letter: l.Letter, **values: str | None) -> list[str]:
    with_dashes = {name.replace("_", "-"): value for name, value in values.items()}
    return ["".join(span.text for span in line) for line in letter.merged(with_dashes)]


class Fields(unittest.TestCase):
    def test_a_field_is_filled_in_or_says_what_stands_for_it(self) -> None:
        self.assertEqual(
            said(read(), salutation="Helen", address="418 Capstan St", years_owned="17 years", parcel_list="A\nB", code="A2-7"),
            ["Dear Helen,", "", "You have owned 418 Capstan St for 17 years.", "", "A", "B", "Name A2-7."],
        )
        self.assertEqual(said(read("Dear { salutation | neighbor },\r\n{parcel-list|}x")), ["Dear neighbor,", "x"])

    def test_a_line_of_blank_fields_alone_is_left_out(self) -> None:
        text = "{salutation|}\n{address|}{code|}\n\nYou: {address|}\n{years-owned|a while}"
        self.assertEqual(said(read(text)), ["", "You: ", "a while"])
        self.assertEqual(said(read(text), salutation="Helen", code="A2-7"), ["Helen", "A2-7", "", "You: ", "a while"])

    def test_whether_it_asks_to_be_called(self) -> None:
        for text, asks in (
            ("Please call me.", True), ("Call or write {code}", True), ("Give us a telephone call", True),
            ("I will be calling on you", True),
            ("Call (414) 555-0113.", False), ("Call 414.555.0113", False), ("So-called bargains; a recall; Callie", False),
            ("Write to me.", False),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertIs(read(text).asks_to_call, asks)
        self.assertEqual([read("x {code|}").has(field) for field in ("code", "address")], [True, False])

    def test_an_unknown_one_without_another_wording_is_told(self) -> None:
        letter, whole = read(), {"address": "x", "years-owned": "y", "code": "z"}
        self.assertEqual(letter.lacks(whole), "")
        for field in whole:
            for unknown in (None, ""):
                self.assertEqual(letter.lacks(whole | {field: unknown}), field)

    def test_what_is_no_letter_says_why_and_in_which_line(self) -> None:
        for text, why in [
            ("", "the letter is empty"), (" \n ", "the letter is empty"), ("x" * (l.LONGEST_TEXT + 1), "at most 6,000 characters"),
            ("a\nb {adress}", r"line 2: there is no field \{adress\}; did you mean \{address\}\?"),
            ("{zzz}", "the fields stand beside the text"), ("{}", r"there is no field \{\}"),
            ("a {address", "line 1: a “{” stands alone"), ("a}", "line 1: a “}” stands alone"), ("{address|a|b", "stands alone"),
        ]:  # fmt: skip
            with self.subTest(text[:20]), self.assertRaisesRegex(l.LetterError, why):
                read(text)
        self.assertEqual(len(said(read("x" * l.LONGEST_TEXT))[0]), l.LONGEST_TEXT)

    @given(st.text(st.sampled_from("ab {}|\n\r\t-é中א") | st.characters(), max_size=200), st.text(max_size=40))
    def test_any_text_is_a_letter_or_says_why_not(self, text: str, value: str) -> None:
        for typed in (text, f"{text}{{address}}", f"{{address|{text}}}"):
            try:
                letter = read(typed)
            except l.LetterError as error:
                self.assertTrue(str(error))
                continue
            list(letter.merged({"address": value}))


class Halves(unittest.TestCase):
    def test_they_are_halves_random_and_stay(self) -> None:
        who = [f"owner {number}" for number in range(4_000)]
        first = [l.is_of_first_half(3, 8, one) for one in who]
        self.assertEqual(first, [l.is_of_first_half(3, 8, one) for one in who])
        # Of a fair coin thrown 4,000 times, 2,000 give or take 4 standard deviations of 31.6.
        self.assertLess(abs(sum(first) - 2_000), 127)
        # Runs of one side: the Wald-Wolfowitz test, within 4 standard deviations.
        runs = 1 + sum(one != other for one, other in pairwise(first))
        self.assertLess(abs(runs - 2_001), 127)
        # Another pair throws another coin; named the other way round, the same one.
        self.assertLess(abs(sum(one == l.is_of_first_half(3, 9, whom) for one, whom in zip(first, who, strict=True)) - 2_000), 127)
        self.assertEqual([not l.is_of_first_half(8, 3, one) for one in who], first)

    def test_which_goes_to_whom(self) -> None:
        usual, other, estate = read(key=1), read(key=2), read(key=3)
        letters = l.Letters(usual, {l.Recipient.ESTATE: estate, l.Recipient.COMPANY: None}, other)
        self.assertEqual(letters.of(l.Recipient.ESTATE, "x"), estate)
        self.assertIsNone(letters.of(l.Recipient.COMPANY, "x"))
        self.assertEqual({letters.of(l.Recipient.PERSON, str(number)).key for number in range(40)}, {1, 2})
        self.assertEqual({l.Letters(usual, {}).of(l.Recipient.PERSON, str(number)).key for number in range(40)}, {1})
        self.assertEqual([one.key for one in letters.every], [1, 2, 3])


class OnThePage(unittest.TestCase):
    VALUES = {"address": "418 Capstan St", "years-owned": "17 years", "code": "A2-7"}

    def test_the_address_shows_in_the_window_of_the_envelope(self) -> None:
        """The window of a No. 10 envelope, on a page folded in thirds. Common practice, from memory."""
        five = ("HELEN OSTROM", "ATTN EXECUTOR", "418 CAPSTAN ST", "APT 4", "ALDER BAY WI 53301")
        for lines in (TO, five[1:], five):
            (page,) = lay_out(read(), self.VALUES, lines, LETTER)
            # Four lines are set like the letter; from five on they are smaller.
            self.assertEqual({line.size for line in page.lines[: len(lines)]}, {SMALLEST if lines is five else TYPE})
            top, bottom = 11 / 3 * INCH - (0.5 + 1.125) * INCH, 11 / 3 * INCH - 0.5 * INCH
            address = page.lines[: len(lines)]
            self.assertEqual([line.runs[0].text for line in address], list(lines))
            for line in address:
                self.assertGreaterEqual(line.top, top)
                self.assertLessEqual(line.y, bottom)
                self.assertGreaterEqual(line.runs[0].x, 0.875 * INCH)
                self.assertLessEqual(line.runs[0].x + line.runs[0].width, (0.875 + 4.5) * INCH)
            # The text begins below the fold's window.
            self.assertGreater(page.lines[len(lines)].top, bottom)

    def test_a_postcard_has_the_address_on_its_back(self) -> None:
        front, back = lay_out(read("Hello {address}"), self.VALUES, TO, CARD, ["Lantern Street Realty"], "A2-7")
        self.assertEqual([run.text for line in front.lines for run in line.runs], ["Hello ", "418 Capstan St"])
        self.assertEqual([line.runs[0].text for line in back.lines], ["Lantern Street Realty", *TO, "A2-7"])
        # ⅝ in at the foot and ½ in at the sides stay free for the barcode and the machine: Domestic Mail Manual 202, from memory.
        for line in back.lines[1:4]:
            self.assertLessEqual(line.y, (4.25 - 0.625) * INCH)
            self.assertLessEqual(line.runs[0].x + line.runs[0].width, (6 - 0.5) * INCH)

    def test_lines_are_broken_where_words_end_and_nothing_is_lost(self) -> None:
        rng = random.Random(24)
        for _ in range(200):
            spans = tuple(
                l.Span("".join(rng.choice("abc  d中,") for _ in range(rng.randrange(60))), rng.random() < 0.5)
                for _ in range(rng.randrange(1, 6))
            )
            room = rng.choice((30.0, 80.0, 300.0))
            lines = list(wrapped(spans, TYPE, room))
            texts = [" ".join("".join(span.text for span in word) for word in line) for line in lines]
            whole = "".join(span.text for span in spans)
            self.assertEqual("".join("".join(texts).split()), "".join(whole.split()))
            for text in texts:
                self.assertLessEqual(text_width(text.strip(), TYPE), room + 0.01)
            # Each line took what it could: the next word had no room.
            for text, after in pairwise(lines):
                joined = " ".join("".join(span.text for span in word) for word in (*text, after[0]))
                first = "".join(span.text for span in after[0])
                self.assertTrue(text_width(joined, TYPE) > room or text_width(first, TYPE) <= room < text_width(whole, TYPE))

    def test_a_long_one_is_set_smaller_and_then_refused(self) -> None:
        def lines(count: int) -> float:
            return lay_out(read("x\n" * count), {}, TO, LETTER)[0].lines[-1].size

        room = LETTER.body[3]
        most = int(room / (TYPE * 1.35))
        self.assertEqual((lines(most), lines(most + 1) < TYPE), (TYPE, True))
        least = int(room / (SMALLEST * 1.35))
        self.assertEqual(lines(least), SMALLEST)
        with self.assertRaisesRegex(LongerThanPageError, "longer than its page at 9 pt"):
            lines(least + 1)

    def test_the_pdf_says_it(self) -> None:
        names = ["=cmd|' /C calc'!A0", "אוֹסְטְרוֹם", "X" * 300, "O’Hara & “Sons”", "名前"]
        letters = [read("Dear {salutation},\n\nYou own {address}.") for _ in names]
        pages = [
            page for letter, name in zip(letters, names, strict=True)
            for page in lay_out(letter, {"salutation": name, "address": "418 Capstan St"}, TO, LETTER, ["Lantern Street Realty"], "A2-7")
        ]  # fmt: skip
        reader = pypdf.PdfReader(io.BytesIO(write_letters(pages, LETTER)))
        self.assertEqual(len(reader.pages), len(names))
        self.assertEqual(reader.trailer["/Root"]["/ViewerPreferences"]["/PrintScaling"], "/None")
        for page, name in zip(reader.pages, names, strict=True):
            self.assertEqual([float(side) for side in page.mediabox[2:]], [8.5 * INCH, 11 * INCH])
            text = " ".join(page.extract_text().split())
            for expected in ("You own 418 Capstan St.", *TO, "Lantern Street Realty", "A2-7"):
                self.assertIn(expected, text)
            if name.isascii():
                self.assertIn(name.replace(" ", ""), text.replace(" ", ""))

    def test_many_properties_are_listed_up_to_a_number(self) -> None:
        every = [f"{number} Elm St" for number in range(1, 50)]
        self.assertEqual(listed(every[:MOST_LISTED]).split("\n"), every[:MOST_LISTED])
        self.assertEqual(listed(every[: MOST_LISTED + 1]).split("\n"), [*every[: MOST_LISTED - 1], "and 2 more"])
        self.assertEqual(listed([]), "")


class ByTheRuler(unittest.TestCase):
    """Where ink stands, in inches and points from the page's top left: measured on the papers by hand, so that a shift is seen."""

    VALUES = {"address": "418 Capstan St"}
    SENDER = ("Lantern Street Realty", "12 Lantern St")

    def ink(self, page: object, text: str) -> tuple[float, float, float]:
        """Return where a line's text begins, where it ends, and its baseline."""
        (found,) = [line for line in page.lines if "".join(run.text for run in line.runs) == text]
        return found.runs[0].x, found.runs[-1].x + found.runs[-1].width, found.y

    def test_a_letter(self) -> None:
        (page,) = lay_out(read("One\n\nTwo {address}\nThree"), self.VALUES, TO, LETTER, self.SENDER, "A2-7")
        line = 11 * 1.35
        first = 3.5 * INCH + line - 11 / 4
        for text, baseline in (("One", first), ("Two 418 Capstan St", first + 1.5 * line), ("Three", first + 2.5 * line)):
            left, _, y = self.ink(page, text)
            self.assertAlmostEqual(left, 0.9 * INCH)
            self.assertAlmostEqual(y, baseline)
        for place, text in enumerate(TO, 1):
            left, _, y = self.ink(page, text)
            self.assertAlmostEqual(left, 0.9 * INCH)
            self.assertAlmostEqual(y, 2.2 * INCH + place * line - 11 / 4)
        for place, text in enumerate(self.SENDER, 1):
            _, right, y = self.ink(page, text)
            self.assertAlmostEqual(right, (8.5 - 0.9) * INCH)
            self.assertAlmostEqual(y, 0.6 * INCH + place * 9 * 1.35 - 9 / 4)
        left, _, y = self.ink(page, "A2-7")
        self.assertAlmostEqual(left, 0.9 * INCH)
        self.assertAlmostEqual(y, (11 - 0.35) * INCH + 7 * 1.35 - 7 / 4)
        self.assertEqual([one.size for one in page.lines], [9, 9, 11, 11, 11, 11, 11, 11, 7])

    def test_a_postcard(self) -> None:
        front, back = lay_out(read("One"), {}, TO, CARD, self.SENDER, "A2-7")
        left, _, y = self.ink(front, "One")
        self.assertAlmostEqual(left, 0.4 * INCH)
        self.assertAlmostEqual(y, 0.4 * INCH + 11 * 1.35 - 11 / 4)
        left, _, y = self.ink(back, TO[0])
        self.assertAlmostEqual(left, 2.6 * INCH)
        self.assertAlmostEqual(y, 2.0 * INCH + 11 * 1.35 - 11 / 4)
        left, _, y = self.ink(back, self.SENDER[0])
        self.assertAlmostEqual(left, 0.4 * INCH)
        self.assertAlmostEqual(y, 0.3 * INCH + 9 * 1.35 - 9 / 4)
        self.assertAlmostEqual(self.ink(back, "A2-7")[2], (4.25 - 0.35) * INCH + 7 * 1.35 - 7 / 4)
        self.assertEqual((CARD.size, CARD.body[2:]), ((6 * INCH, 4.25 * INCH), (5.2 * INCH, 3.3 * INCH)))

    def test_a_mark_covers_its_words(self) -> None:
        line = lay_out(read("One"), {}, TO, CARD)[0].lines[0]
        self.assertEqual((line.y - line.top, line.height), (11, 11 * 1.25))

    def test_words_and_values_stand_side_by_side(self) -> None:
        (page,) = lay_out(read("You own {address} and {address}{address}, yes."), self.VALUES, TO, LETTER)
        runs = page.lines[len(TO)].runs
        self.assertEqual(
            [(run.text, run.is_field) for run in runs],
            [("You own ", False), ("418 Capstan St", True), (" and ", False), ("418 Capstan St418 Capstan St", True), (", yes.", False)],
        )
        for run, after in pairwise(runs):
            self.assertAlmostEqual(run.x + text_width(run.text, TYPE), after.x)

    def test_a_line_is_full_to_the_last_point(self) -> None:
        """Three words whose width is just the room stand in one line; a hair less room, and the last begins another."""
        spans = (l.Span("abc de fgh", False),)
        room = text_width("abc", TYPE) + text_width("de", TYPE) + text_width("fgh", TYPE) + 2 * text_width(" ", TYPE)

        def words(width: float) -> list[list[str]]:
            return [["".join(span.text for span in word) for word in line] for line in wrapped(spans, TYPE, width)]

        self.assertEqual(words(room + 1e-6), [["abc", "de", "fgh"]])
        self.assertEqual(words(room - 1e-6), [["abc", "de"], ["fgh"]])
        # A word as wide as the room is not broken; one that is wider is, where the room ends.
        self.assertEqual(words(text_width("abc", TYPE)), [["abc"], ["de"], ["fgh"]])
        self.assertEqual(words(text_width("ab", TYPE) + 1e-6)[:2], [["ab"], ["c"]])

    def test_the_second_size_is_half_a_point_smaller(self) -> None:
        room = LETTER.body[3]
        for size in (11.0, 10.5, 10.0, 9.5, 9.0):
            count = int(room / (size * 1.35) + 1e-9)
            self.assertEqual(lay_out(read("x\n" * count), {}, TO, LETTER)[0].lines[-1].size, size)

    def test_blank_lines_count_half(self) -> None:
        """Text of 11 pt has room for 32 lines and no 33rd; 31 with two blank ones between are as high as 32."""
        room = LETTER.body[3] / (TYPE * 1.35)
        self.assertEqual(int(room), 32)
        self.assertEqual(lay_out(read("x\n\nx\n\n" + "x\n" * 29), {}, TO, LETTER)[0].lines[-1].size, TYPE)
        self.assertLess(lay_out(read("x\n\nx\n\n" + "x\n" * 30), {}, TO, LETTER)[0].lines[-1].size, TYPE)


class Fit(unittest.TestCase):
    def made(self, *candidates: p.Candidate, letters: l.Letters) -> tuple[p.Mailing, LetterFit]:
        fit = LetterFit(letters, LETTER, {one.parcel_id: f"{one.parcel_id} Elm St" for one in candidates}, "A2-99999")
        return p.make_pieces(candidates, terms(p.Addressing.OWNER_MAILING), fit), fit

    def test_a_piece_says_what_is_known_and_is_refused_for_what_is_not(self) -> None:
        letters = l.Letters(read(), {l.Recipient.COMPANY: None})
        known = {"address": "418 Capstan St", "years-owned": "17 years", "salutation": "Helen"}
        made, fit = self.made(
            candidate(1, values=known), candidate(2, values=known | {"years-owned": None}),
            candidate(3, values=known, recipient=l.Recipient.COMPANY), candidate(4, values=known | {"address": "Elm\uFFFE"}),
            letters=letters,
        )  # fmt: skip
        self.assertEqual([piece.parcel_id for piece in made.pieces], [1])
        self.assertEqual(
            {one.parcel_id: (one.reason, one.detail[:11]) for one in made.refusals},
            {
                2: (p.Reason.NO_FIELD, "years-owned"),
                3: (p.Reason.NO_LETTER, "companies"),
                4: (p.Reason.CAN_NOT_PRINT, "\ufffe (U+FFFE)"[:11]),
            },
        )
        self.assertEqual(fit.written[1].values, known | {"parcel-list": "1 Elm St", "code": "A2-99999"})
        long = l.Letters(read("x\n" * 200), {})
        self.assertEqual(self.made(candidate(1), letters=long)[0].refusals[0].reason, p.Reason.TOO_LONG)

    def test_the_owner_of_several_reads_of_all_of_them(self) -> None:
        several = read("You own {parcels}:\n{parcel-list}", key=2)
        letters = l.Letters(read("One", key=1), {l.Recipient.PERSON_SEVERAL: several})
        refused = candidate(4, owner_id=5, do_not_contact=True)
        made, fit = self.made(candidate(3, owner_id=5), candidate(1, owner_id=5), candidate(2), refused, letters=letters)
        self.assertEqual([(piece.parcel_id, fit.written[piece.parcel_id].letter.key) for piece in made.pieces], [(1, 2), (2, 1)])
        self.assertEqual(said(several, **fit.written[1].values), ["You own 2:", "1 Elm St", "3 Elm St"])
        self.assertEqual(fit.written[1].recipient, l.Recipient.PERSON_SEVERAL)

    def test_a_series_stops(self) -> None:
        made, _ = self.made(candidate(1, stopped="replied, 3 Dec 2026"), candidate(2), letters=l.Letters(read("One"), {}))
        self.assertEqual([(one.parcel_id, one.reason, one.detail) for one in made.refusals], [(1, p.Reason.STOPPED, "replied, 3 Dec 2026")])
        self.assertFalse(p.Reason.STOPPED.may_be_relaxed)
        self.assertEqual(TODAY.year, 2026)


class ToMerge(unittest.TestCase):
    def test_the_document_has_merge_fields(self) -> None:
        letter = read()
        columns = {place: place.field.replace("-", "_") for place in letter.places}
        document = Document(io.BytesIO(write_docx(letter, columns)))
        self.assertEqual(document.core_properties.title, "First")
        # A letter page of the US: 8½ × 11 in.
        self.assertEqual((document.sections[0].page_width.inches, document.sections[0].page_height.inches), (8.5, 11))
        xml = [paragraph._p for paragraph in document.paragraphs]
        texts = ["".join(node.text or "" for node in one.iter() if node.tag.endswith("}t")) for one in xml]
        self.assertEqual(
            texts, ["Dear «salutation»,", "", "You have owned «address» for «years_owned».", "", "«parcel_list»", "Name «code»."]
        )
        told = [node.get(key) for one in xml for node in one.iter() for key in node.attrib if key.endswith("}instr")]
        self.assertEqual(told, [f' MERGEFIELD "{name}" ' for name in columns.values()])
