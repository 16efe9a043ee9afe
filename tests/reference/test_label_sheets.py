"""Where labels land on the page, read back from the PDF, against the sheets' published dimensions.

The dimensions in millimeters and inches are the makers' own as the design's table has them; Debian's ``glabels-data``
(its templates for the same sheets) is asked as a second source.
"""

from __future__ import annotations

import io
import re
import unittest
from collections.abc import Sequence
from pathlib import Path
from xml.etree import ElementTree

import pypdf

from jaded_ledger.core.mail.addresses import standardize
from jaded_ledger.core.mail.envelopes import ENVELOPES, fits_envelope, write_envelopes
from jaded_ledger.core.mail.label_pdf import LabelFit, Printing, write_alignment, write_labels
from jaded_ledger.core.mail.pieces import Piece, Reason
from jaded_ledger.core.mail.sheets import INCH, MM, PADDING, SHEETS, Sheet
from jaded_ledger.core.mail.typesetting import text_width

TENTH_MM = MM / 10
PUBLISHED = {
    # page, label, rows, columns, top, left, pitch across, pitch down
    "letter-30": (8.5 * INCH, 11 * INCH, 2.625 * INCH, 1 * INCH, 10, 3, 0.5 * INCH, 0.1875 * INCH, 2.75 * INCH, 1 * INCH),
    "letter-20": (8.5 * INCH, 11 * INCH, 4 * INCH, 1 * INCH, 10, 2, 0.5 * INCH, 0.15625 * INCH, 4.1875 * INCH, 1 * INCH),
    "letter-14": (8.5 * INCH, 11 * INCH, 4 * INCH, 4 / 3 * INCH, 7, 2, 0.8333 * INCH, 0.15625 * INCH, 4.1875 * INCH, 1.3333 * INCH),
    "letter-10": (8.5 * INCH, 11 * INCH, 4 * INCH, 2 * INCH, 5, 2, 0.5 * INCH, 0.15625 * INCH, 4.1875 * INCH, 2 * INCH),
    "letter-80": (8.5 * INCH, 11 * INCH, 1.75 * INCH, 0.5 * INCH, 20, 4, 0.5 * INCH, 0.28125 * INCH, 2.0625 * INCH, 0.5 * INCH),
    "a4-24": (210 * MM, 297 * MM, 63.5 * MM, 33.9 * MM, 8, 3, 12.9 * MM, 7.21 * MM, 66.04 * MM, 33.9 * MM),
    "a4-21": (210 * MM, 297 * MM, 63.5 * MM, 38.1 * MM, 7, 3, 15.15 * MM, 7.21 * MM, 66.04 * MM, 38.1 * MM),
}
TEMPLATES = Path("/usr/share/libglabels-3.0/templates")


PLAIN = Printing()


def printed(sheet: Sheet, count: int, printing: Printing = PLAIN, notes: Sequence[str] = ()) -> pypdf.PdfReader:
    pieces = [Piece(n, (f"NAME {n}", f"{n} CAPSTAN ST", "ALDER BAY WI 53301"), standardize(f"{n} Capstan St")) for n in range(count)]
    room = LabelFit(sheet, note=bool(notes))
    assert not any(room(piece.lines) for piece in pieces)
    return pypdf.PdfReader(io.BytesIO(write_labels(room.labels(pieces, notes), sheet, printing)))


def positions(page: pypdf.PageObject) -> dict[str, tuple[float, float]]:
    """Return where each text begins, in points from the top left."""
    found = {}
    height = float(page.mediabox.height)

    def visit(text, _ctm, matrix, _font, _size) -> None:
        if text.strip():
            found[text.strip()] = (matrix[4], height - matrix[5])

    page.extract_text(visitor_text=visit)
    return found


