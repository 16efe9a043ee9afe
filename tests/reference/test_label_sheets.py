"""Where labels land on the page, read back from the PDF, against the sheets' published dimensions.

The dimensions in millimeters and inches are the makers' own as the design's table has them; Debian's ``glabels-data``
(its templates for the same sheets) is asked as a second source.
"""

from __future__ import annotations

import io
import unittest
from pathlib import Path
from xml.etree import ElementTree

import pypdf

from jaded_ledger.core.mail.addresses import standardize
from jaded_ledger.core.mail.label_pdf import lay_out, write_labels
from jaded_ledger.core.mail.pieces import Piece
from jaded_ledger.core.mail.sheets import INCH, MM, PADDING, SHEETS, Sheet

TENTH_MM = MM / 10
PUBLISHED = {
    # page, label, rows, columns, top, left, pitch across, pitch down
    "letter-30": (8.5 * INCH, 11 * INCH, 2.625 * INCH, 1 * INCH, 10, 3, 0.5 * INCH, 0.1875 * INCH, 2.75 * INCH, 1 * INCH),
    "a4-21": (210 * MM, 297 * MM, 63.5 * MM, 38.1 * MM, 7, 3, 15.15 * MM, 7.21 * MM, 66.04 * MM, 38.1 * MM),
}
TEMPLATES = Path("/usr/share/libglabels-3.0/templates")


def printed(sheet: Sheet, count: int, start: int = 1) -> pypdf.PdfReader:
    pieces = [Piece(n, (f"NAME {n}", f"{n} CAPSTAN ST", "ALDER BAY WI 53301"), standardize(f"{n} Capstan St")) for n in range(count)]
    labels, refused = lay_out(pieces, {}, sheet)
    assert not refused
    return pypdf.PdfReader(io.BytesIO(write_labels(labels, sheet, start)))


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
        reader = printed(sheet, 31, start=29)
        self.assertEqual(len(reader.pages), 2)
        first = positions(reader.pages[0])
        x, y = first["NAME 0"]
        self.assertAlmostEqual(x, 0.1875 * INCH + 2.75 * INCH + PADDING, delta=TENTH_MM)
        self.assertTrue(9.5 * INCH < y < 10.5 * INCH)
        self.assertIn("NAME 2", positions(reader.pages[1]))
        self.assertNotIn("NAME 2", first)

    def test_no_scaling_is_asked_for(self) -> None:
        """ISO 32000-1, 12.2, table 150: PrintScaling None."""
        preferences = printed(SHEETS["a4-21"], 1).trailer["/Root"]["/ViewerPreferences"]
        self.assertEqual(preferences["/PrintScaling"], "/None")

    def test_against_the_templates_of_glabels(self) -> None:
        def points(length: str) -> float:
            for unit, factor in (("in", INCH), ("mm", MM), ("pt", 1.0), ("pc", 12.0)):
                if length.endswith(unit):
                    return float(length.removesuffix(unit)) * factor
            return float(length)

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
