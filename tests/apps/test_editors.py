"""What line editors offer and mean: counts against brute force, and every way to say a criterion giving the same text."""

from __future__ import annotations

from collections import Counter
from datetime import date
from decimal import Decimal
from urllib.parse import urlencode

from django.http import QueryDict
from django.urls import reverse

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.core.criteria.search import Criterion, Search
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse, parse_line
from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.core.words import folded
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.editor_fields import criterion_from
from jaded_ledger.find.fill import fills
from jaded_ledger.find.line_editor import editor_of, not_there
from jaded_ledger.records.models import County
from jaded_ledger.records.own_columns import traits_of
from tests.support import brute
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text
from tests.support.tiers import thorough

OTHERS = parse("county: Pike Hollow\nowner-occupied: no, or unknown\nyears-owned: 4.., or unknown")


def fields(**values: str | list[str]) -> QueryDict:
    query = QueryDict(mutable=True)
    for name, value in values.items():
        query.setlist(name, value if isinstance(value, list) else [value])
    return query


@thorough
class Counts(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        county = County.objects.get(name="Pike Hollow")
        cls.traits = [trait for trait in traits_of([county]) if trait.key != "county"]
        among = [parcel for parcel in brute.parcels([CATALOGUE["county"], *cls.traits], cls.scope) if parcel["county"] == "Pike Hollow"]
        cls.left = brute.Judged(OTHERS, among, cls.scope.today).matches
        cls.others = compile(OTHERS, cls.scope)
        cls.fills = fills([county])

    def test_every_editor_counts_what_brute_force_counts(self) -> None:
        self.assertGreater(len(self.left), 500)
        for trait in self.traits:
            with self.subTest(trait.key):
                editor = editor_of(trait, None, "", "", self.others, self.fills[trait.key])
                values = [one[trait.key] for one in self.left]
                known = [value for value in values if value is not None and not (trait.event and value == NONE)]
                self.assertEqual(editor.absent["unknown"], values.count(None))
                self.assertEqual(editor.absent["all"], len(values))
                if trait.event:
                    self.assertEqual(editor.absent["none"], values.count(NONE))
                if trait.is_range:
                    self.assert_bars(editor, known)
                elif trait.kind in (Kind.CHOICE, Kind.FLAG, Kind.PLACE, Kind.SET):
                    self.assert_options(editor, known)
                elif trait.kind is Kind.NAME and known:
                    counts = Counter(folded(value) for value in known)
                    self.assertEqual({folded(option.value): option.count for option in editor.options},
                                     {folded(option.value): counts[folded(option.value)] for option in editor.options})  # fmt: skip
                    self.assertEqual(editor.options[0].count, counts.most_common(1)[0][1])

    def assert_options(self, editor, known: list) -> None:
        said = Counter(
            one if isinstance(one, str) else "yes" if one else "no"
            for value in known
            for one in (value if isinstance(value, tuple) else [value])
        )
        offered = {option.value: option.count for option in editor.options}
        self.assertEqual({value: count for value, count in offered.items() if count}, dict(said))
        if editor.trait.choices:
            # What nobody has is offered too, and shown as 0.
            self.assertEqual(set(offered), {choice.key for choice in editor.trait.choices})

    def assert_bars(self, editor, known: list) -> None:
        if not known:
            self.assertIsNone(editor.picture)
            return
        self.assertEqual(editor.picture.known, len(known))
        self.assertEqual(sum(bar.count for bar in editor.picture.bars), len(known))
        read = date.fromisoformat if editor.trait.kind is Kind.DATE else Decimal
        exact = [value if isinstance(value, date) else Decimal(str(value)) for value in known]
        for bar in editor.picture.bars:
            low, high = (read(end) if end else None for end in (bar.low, bar.high))
            self.assertEqual(bar.count, sum((low is None or low <= one) and (high is None or one <= high) for one in exact), bar.reads)

    def test_a_line_is_left_out_of_what_its_own_editor_counts(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        q = "county: Pike Hollow\nclass: duplex\nowner-occupied: no"
        answer = self.client.get(f"{reverse('find:edit')}?{urlencode({'q': q, 'line': '0'})}", headers={"HX-Request": "true"})
        count = compile(parse("county: Pike Hollow\nclass: single-family\nowner-occupied: no"), self.scope).matches.count()
        self.assertIn(f" single-family {count:,} ", page_text(answer.content))


class Meanings(DemoTestCase):
    def text(self, trait: str, **values: str | list[str]) -> str:
        return line_text(criterion_from(CATALOGUE[trait], fields(**values)))

    def test_ways_to_the_same_criterion(self) -> None:
        for trait, typed, ways in (
            ("beds", "beds: 3..", [{"low": "3", "high": ""}, {"low": " 3 "}, {"as_text": "1", "raw": "3.."}]),
            ("beds", "beds: 3", [{"low": "3", "high": "3"}, {"as_text": "1", "raw": "3"}]),
            ("assessed-value", "assessed-value: 100000..249999",
             [{"low": "100k", "high": "249,999"}, {"low": "$100,000", "high": "249999"}]),
            ("class", "class: duplex, triplex", [{"tick": ["duplex", "triplex"]}, {"as_text": "1", "raw": "duplex, triplex"}]),
            ("class", "class: not duplex", [{"tick": ["duplex"], "sense": "not"}]),
            ("owner-occupied", "owner-occupied: no, or unknown", [{"tick": ["no"], "unknown": "on"}]),
            ("city", "city: Alder Bay", [{"tick": ["Alder Bay"]}, {"as_text": "1", "raw": '"Alder Bay"'}]),
            ("last-sale", "last-sale: between 2015-01-01 and 2019-12-31",
             [{"words": "between 2015-01-01 and 2019-12-31"}, {"first": "2015-01-01", "last": "2019-12-31", "words": ""}]),
            ("last-sale", "last-sale: before 2020-01-01", [{"last": "2019-12-31"}, {"words": "before 2020-01-01"}]),
            ("last-sale", "last-sale: since 2015-01-01", [{"first": "2015-01-01"}]),
            ("last-sale", "last-sale: more than 5 years ago", [{"preset": "more than 5 years ago"}, {"words": "More than 5 years ago"}]),
            ("owner-name", 'owner-name: "ostrom"*, "kelm"*', [{"words": "ostrom\n\n kelm \nostrom", "match": "beginning"}]),
            ("owner-name", 'owner-name: = "OSTROM A", = "KELM B"',
             [{"words": "OSTROM A\nKELM B", "match": "exact"}, {"tick": ["OSTROM A", "KELM B"], "words": "ostr"},
              {"tick": ["OSTROM A"], "words": "ostrom a\nKELM B", "match": "exact"}]),
            ("parcel-number", "parcel-number: 12-001-001, 12-034-*",
             [{"words": "12-001-001\n12-034-*"}, {"words": "12-001-001, 12 034 *"}]),
            ("remarks", 'remarks: any of "as is", "needs work*"; none of "as is plain"',
             [{"words": "as is\nneeds work*", "refused": "as is plain", "within": ["public", "private", "office"]},
              {"words": "as is\n\nneeds work*\n", "refused": "as is plain\n"}]),
            ("remarks", 'remarks: all of "as is", "cash" in public',
             [{"words": "as is\ncash", "quantity": "all of", "within": ["public"]}]),
            ("remarks", 'remarks: none of "as is"; or unknown', [{"refused": "as is", "unknown": "on"}]),
            ("amenities", 'amenities: all of "pool", "dock"', [{"tick": ["pool", "dock"], "quantity": "all of"}]),
            ("amenities", 'amenities: none of "pool"', [{"tick": ["pool"], "sense": "not"}]),
            ("probate", "probate: none", [{"there": "none"}]),
            ("beds", "beds: ask", [{"ask": "on", "low": ""}]),
            ("beds", "beds: ask 3..", [{"ask": "on", "low": "3"}]),
            ("beds", "beds: unknown", [{"unknown": "on"}]),
        ):  # fmt: skip
            for way in ways:
                with self.subTest(typed, way=way):
                    self.assertEqual(self.text(trait, **way), typed)
                    self.assertEqual(line_text(parse_line(typed)), typed)

    def test_what_an_editor_shows_of_a_line_means_that_line(self) -> None:
        for text in (
            "beds: 3..", "beds: ..4", "beds: 3", "class: duplex, triplex", "class: not duplex, or unknown", "owner-occupied: no",
            "last-sale: since 2015-01-01", "last-sale: before 2020-01-01", "last-sale: more than 5 years ago",
            'owner-name: "ostrom"*, "kelm"*',
            'owner-name: = "OSTROM HELEN M & PETER"', "parcel-number: 12-001-001, 12-034-*", 'remarks: all of "as is", "cash" in public',
            'remarks: any of "as is", "a, b"; none of "as is plain"; or unknown', 'amenities: none of "pool"', "probate: any",
            "beds: ask 3..",
        ):  # fmt: skip
            with self.subTest(text):
                criterion = parse_line(text)
                trait = CATALOGUE[criterion.trait]
                others = compile(Search(), self.scope)
                shown = editor_of(trait, criterion, "0", "", others, fills(others.counties)[trait.key])
                self.assertTrue(shown.is_plain)
                query = fields(
                    low=shown.low, high=shown.high, words=shown.words, refused=shown.refused, match=shown.match, there=shown.there,
                    quantity=shown.quantity, within=list(shown.within), first=shown.first, last=shown.last,
                    sense="not" if shown.is_refused else "is", tick=[option.value for option in shown.options if option.is_ticked],
                )  # fmt: skip
                for name, is_on in (("unknown", shown.unknown), ("ask", shown.ask)):
                    if is_on:
                        query[name] = "on"
                self.assertEqual(criterion_from(trait, query), criterion)

    def test_every_bar_that_is_brushed_says_what_was_brushed(self) -> None:
        others = compile(parse("county: Tamarack"), self.scope)
        known = fills(others.counties)
        for key in ("assessed-value", "beds", "equity-pct", "last-sale", "years-owned"):
            trait = CATALOGUE[key]
            bars = editor_of(trait, None, "", "", others, known[key]).picture.bars
            for first, last in ((0, 1), (1, 2), (len(bars) - 2, len(bars) - 1), (2, 2)):
                names = ("first", "last") if trait.kind is Kind.DATE else ("low", "high")
                criterion = criterion_from(trait, fields(**dict(zip(names, (bars[first].low, bars[last].high), strict=True))))
                with self.subTest(line_text(criterion)):
                    asked = compile(Search(("Tamarack",), (criterion,)), self.scope).matches.count()
                    self.assertEqual(asked, sum(bar.count for bar in bars[first : last + 1]))
                    again = editor_of(trait, criterion, "", "", others, known[key]).picture.bars
                    self.assertEqual([place for place, bar in enumerate(again) if bar.is_in], list(range(first, last + 1)))

    def test_pasted_names_that_fit_nobody_are_said(self) -> None:
        others = compile(parse("county: Tamarack"), self.scope)
        self.assertEqual(not_there(CATALOGUE["owner-name"], "ostrom\nzzyzx\nheikkinen", "words", others), ["zzyzx"])
        (wrong,) = not_there(CATALOGUE["parcel-number"], "12-001-019\n99999-1", "", others)
        self.assertIn("99999-1: ", wrong)
        self.assertEqual(not_there(CATALOGUE["owner-name"], "zzyzx", "words", others), [])

    def test_nothing_filled_in_is_said(self) -> None:
        for trait in ("beds", "class", "owner-name", "remarks", "last-sale"):
            with self.assertRaisesRegex(CriteriaError, "no value yet"):
                criterion_from(CATALOGUE[trait], fields())
        self.assertIsInstance(criterion_from(CATALOGUE["beds"], fields(low="2")), Criterion)
