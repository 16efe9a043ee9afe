"""Every text that people write for the core: whatever it is, it is read, or refused with the form's own error and a sentence."""

from __future__ import annotations

import unittest
from collections.abc import Callable

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.comps.lines import PoolError, parse_lines
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError, mask
from jaded_ledger.core.criteria.text import CriteriaError, format, parse
from jaded_ledger.core.deals.inputs import InputError, read_number
from jaded_ledger.core.deals.worksheet import worksheet_from_json
from jaded_ledger.core.mail.addresses import AddressKind, standardize
from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.core.phrases import check_phrase, hits
from jaded_ledger.core.spreadsheets import guarded, unguarded
from jaded_ledger.core.whole_numbers import whole_number
from tests.support.any_text import any_json, any_text
from tests.support.tiers import deep

MANY = deep(150)
traits = st.sampled_from([trait.key for trait in CATALOGUE])
_PARTS = ("exits", "inputs", "units", "repairs", "systems", "rents", "repairs-by", "payoffs")
_KEYS = ("price", "rent", "beds", "count", "name", "amount", "year", "kind", "until", "legal", "system", "months")


class AnyText(unittest.TestCase):
    def setUp(self) -> None:
        # Counties' own columns stand in the database, which the core is tested without.
        self.addCleanup(CATALOGUE.look_up_in, CATALOGUE.look_up_in(dict))

    def reads_or_says(self, read: Callable[[str], object], text: str, error: type[ValueError]) -> None:
        try:
            read(text)
        except error as wrong:
            self.assertRegex(str(wrong), r"\S+ \S+")

    @MANY
    @given(any_text)
    def test_a_search(self, text: str) -> None:
        self.reads_or_says(parse, text, CriteriaError)

    @MANY
    @given(traits, any_text)
    def test_a_line_of_any_trait_reads_back(self, trait: str, text: str) -> None:
        try:
            search = parse(f"{trait}: {text}")
        except CriteriaError as wrong:
            self.assertRegex(str(wrong), r"\S+ \S+")
        else:
            self.assertEqual(parse(format(search)), search)

    @MANY
    @given(any_text)
    def test_lines_of_a_pool(self, text: str) -> None:
        self.reads_or_says(parse_lines, text, PoolError)

    @MANY
    @given(any_text)
    def test_what_has_an_error_of_its_own(self, text: str) -> None:
        self.reads_or_says(lambda said: read_number(said, "price"), text, InputError)
        self.reads_or_says(mask, text, ParcelNumberError)
        self.reads_or_says(check_phrase, text, ValueError)

    @MANY
    @given(any_text)
    def test_what_takes_any_text(self, text: str) -> None:
        self.assertEqual(read_name(text), read_name(" ".join(text.split())))
        self.assertIn(standardize(text).kind, AddressKind)
        self.assertEqual(unguarded(guarded(text)), text)
        self.assertIn(hits(text, "as is"), (True, False))
        number = whole_number(text)
        if number is not None:
            self.assertEqual(number, int(text))

    @MANY
    @given(st.one_of(
        any_json,
        st.dictionaries(st.sampled_from(_PARTS), st.one_of(
            any_json, st.lists(st.dictionaries(st.sampled_from(_KEYS), any_json, max_size=4), max_size=3),
            st.dictionaries(st.sampled_from(_KEYS), any_json, max_size=4),
        ), max_size=4),
    ))  # fmt: skip
    def test_a_worksheet(self, said: object) -> None:
        try:
            worksheet = worksheet_from_json(said)
        except InputError as wrong:
            self.assertRegex(str(wrong), r"\S+ \S+")
        else:
            self.assertEqual(worksheet_from_json(worksheet.to_json()), worksheet)