class Positions(unittest.TestCase):
    def test_each_label_lies_where_the_sheet_has_it(self) -> None:
        for key, (width, height, across, down, rows, columns, top, left, step_x, step_y) in PUBLISHED.items():
            sheet = SHEETS[key]
            (page,) = printed(sheet, rows * columns).pages
            self.assertAlmostEqual(float(page.mediabox.width), width, delta=TENTH_MM)
            self.assertAlmostEqual(float(page.mediabox.height), height, delta=TENTH_MM)
            places = positions(page)
            first = places["NAME 0"]
            for number in range(rows * columns):
                row, column = divmod(number, columns)
                x, y = places[f"NAME {number}"]
                self.assertAlmostEqual(x, left + column * step_x + PADDING, delta=TENTH_MM)
                self.assertAlmostEqual(y - first[1], row * step_y, delta=TENTH_MM)
                # The block's middle is the label's middle: from the first baseline to the last, and half the type around.
                middle = (y + places[f"{number} CAPSTAN ST"][1]) / 2
                self.assertTrue(top + row * step_y < middle < top + row * step_y + down)
            self.assertAlmostEqual(sheet.label[0], across, delta=TENTH_MM)

    def test_the_start_position_and_the_next_sheet(self) -> None:
        sheet = SHEETS["letter-30"]
        reader = printed(sheet, 31, Printing(start=29))
        self.assertEqual(len(reader.pages), 2)
        first = positions(reader.pages[0])
        x, y = first["NAME 0"]
        self.assertAlmostEqual(x, 0.1875 * INCH + 2.75 * INCH + PADDING, delta=TENTH_MM)
        self.assertTrue(9.5 * INCH < y < 10.5 * INCH)
        self.assertIn("NAME 2", positions(reader.pages[1]))
        self.assertNotIn("NAME 2", first)

    def test_a_printer_that_is_off_is_met(self) -> None:
        sheet = SHEETS["letter-30"]
        plain = positions(printed(sheet, 30).pages[0])
        moved = positions(printed(sheet, 30, Printing(offset=(3 * MM, -2 * MM))).pages[0])
        for text, (x, y) in plain.items():
            self.assertAlmostEqual(moved[text][0] - x, 3 * MM, delta=0.01)
            self.assertAlmostEqual(moved[text][1] - y, -2 * MM, delta=0.01)

    def test_the_small_line_stands_at_the_foot_and_nothing_lies_on_it(self) -> None:
        for sheet in SHEETS.values():
            count = sheet.count
            (page,) = printed(sheet, count, notes=[f"A2-{number}" for number in range(count)]).pages
            places = positions(page)
            for number in range(count):
                top = sheet.corner(number)[1]
                note, last = places[f"A2-{number}"][1], max(y for text, (_, y) in places.items() if text == f"{number} CAPSTAN ST")
                self.assertTrue(top + sheet.label[1] - 8 < note < top + sheet.label[1])
                self.assertLess(last + 6, note)

    def test_an_alignment_sheet_shows_every_label(self) -> None:
        for sheet in SHEETS.values():
            content = pypdf.PdfReader(io.BytesIO(write_alignment(sheet, (MM, 0)))).pages[0].get_contents().get_data().decode()
            boxes = [[float(one) for one in found] for found in re.findall(r"^n ([\d.]+) ([\d.]+) ([\d.]+) ([\d.]+) re S", content, re.M)]
            self.assertEqual(len(boxes), sheet.count)
            x, y, width, height = boxes[0]
            self.assertAlmostEqual(x, sheet.left + MM, delta=0.01)
            self.assertAlmostEqual(sheet.page[1] - y - height, sheet.top, delta=0.01)
            self.assertAlmostEqual(width, sheet.label[0], delta=0.01)

    def test_no_scaling_is_asked_for(self) -> None:
        """ISO 32000-1, 12.2, table 150: PrintScaling None."""
        preferences = printed(SHEETS["a4-21"], 1).trailer["/Root"]["/ViewerPreferences"]
        self.assertEqual(preferences["/PrintScaling"], "/None")

    def test_against_the_templates_of_glabels(self) -> None:
        def points(length: str) -> float:
            for unit, factor in (("in", INCH), ("mm", MM), ("pt", 1.0), ("pc", 12.0)):
                if length.endswith(unit):
                    return float(length.removesuffix(unit)) * factor
            return float(length or "nan")

        wanted = dict.fromkeys(PUBLISHED, False)
        for file in TEMPLATES.glob("*templates.xml"):
            for layout in ElementTree.parse(file).getroot().iter("Layout"):
                grid = {name: layout.get(name) for name in ("nx", "ny", "x0", "y0", "dx", "dy")}
                for key, (_, _, _, _, rows, columns, top, left, step_x, step_y) in PUBLISHED.items():
                    same = (int(grid["nx"]), int(grid["ny"])) == (columns, rows) and all(
                        abs(points(grid[name]) - length) < 1.0  # points; makers' drawings differ by a third of a millimeter
                        for name, length in (("x0", left), ("y0", top), ("dx", step_x), ("dy", step_y))
                    )
                    wanted[key] = wanted[key] or same
        self.assertEqual(wanted, dict.fromkeys(PUBLISHED, True))


class Envelopes(unittest.TestCase):
    """Sizes are those of the trade (No. 10 is 4⅛ × 9½ in, a booklet 6 × 9 in); zones of USPS Domestic Mail Manual 202, from memory."""

    SENDER = ("LANTERN STREET REALTY", "12 LANTERN ST", "ALDER BAY WI 53301")
    LINES = ("HELEN & PETER OSTROM", "103 CAPSTAN ST", "ALDER BAY WI 53301-0009")

    def test_the_address_stands_in_the_zone_that_machines_read(self) -> None:
        for key, (wide, high) in {"no-10": (9.5, 4.125), "6x9": (9.0, 6.0)}.items():
            reader = pypdf.PdfReader(io.BytesIO(write_envelopes([self.LINES, self.LINES[1:]], ENVELOPES[key], self.SENDER, ["A2-1", ""])))
            self.assertEqual(len(reader.pages), 2)
            page = reader.pages[0]
            self.assertEqual((float(page.mediabox.width), float(page.mediabox.height)), (wide * INCH, high * INCH))
            places = positions(page)
            for line in self.LINES[:2]:
                x, y = places[line]
                above = high * INCH - y
                self.assertGreaterEqual(x, 0.5 * INCH)
                self.assertTrue(0.625 * INCH < above < 2.75 * INCH - 8)
                self.assertLess(x + text_width(line, 12), wide * INCH - 0.5 * INCH)
            # The sender's lines end above the zone, left of it.
            self.assertTrue(all(high * INCH - places[line][1] > 2.75 * INCH for line in self.SENDER[:2]))
            self.assertEqual(reader.trailer["/Root"]["/ViewerPreferences"]["/PrintScaling"], "/None")
            self.assertNotIn("A2-1", positions(reader.pages[1]))

    def test_what_does_not_fit_is_refused(self) -> None:
        fits = fits_envelope(ENVELOPES["no-10"])
        self.assertIsNone(fits(self.LINES))
        self.assertEqual(fits(("X" * 120,))[0], Reason.TOO_LONG)
        self.assertEqual(fits(("😀",))[0], Reason.CAN_NOT_PRINT)
        # As many lines as stand in the zone at the smallest type: 2⅛ in at 9.6 pt a line.
        self.assertIsNone(fits(("X",) * 15))
        self.assertEqual(fits(("X",) * 16)[0], Reason.TOO_LONG)
