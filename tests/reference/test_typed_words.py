"""What people type, and what it must become: a criterion, a trait whose editor opens, or an error that says what would do.

The table has its sources beside it: names and values of the RESO Data Dictionary 2.0 (from memory), slips as the dictionary of the
package codespell lists them, and what practitioners say (common practice), written down before any of it was understood.
"""

from __future__ import annotations

import csv
from collections import Counter
from pathlib import Path

from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse_line
from jaded_ledger.find.suggestions import first_of, offered
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

TABLE = Path(__file__).with_name("typed_words.tsv")


def rows() -> list[dict[str, str]]:
    with TABLE.open() as lines:
        return list(csv.DictReader(lines, delimiter="\t", quoting=csv.QUOTE_NONE))


@thorough
class TypedWords(DemoTestCase):
    def become(self, typed: str) -> str:
        """Return what Enter makes of a text in the box: a line, a trait's key, or the error after a question mark."""
        try:
            if ":" in typed:
                return line_text(parse_line(typed))
            first = first_of(offered(typed, Search(), self.scope), typed)
        except CriteriaError as error:
            return f"? {error}"
        return first.line or first.trait.key

    def assert_becomes(self, typed: str, wanted: str) -> None:
        got = self.become(typed)
        if wanted.startswith("? "):
            self.assertTrue(got.startswith("? ") and wanted[2:] in got, got)
        elif wanted.endswith("…"):
            self.assertTrue(got.startswith(wanted[:-1]), got)
        else:
            self.assertEqual(got, wanted)

    def test_each_becomes_what_it_means(self) -> None:
        for row in rows():
            with self.subTest(row["typed"]):
                self.assert_becomes(row["typed"], row["becomes"])

    def test_what_it_becomes_is_read_again_as_the_same(self) -> None:
        for row in rows():
            if ":" in row["becomes"] and "…" not in row["becomes"] and not row["becomes"].startswith("?"):
                with self.subTest(row["becomes"]):
                    self.assert_becomes(row["becomes"], row["becomes"])

    def test_half_is_published_and_half_was_set_aside(self) -> None:
        sources = Counter("aside" if "set aside" in row["source"] else "published" for row in rows())
        self.assertGreaterEqual(sum(sources.values()), 250)
        self.assertGreaterEqual(min(sources.values()), 125)
