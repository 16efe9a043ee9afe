"""Reports with names in other scripts: set in a typeface that has them, which is in the file; none else is."""

from __future__ import annotations

import io

from django.test import SimpleTestCase
from pypdf import PdfReader

from jaded_ledger.web.pdf import pdf_of
from tests.support.tiers import thorough


@thorough
class Typefaces(SimpleTestCase):
    def fonts(self, text: str) -> tuple[set[str], str]:
        page = PdfReader(io.BytesIO(pdf_of(f"<p>{text}</p>", "body { font-family: Plex; }", ""))).pages[0]
        return {str(font.get_object()["/BaseFont"]).partition("+")[2] for font in page["/Resources"]["/Font"].values()}, page.extract_text()

    def test_only_what_a_name_calls_for(self) -> None:
        plain, text = self.fonts("OSTROM")
        self.assertEqual(len(plain), 1)
        self.assertIn("OSTROM", text)
        for name, font in (("משה", "Hebrew"), ("محمد", "Arabic"), ("さくら", "JP"), ("김민준", "KR")):
            with self.subTest(name):
                found, text = self.fonts(f"OSTROM {name}")
                self.assertEqual(len(found), 2, found)
                self.assertTrue(any(font in one for one in found), found)
