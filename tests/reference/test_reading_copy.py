"""The reading copy against PostgreSQL: whatever both are asked, they answer the same.

Searches of every trait and kind, counted from the copy, are judged in ``test_brute_force``.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from jaded_ledger.charts.by_area import by_area
from jaded_ledger.charts.distribution import distribution, may_be_distributed
from jaded_ledger.charts.scatter import scatter
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Criterion, Presence
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.compiler import Compiled, compile, condition, unknown_of
from jaded_ledger.find.reading_copy import check_in_copy, in_copy
from jaded_ledger.find.search_page import BY_OWNER, SearchPage
from jaded_ledger.find.sorting import in_order, sorted_by, sorts_from
from jaded_ledger.find.spread import spread_of
from jaded_ledger.find.totals import totals
from jaded_ledger.find.value_counts import commonest_names, counts_of_names, tally_of_absence, value_counts
from jaded_ledger.records.trait_columns import FEW, column_of
from tests.support.copies import CopiesTestCase
from tests.support.tiers import thorough


@thorough
class EveryTrait(CopiesTestCase):
    def asked_both(self, compiled: Compiled, values: list[str], what: str, ask: Callable[[Compiled], Any]) -> None:
        check_in_copy(values)
        with self.subTest(what):
            self.assertEqual(ask(in_copy(compiled)), ask(compiled))

    def copied_traits(self) -> list[Trait]:
        return [trait for trait in CATALOGUE if not trait.is_own and not trait.of_team]

    def test_every_column_of_the_facts_is_copied(self) -> None:
        for trait in self.copied_traits():
            with self.subTest(trait.key):
                check_in_copy([column_of(trait)])

    def test_what_editors_and_feet_count(self) -> None:
        some = compile(parse("county: Pike Hollow\nbeds: 3..\nowner-occupied: no, or unknown"), self.scope)
        for trait in self.copied_traits():
            values = [column_of(trait), *filter(None, (trait.event, trait.of_several))]
            absent = unknown_of(trait)
            self.asked_both(some, values, f"absence of {trait.key}", lambda c, t=trait, q=absent: tally_of_absence(c.matches, t, q))
            self.asked_both(some, values, f"foot of {trait.key}", lambda c, t=trait: totals(c.matches, [t]))
            if trait.kind in FEW:
                self.asked_both(some, values, f"values of {trait.key}", lambda c, t=trait: value_counts(c.matches, t))
            if trait.kind is Kind.NAME:
                self.asked_both(some, values, f"names of {trait.key}", lambda c, t=trait: commonest_names(c.matches, t, 12))
                names = [text for text, _ in commonest_names(some.matches, trait, 3)]
                self.asked_both(some, values, f"counts of {trait.key}", lambda c, t=trait, n=names: counts_of_names(c.matches, t, n))
            if trait.is_range:
                self.asked_both(some, values, f"bars of {trait.key}", lambda c, t=trait: spread_of(c.matches, t))

    def test_every_chart(self) -> None:
        some = compile(parse("county: Pike Hollow\nbeds: 3.."), self.scope)
        place, other = CATALOGUE["zip"], CATALOGUE["living-area"]
        for trait in self.copied_traits():
            values = [column_of(trait)]
            if trait.is_range:
                self.asked_both(some, values, f"{trait.key} by area", lambda c, t=trait: by_area(c.matches, t, place, 5))
                self.asked_both(some, values, f"{trait.key} scattered", lambda c, t=trait: scatter(c.matches, t, other, 5))
            if may_be_distributed(trait):
                self.asked_both(some, values, f"distribution of {trait.key}", lambda c, t=trait: distribution(c.matches, t, 5, c.opening))

    def test_every_order_with_its_unknowns(self) -> None:
        some = compile(parse("county: Odell Marsh\nlot-sqft: ..20000, or unknown"), self.scope)
        for trait in self.copied_traits():
            if trait.kind is Kind.PHRASES:
                continue
            for sort in (trait.key, f"-{trait.key}"):
                values = [sorted_by(one) for one in sorts_from(sort)]
                ids = lambda c, s=sort: list(in_order(c.matches, s).values_list("pk", flat=True))  # noqa: E731
                self.asked_both(some, values, f"in the order of {sort}", ids)

    def test_presence_and_absence_of_every_trait(self) -> None:
        everything = compile(parse("county: Odell Marsh"), self.scope)
        for trait in self.copied_traits():
            asked = [Criterion(trait.key, (), (), True)]
            if trait.has_none or trait.kind is Kind.SET:
                asked += [Criterion(trait.key, (Presence(there),), (), unknown) for there in (True, False) for unknown in (True, False)]
            for criterion in asked:
                one = everything.also(condition(criterion, everything.counties, self.scope))
                ids = lambda c: list(c.matches.order_by("pk").values_list("pk", flat=True))  # noqa: E731
                self.asked_both(one, [], f"{criterion}", ids)

    def test_a_page_of_rows_and_of_owners(self) -> None:
        columns = ("owner-name", "county", "class", "owner-occupied", "estimated-value", "last-sale", "last-sale-price", "days-on-market",
                   "area-price", "zip", "exemptions", "ltv")  # fmt: skip
        for search, sort in (("beds: 3..", "-estimated-value"), ("owner-name: llc", "owner-name"), ("", "street"), ("zip: unknown", "")):
            for by in ("", BY_OWNER):
                for page in (1, 3):
                    with self.subTest(f"{search} {sort} {by} {page}"):
                        asked = SearchPage(parse(search), columns=columns, sort=sort, page=page, by=by)
                        copied = Answer(asked, self.scope)
                        found = copied.rows, copied.owner_rows, copied.owners, copied.pages
                        with self.without_copies():
                            told = Answer(asked, self.scope)
                            self.assertEqual(found, (told.rows, told.owner_rows, told.owners, told.pages))
