"""Names in every script on a label: in order, in a typeface that has them, or refused; read back from the PDF."""

from __future__ import annotations

import io
import unittest

from pypdf import PdfReader
from reportlab.pdfgen.canvas import Canvas

from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.mail.label_pdf import LabelFit, write_labels
from jaded_ledger.core.mail.pieces import Piece, Reason
from jaded_ledger.core.mail.sheets import SHEETS
from jaded_ledger.core.mail.typesetting import FONT, draw_line, lacking, others_needed, runs, text_width

HEBREW, ARABIC, JAPANESE, KOREAN, CHINESE = "משה כהן", "محمد علي", "田中 さくら", "김민준", "鄧麗君"


def drawn(text: str) -> str:
    """Return what a reader takes from a PDF on which a line was set."""
    out = io.BytesIO()
    canvas = Canvas(out)
    draw_line(canvas, 50, 500, text, 12)
    canvas.save()
    return " ".join(PdfReader(out).pages[0].extract_text().split())


class Typesetting(unittest.TestCase):
    def test_each_script_has_its_typeface(self) -> None:
        for text, font in (
            (HEBREW, "Hebrew"),
            (ARABIC, "Arabic"),
            (JAPANESE, "JP"),
            (KOREAN, "KR"),
            ("OSTROM", FONT),
            ("ÅSA ØSTRØM-ČAPEK", FONT),
        ):
            with self.subTest(text):
                self.assertEqual(lacking(text), "")
                self.assertIn(font, {run.font.removeprefix("Noto Sans ") if font != FONT else run.font for run in runs(text)})
        self.assertEqual(lacking(CHINESE), "")
        self.assertEqual(set(others_needed(f"<p>{HEBREW} {KOREAN}</p>")), {"Noto Sans Hebrew", "Noto Sans KR"})
        self.assertEqual(others_needed("<p>plain</p>"), {})

    def test_from_right_to_left(self) -> None:
        # Unicode Standard Annex 9, by the examples of its section 3: capitals there stand for letters of right to left.
        order = "".join(run.text for run in runs("car is אבג"))
        self.assertEqual(order, "car is גבא")
        self.assertEqual("".join(run.text for run in runs(HEBREW)), HEBREW[::-1])
        # Numbers keep their order within.
        self.assertEqual("".join(run.text for run in runs("אבג 123")), "123 גבא")

    def test_arabic_letters_join(self) -> None:
        # The Unicode Standard, 9.2: lam and alef make one form; meem at the beginning is U+FEE3, dal at the end U+FEAA.
        self.assertEqual("".join(run.text for run in runs("لا")), "\ufefb")
        self.assertEqual("".join(run.text for run in runs("محمد"))[::-1], "\ufee3\ufea4\ufee4\ufeaa")

    def test_mixed_lines_are_as_wide_as_they_are_set(self) -> None:
        for text in (f"OSTROM & {JAPANESE}", f"{KOREAN}, C/O {CHINESE}", "PLAIN"):
            self.assertAlmostEqual(text_width(text, 10), sum(text_width(one, 10) for one in text), delta=0.01)
        self.assertEqual(text_width("", 10), 0)

    def test_read_back(self) -> None:
        for text in (JAPANESE, KOREAN, CHINESE, f"OSTROM {JAPANESE} 12"):
            self.assertEqual(drawn(text), text)
        # Readers differ in what they make of an order from right to left; the letters of each word are these.
        self.assertIn(sorted(drawn(HEBREW).split()), (sorted(HEBREW.split()), sorted(HEBREW[::-1].split())))

    def test_what_no_typeface_has_is_refused_and_told(self) -> None:
        self.assertEqual(lacking("OSTROM 😀 ꙮ 😀"), "😀ꙮ")
        address = Address(kind=AddressKind.STREET, street="103 CAPSTAN ST", city="ALDER BAY", state="WI", zip5="53301")

        def piece(pk: int, name: str) -> Piece:
            return Piece(pk, (name, "103 CAPSTAN ST", "ALDER BAY WI 53301"), address)

        room, pieces = LabelFit(SHEETS["letter-30"]), [piece(1, "OSTROM 😀"), piece(2, CHINESE), piece(3, ARABIC)]
        self.assertEqual([room(one.lines) for one in pieces], [(Reason.CAN_NOT_PRINT, "😀 (U+1F600)"), None, None])
        labels = room.labels(pieces[1:])
        self.assertIn(CHINESE, PdfReader(io.BytesIO(write_labels(labels, SHEETS["letter-30"]))).pages[0].extract_text())
