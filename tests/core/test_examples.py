"""The worked examples in the core's docstrings, and the small rules that have no file of their own."""

from __future__ import annotations

import doctest
import importlib
import pkgutil
import re
import unittest

from hypothesis import given
from hypothesis import strategies as st

import jaded_ledger.core
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown, value_phrase
from jaded_ledger.core.criteria.text import parse_line
from jaded_ledger.core.spreadsheets import guarded, unguarded


class Examples(unittest.TestCase):
    def test_docstrings(self) -> None:
        tried = 0
        for module in pkgutil.walk_packages(jaded_ledger.core.__path__, "jaded_ledger.core."):
            result = doctest.testmod(importlib.import_module(module.name))
            self.assertEqual(result.failed, 0, module.name)
            tried += result.attempted
        self.assertGreater(tried, 10)

    @given(st.text())
    def test_a_guarded_cell_is_no_formula_and_reads_back(self, text: str) -> None:
        self.assertFalse(guarded(text).startswith(("=", "+", "-", "@", "\t", "\r")) and not re.fullmatch(r"\+[0-9]+", text))
        self.assertEqual(unguarded(guarded(text)), text)

    def test_sentences(self) -> None:
        for line, phrase in [
            ("assessed-value: 250k..", "$250,000 or more"), ("assessed-value: ..1.2m", "$1,200,000 or less"),
            ("year-built: 1900..1950", "1900 to 1950"), ("beds: 3, or unknown", "3, or not known"),
            ("class: not duplex, triplex", "not duplex, triplex"), ("last-sale: since 2020-01-31", "since 31 Jan 2020"),
            ('owner-name: "ostrom"; not "bank"', "with “ostrom”, but not with “bank”"), ("beds: unknown", "not known"),
            ('owner-name: = "TWO LAMPS HOLDINGS LLC"', "Two Lamps Holdings LLC"), ("beds: ask", "to be asked"),
        ]:  # fmt: skip
            self.assertEqual(value_phrase(parse_line(line)), phrase)

    def test_values_are_shown_as_read(self) -> None:
        for key, value, text in [
            ("assessed-value", 1284500, "$1,284,500"), ("assessed-value", -500, "−$500"), ("year-built", 1994, "1994"),
            ("baths", 2.5, "2.5"), ("baths", 2.0, "2"), ("lot-acres", 0.3, "0.3"), ("living-area", 1040, "1,040"),
            ("beds", None, "·"), ("owner-occupied", False, "no"), ("owner-name", "HEIRS OF INES TOLLIVER", "Heirs of Ines Tolliver"),
        ]:  # fmt: skip
            self.assertEqual(shown(CATALOGUE[key], value), text)
