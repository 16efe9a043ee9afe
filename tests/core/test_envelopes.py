"""Envelopes: their sizes, and where the recipient's lines stand.

The zone is that of USPS Domestic Mail Manual 202 (letters), from memory: its bottom ⅝ in and its top 2¾ in above the lower edge, half an
inch from the right one. Sizes of envelopes are common practice.
"""

from __future__ import annotations

import unittest
from io import BytesIO

import pypdf

from jaded_ledger.core.mail.envelopes import ENVELOPES, baselines, fits_envelope, type_size, write_envelopes
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.core.mail.typesetting import text_width

INCH = 72
TO = ("HELEN OSTROM", "418 CAPSTAN ST", "ALDER BAY WI 53301")
USUAL, SMALLEST = 12.0, 8.0


class Envelopes(unittest.TestCase):
    def test_they_are_as_large_as_they_are_called(self) -> None:
        sizes = {key: tuple(side / INCH for side in one.size) for key, one in ENVELOPES.items()}
        self.assertEqual(sizes, {"no-10": (9.5, 4.125), "6x9": (9, 6)})

    def test_lines_are_as_large_as_fits_and_none_is_smaller_than_eight_points(self) -> None:
        for envelope in ENVELOPES.values():
            room = envelope.size[0] - INCH / 2 - envelope.left
            self.assertEqual(type_size(TO, envelope), USUAL)
            # A line of as many letters as have room at a size has that size; one letter more is set half a point smaller.
            for size in (USUAL, 10.0, SMALLEST):
                count = next(count for count in range(1, 999) if text_width("M" * (count + 1), size) > room)
                self.assertEqual(type_size(("M" * count, *TO[1:]), envelope), size)
                self.assertLess(type_size(("M" * (count + 1), *TO[1:]), envelope), size)
            reason, _ = fits_envelope(envelope)(("M" * 999, *TO[1:])) or (None, "")
            self.assertEqual(reason, Reason.TOO_LONG)
            self.assertIsNone(fits_envelope(envelope)(TO))

    def test_too_many_lines_do_not_fit(self) -> None:
        envelope = ENVELOPES["no-10"]
        # The zone is 153 pt high: fifteen lines of 8½ pt, at a lead of 1.2, are just as high.
        self.assertEqual(type_size(("A",) * 15, envelope), 8.5)
        self.assertEqual(type_size(("A",) * 16, envelope), 0)

    def test_the_block_stands_in_the_middle_of_the_zone(self) -> None:
        for lines in (TO, TO[:1], (*TO, "X", "Y")):
            found = baselines(lines, USUAL)
            self.assertEqual(found, sorted(found, reverse=True))
            # Capitals are some seven tenths as high as their type.
            self.assertAlmostEqual((found[0] + found[-1] + 0.7 * USUAL) / 2, (2.75 + 0.625) / 2 * INCH, delta=0.5)

    def test_on_paper(self) -> None:
        content = write_envelopes([TO, TO[:2]], ENVELOPES["no-10"], ("Lantern Street Realty", "12 Lantern St"), ("A2-1", "A2-2"))
        pages = pypdf.PdfReader(BytesIO(content)).pages
        self.assertEqual(len(pages), 2)
        for page, lines in zip(pages, (TO, TO[:2]), strict=True):
            at: dict[str, tuple[float, float]] = {}
            page.extract_text(visitor_text=lambda text, _, matrix, *__, at=at: at.setdefault(text.strip(), (matrix[4], matrix[5])))
            for line in lines:
                left, baseline = at[line]
                self.assertGreaterEqual(left, INCH / 2)
                self.assertTrue(0.625 * INCH <= baseline <= 2.75 * INCH, line)
            # The sender is at the top left, its second line below its first, and clear of the edge.
            (left, first), (_, second) = at["Lantern Street Realty"], at["12 Lantern St"]
            self.assertAlmostEqual(left, INCH / 2, delta=1)
            self.assertGreater(first, second)
            self.assertTrue(float(page.mediabox.height) - INCH < second < first < float(page.mediabox.height) - 0.4 * INCH)
