"""Every trait is known to all that read the catalogue: editor, suggestions, table, file, explanation, fill rates, commands."""

from __future__ import annotations

import csv
import io
import json

from django.core.management import call_command
from django.core.management.base import CommandError

from jaded_ledger.contacts import contact_file
from jaded_ledger.contacts.contact_file import FileLayout
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE, shown
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.core.facts.columns import derive_columns
from jaded_ledger.core.facts.explanations import EXPLAINERS
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.record import CountyRules, RecordedParcel
from jaded_ledger.find.compiler import _BY_KIND, compile
from jaded_ledger.find.explanations import explained
from jaded_ledger.find.fill import fills
from jaded_ledger.find.line_editor import editor_of
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.results import rows, value_of, with_values
from jaded_ledger.find.suggestions import browse, suggest
from jaded_ledger.find.team_traits import team_traits
from jaded_ledger.records.models import County, FillRate, Parcel
from jaded_ledger.records.own_columns import traits_of
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough


def run(*words: str) -> str:
    out = io.StringIO()
    call_command(*words, stdout=out)
    return out.getvalue()


class EveryTrait(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.traits = traits_of(County.objects.all())
        cls.compiled = compile(Search(), cls.scope)
        cls.fills = fills(cls.compiled.counties)
        cls.sample = list(Parcel.objects.order_by("id").values_list("id", flat=True)[::89])

    def test_there_are_more_than_a_hundred_in_every_section(self) -> None:
        self.assertGreater(len(list(CATALOGUE)), 100)
        self.assertEqual(len({trait.section for trait in CATALOGUE}), 9)

    def test_a_declaration_says_what_it_needs(self) -> None:
        for trait in CATALOGUE:
            with self.subTest(trait.key):
                self.assertTrue(trait.label and trait.meaning and trait.source)
                declared = team_traits().get(trait.key)
                has_own = declared and declared.condition
                self.assertTrue(has_own or trait.kind in _BY_KIND)
                self.assertEqual(trait.key, trait.key.casefold())
                # What a team names itself is declared nowhere.
                is_named = trait.of_team and trait.kind is Kind.SET
                self.assertEqual(bool(trait.choices), trait.kind in (Kind.CHOICE, Kind.SET) and trait.key != "exemptions" and not is_named)
                self.assertEqual(len({choice.code for choice in trait.choices}), len(trait.choices))
        words = [name for trait in CATALOGUE for name in (trait.key, trait.label)]
        self.assertEqual(len({trait.label for trait in CATALOGUE}), len(list(CATALOGUE)), "no two are called the same")
        self.assertTrue(words)

    def test_what_is_derived_has_somebody_to_explain_it(self) -> None:
        derived = {trait.key for trait in CATALOGUE if trait.rule}
        by_teams = team_traits().keys()
        self.assertEqual(derived - by_teams, EXPLAINERS.keys() & derived)
        self.assertEqual(by_teams & EXPLAINERS.keys(), set())
        self.assertEqual(EXPLAINERS.keys() - {trait.key for trait in CATALOGUE}, set())

    def test_what_a_team_keeps_is_declared_whole(self) -> None:
        for key, declared in team_traits().items():
            with self.subTest(key):
                self.assertIs(CATALOGUE[key], declared.trait)
                self.assertTrue(declared.trait.of_team)
                self.assertEqual(bool(declared.trait.event), declared.event is not None)
                self.assertIn(declared.trait.fact, declared.columns)

    def test_nothing_on_record_gives_no_facts(self) -> None:
        """Unknown is never zero: a parcel of a county without any file has not one fact."""
        columns = derive_columns(Findings(RecordedParcel(CountyRules()), self.scope.today))
        texts = ("", ())
        self.assertEqual({name: value for name, value in columns.items() if value is not None and value not in texts}, {})

    @thorough
    def test_the_box_offers_it_and_its_editor_opens(self) -> None:
        offered = {one.trait.key for _, group in browse(self.fills) for one in group}
        for trait in (one for one in self.traits if one.key != "county"):
            with self.subTest(trait.key):
                self.assertIn(trait.key, offered)
                offer = suggest(trait.label, self.compiled, self.fills, (), self.scope)
                self.assertIn(trait.key, [one.trait.key for one in offer.found])
                editor = editor_of(trait, None, "", "", self.compiled, self.fills[trait.key])
                if trait.choices:
                    self.assertEqual([option.value for option in editor.options], [choice.key for choice in trait.choices])

    def test_it_is_shown_sorted_and_exported(self) -> None:
        keys = [trait.key for trait in self.traits]
        for start in range(0, len(keys), 20):
            columns = keys[start : start + 20]
            found = rows(self.compiled.matches, columns, f"-{columns[0]}", 1)
            self.assertEqual({len(row.cells) for row in found}, {len(columns)})
            one = self.compiled.opening.filter(parcel__number="12-018-020")
            header, line = csv.reader(io.StringIO("".join(contact_file.lines(one, FileLayout(tuple(columns), keys=True), self.scope))))
            self.assertEqual(header, columns)
            facts = with_values(one, [CATALOGUE[key] for key in columns]).select_related("county", "parcel").get()
            for key, cell in zip(columns, line, strict=True):
                value = value_of(facts, CATALOGUE[key])
                self.assertEqual(value is None, cell == "", key)
                self.assertTrue(shown(CATALOGUE[key], value))

    def test_its_fill_is_measured(self) -> None:
        for county in County.objects.all():
            measured = set(FillRate.objects.filter(county=county).values_list("trait", flat=True))
            self.assertEqual(measured, {trait.key for trait in traits_of([county])} - {trait.key for trait in CATALOGUE if trait.of_team})

    def some_parcels(self, trait) -> list[Parcel]:
        """Return a parcel that has a value, one of which it is unknown, and one that has none of it, as far as there are such."""
        found: dict[str, int] = {}
        for facts in with_values(parcels(self.scope).filter(parcel__in=self.sample).select_related("county", "parcel"), [trait]):
            value = value_of(facts, trait)
            kind = "unknown" if value is None else NONE if value in (NONE, ()) else "value"
            found.setdefault(kind, facts.parcel_id)
            if len(found) == (3 if trait.rule else 1):
                break
        return list(Parcel.objects.filter(pk__in=found.values()).select_related("county"))

    @thorough
    def test_it_explains_itself(self) -> None:
        for trait in self.traits:
            for parcel in self.some_parcels(trait):
                with self.subTest(f"{trait.key} of {parcel}"):
                    found = explained(parcel, trait, self.scope)
                    self.assertTrue(found.rule)
                    self.assertTrue(found.lines or found.closing)
                    for line in found.lines:
                        self.assertEqual(len(line.rows), len(set(line.entry.sources)), "each source is a row on record")


class NoSaleOnRecord(DemoTestCase):
    def test_it_is_the_last_sale_that_is_unknown_for_want_of_one(self) -> None:
        """An earlier sale may lie before the deeds begin, so none on record says nothing of when it last sold."""

        def count(text: str) -> int:
            return compile(parse(text), self.scope).matches.count()

        none = count("never-sold: yes")
        self.assertGreater(none, 0)
        self.assertEqual(count("never-sold: yes\nlast-sale: unknown"), none)
        self.assertEqual(count("no sale on record: yes"), none)
        self.assertEqual(count("never-sold: yes\nlast-sale: before 2020-01-01"), 0)
        self.assertEqual(count("never-sold: no\nlast-sale: unknown"), 0)
        self.assertEqual(CATALOGUE["never-sold"].label, "no sale on record")


class Commands(DemoTestCase):
    def test_traits_as_json(self) -> None:
        told = {load["key"]: load for load in json.loads(run("traits", "--format", "json"))}
        self.assertEqual(set(told), {trait.key for trait in traits_of(County.objects.all())})
        self.assertEqual(told["mailing-distance"]["unit"], "mi")
        self.assertIn("absentee", told["owner-occupied"]["synonyms"])
        self.assertLessEqual({"key", "section", "kind", "unit", "meaning", "synonyms"}, told["equity"].keys())

    def test_traits_as_a_table(self) -> None:
        table = run("traits")
        for trait in CATALOGUE:
            self.assertRegex(table, rf"(?m)^  {trait.key} ")
        self.assertIn("loan-balance", run("traits", "mortgage"))
        with self.assertRaisesRegex(CommandError, "no trait has"):
            run("traits", "xyzzy")

    def test_explain(self) -> None:
        told = run("explain", "tamarack/12-018-020", "equity")
        for part in ("equity: $", "− open loan balances", "Involuntary liens", "liens.csv:"):
            self.assertIn(part, told)
        as_json = json.loads(run("explain", "12-018-020", "loan-balance", "--format", "json"))
        self.assertEqual(as_json["trait"], "loan-balance")
        self.assertTrue(any(line["rows"] for line in as_json["lines"]))

    def test_explain_says_what_is_wrong(self) -> None:
        for words, says in [
            (("12-018-020", "equitty"), "did you mean equity"), (("99-999-999", "equity"), "no parcel on record has the number"),
            (("!!", "equity"), "is not a parcel number"),
        ]:  # fmt: skip
            with self.assertRaisesRegex(CommandError, says):
                run("explain", *words)
