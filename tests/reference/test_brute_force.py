"""Balance, count, rows, file and labels against a brute-force reading of every demo parcel, for random searches."""

from __future__ import annotations

import csv
import io
import random
import tempfile
from dataclasses import replace
from decimal import Decimal
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisCase

from jaded_ledger.comps.list_ranges import ask_for
from jaded_ledger.comps.list_ranges import compute as compute_ranges
from jaded_ledger.contacts import contact_file
from jaded_ledger.contacts.contact_file import FileLayout
from jaded_ledger.core import dates
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.core.criteria.search import (
    AnyOf,
    Center,
    Criterion,
    DistanceUnit,
    Exactly,
    FigureRange,
    Match,
    Members,
    Named,
    Numbers,
    Presence,
    Quantity,
    Ring,
    Search,
)
from jaded_ledger.core.criteria.text import format, line_text, parse, parse_line
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.mail.pieces import Addressing
from jaded_ledger.core.words import words_of
from jaded_ledger.demo.files import write_county
from jaded_ledger.demo.world import counties
from jaded_ledger.find.balance import balance, count_owners
from jaded_ledger.find.compiler import Compiled, compile
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.reading_copy import NotInCopyError, in_copy
from jaded_ledger.find.rows_by_hand import line_keeping, line_without
from jaded_ledger.find.sorting import in_order
from jaded_ledger.lists import services as lists
from jaded_ledger.mailings.mailings import plan_of
from jaded_ledger.mailings.models import Mailing
from jaded_ledger.records.models import County, Parcel
from jaded_ledger.records.own_columns import traits_of
from tests.support import brute
from tests.support.copies import CopiesTestCase
from tests.support.search_edits import struck
from tests.support.strategies import spans
from tests.support.tiers import thorough

SMALLEST_FIRST = ("Odell Marsh", "Pike Hollow", "Tamarack")


IN_POSTGRESQL = {"area-grade", "urgency"}
"""What a team's own tables tell of each parcel anew; a county's own columns are not copied either."""


@thorough
class BruteForce(HypothesisCase, CopiesTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.take_some_out()
        cls.value_some()
        cls.traits = traits_of(County.objects.all())
        cls.all = brute.parcels(cls.traits, cls.scope)
        cls.by_number = {(parcel["county"], parcel["parcel-number"]): parcel for parcel in cls.all}
        cls.seen = {}
        for trait in cls.traits:
            known = [value for parcel in cls.all if (value := parcel[trait.key]) is not None]
            cls.seen[trait.key] = [value for value in known if not (trait.has_none and value in (NONE, ()))]

    @classmethod
    def take_some_out(cls) -> None:
        """Take rows out by hand as a user would: one of them, and then more."""
        parcel_ids = list(Parcel.objects.filter(county__name="Tamarack").order_by("pk").values_list("pk", flat=True)[:31])
        one = line_without(cls.scope, None, parcel_ids[:1])
        line_without(cls.scope, one, parcel_ids)
        line_keeping(cls.scope, parse_line("beds: 3.."), {parcel_ids[0]: "", parcel_ids[9]: "the roof is new"})

    @classmethod
    def value_some(cls) -> None:
        """Have the ranges of a list computed, so that its traits have values."""
        which = lists.make_list(cls.scope, "Valued by comps")
        lists.add(cls.scope, which, Parcel.objects.filter(facts__living_area__gt=0).order_by("pk").values_list("pk", flat=True)[::150])
        ask_for(cls.scope, which)
        compute_ranges(which.pk)

    def value(self, draw: st.DrawFn, trait: Trait):
        """Draw something to ask for that some parcel has, or nearly."""
        found = self.seen[trait.key]
        if not found and trait.kind in (Kind.NUMBER, Kind.PERCENT):
            return FigureRange(Decimal(draw(st.integers(0, 50))), None)
        if trait.has_none and (not found or draw(st.integers(0, 5)) == 0):
            return Presence(draw(st.booleans()))
        one = found[draw(st.integers(0, len(found) - 1))]
        match trait.kind:
            case Kind.NUMBER | Kind.MONEY | Kind.PERCENT:
                ends = sorted([Decimal(str(one)), Decimal(str(found[draw(st.integers(0, len(found) - 1))]))])
                low, high = ends[0] + draw(st.sampled_from([0, 1, Decimal("0.5")])), ends[1]
                kinds = [Exactly(ends[0]), FigureRange(low, None), FigureRange(None, high), Exactly(low)]
                return draw(st.sampled_from(kinds + ([FigureRange(low, high)] if low <= high else [])))
            case Kind.DATE:
                return draw(spans)
            case Kind.FLAG:
                return Exactly(one)
            case Kind.RING:
                low, high = draw(st.sampled_from([(None, "0.25"), ("0.1", "1.5"), ("2", None), (None, "12")]))
                at = f"{one[1] + draw(st.sampled_from([0, 0.004])):.6f}, {one[0]:.6f}"
                ends = (None if end is None else Decimal(end) for end in (low, high))
                return Ring(*ends, draw(st.sampled_from(DistanceUnit)), Center.POINT, at)
            case Kind.CHOICE | Kind.PLACE:
                return Exactly(draw(st.sampled_from([one, one, *(umbrella.key for umbrella in trait.umbrellas)])))
            case Kind.SET:
                other = found[draw(st.integers(0, len(found) - 1))]
                words = [one[0], *(umbrella.key for umbrella in trait.umbrellas)]
                return Members(draw(st.sampled_from(Quantity)), tuple(dict.fromkeys((draw(st.sampled_from(words)), other[-1]))))
            case Kind.PHRASES:
                words = [*words_of(one), "as", "is"]
                at = draw(st.integers(0, len(words) - 2))
                phrases = (f"{words[at]} {words[at + 1]}", f"{words[at][:3]}*", "no such phrase")
                return Members(draw(st.sampled_from(Quantity)), phrases[: draw(st.integers(1, 3))])
            case Kind.PARCEL_NUMBER:
                # Not every county parts its numbers: what is no pattern there holds for none of it.
                book, page, lot = one[:2], one[3:6], one[7:10]
                return Numbers(draw(st.sampled_from([one, f"{book}-*", f"{book}-{page}", f"{book}-{page}-{lot}..999", "99-*"])))
        words = one.split()
        word = words[draw(st.integers(0, len(words) - 1))].strip(",") or one
        return draw(
            st.sampled_from(
                [Named(one, Match.EXACT), Named(word), Named(" ".join(words[:2])), Named(one[:4], Match.BEGINNING), Named("zzz")]
            )
        )

    def criterion(self, draw: st.DrawFn) -> Criterion:
        trait = draw(st.sampled_from([trait for trait in self.traits if trait.key != "county"]))
        accepts = tuple(self.value(draw, trait) for _ in range(draw(st.integers(0, 2))))
        refuses = tuple(self.value(draw, trait) for _ in range(draw(st.integers(0, 1))))
        # What is refused of a text or a set is refused whichever there is.
        refuses = tuple(replace(refuse, quantity=Quantity.ANY) if isinstance(refuse, Members) else refuse for refuse in refuses)
        unknown = draw(st.booleans()) or not (accepts or refuses)
        return Criterion(trait.key, accepts, refuses, unknown)

    def search(self, draw: st.DrawFn) -> Search:
        lines = []
        for _ in range(draw(st.integers(0, 6))):
            is_struck = draw(st.integers(0, 4)) == 0
            if draw(st.integers(0, 3)) == 0:
                members = tuple(self.criterion(draw) for _ in range(draw(st.integers(1, 3))))
                lines.append(AnyOf(members, is_struck))
            else:
                lines.append(self.criterion(draw))
                if is_struck:
                    lines[-1] = struck(Search((), (lines[-1],)), 0).lines[0]
        return Search((), tuple(lines))

    @settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.data())
    def test_balance_count_and_owners(self, data) -> None:
        search = self.search(data.draw)
        text = format(search)
        compiled = compile(parse(text), self.scope)
        found = balance(compiled)
        judged = brute.Judged(search, self.all, self.scope.today)
        expected = judged.matches
        self.assertEqual(found.opening, len(self.all))
        self.assertEqual(found.matches, len(expected), text)
        self.assertEqual(compiled.matches.count(), len(expected), text)
        self.assertEqual(count_owners(compiled), len({p["owner-id"] for p in expected} - {None}), text)
        self.assertEqual(
            [(line.removed, line.unknown, line.balance, line.if_struck) for line in found.lines],
            judged.balance(),
            text,
        )

    @thorough
    @settings(max_examples=8, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.data())
    def test_rows_file_and_labels(self, data) -> None:
        search = self.search(data.draw)
        parcels = compile(search, self.scope).matches
        expected = brute.Judged(search, self.all, self.scope.today).matches
        trait = CATALOGUE[data.draw(st.sampled_from([t.key for t in self.traits if t.kind not in (Kind.CHOICE, Kind.RING)]))]
        columns = ("county", "parcel-number", "owner-name", trait.key)
        rows = csv.DictReader(
            io.StringIO("".join(contact_file.lines(in_order(parcels, trait.key), FileLayout(columns, keys=True), self.scope)))
        )
        written = [((row["county"], row["parcel-number"]), row[trait.key]) for row in rows]
        self.assertEqual(sorted(written), sorted(((p["county"], p["parcel-number"]), contact_file.cell(p[trait.key])) for p in expected))
        values = [self.by_number[number][trait.key] for number, _ in written]
        nothing = (None, NONE) if trait.event else (None,)
        known = [value for value in values if value not in nothing]
        self.assertEqual(known, values[: len(known)], "what is unknown, or none, stands last")
        if trait.kind not in (Kind.NAME, Kind.PLACE, Kind.PARCEL_NUMBER, Kind.PHRASES, Kind.SET):
            self.assertEqual(known, sorted(known))
        to = data.draw(st.sampled_from(Addressing))
        made = plan_of(Mailing(to=to), parcels, {}, self.scope).made
        self.assertEqual(made.parcels, len(expected))
        kept = {piece.parcel_id for piece in made.pieces} | {refusal.parcel_id for refusal in made.refusals}
        self.assertEqual(kept, {p["id"] for p in expected})
        if to.is_for_owner:
            owners = {p["id"]: p["owner-id"] for p in expected}
            mailed = [owners[piece.parcel_id] for piece in made.pieces]
            self.assertEqual(len(mailed), len(set(mailed)), "one piece an owner")
        places = [piece.address.household_key for piece in made.pieces]
        self.assertEqual(len(places), len(set(places)), "one piece a household")

    def one_value(self, trait: Trait, found: list, place: int):
        """Return something to ask for that a parcel has."""
        one = found[place % len(found)]
        match trait.kind:
            case Kind.NUMBER | Kind.MONEY | Kind.PERCENT:
                return FigureRange(Decimal(str(one)), None) if place % 2 else Exactly(Decimal(str(one)))
            case Kind.DATE:
                return dates.Since(one) if place % 2 else dates.On(one)
            case Kind.SET:
                return Members(Quantity.ANY, one[:1])
            case Kind.RING:
                return Ring(None, Decimal(place) / 10, DistanceUnit.MILES, Center.POINT, f"{one[1]}, {one[0]}")
            case Kind.PHRASES:
                return Members(Quantity.ANY, (" ".join(words_of(one)[:2]),))
            case Kind.PARCEL_NUMBER:
                return Numbers(one)
            case Kind.NAME:
                return Named(one, Match.EXACT) if place % 2 else Named(one.split()[0])
        return Exactly(one)

    @thorough
    def test_every_trait_is_asked_in_every_way(self) -> None:
        """Each trait: two values, each refused, with and without the unknown; its blanks; and whether there is such a thing at all."""
        by_county = {county: [parcel for parcel in self.all if parcel["county"] == county] for county in SMALLEST_FIRST}
        in_postgresql = set()
        for trait in (one for one in self.traits if one.key != "county"):
            # A small county tells as much as all of them, of what it has.
            found = {
                county: [value for parcel in among if (value := parcel[trait.key]) not in (None, NONE, ())]
                for county, among in by_county.items()
            }
            county = next((county for county, values in found.items() if len(values) > 9), "Tamarack")
            among, seen = by_county[county], found[county]
            asked = [Criterion(trait.key, unknown=True)]
            if trait.has_none:
                asked += [Criterion(trait.key, (Presence(there),)) for there in (True, False)]
                asked += [Criterion(trait.key, refuses=(Presence(is_there=True),))]
            elif trait.takes_any and not trait.zero_is_none:
                asked += [Criterion(trait.key, (Presence(is_there=True),)), Criterion(trait.key, refuses=(Presence(is_there=True),))]
            for place in (7, 12) if seen else ():
                value = self.one_value(trait, seen, place)
                if place == 12:
                    asked.append(Criterion(trait.key, (value,)))
                    continue
                asked += [
                    Criterion(trait.key, (value,)),
                    Criterion(trait.key, (value,), unknown=True),
                    Criterion(trait.key, refuses=(value,)),
                ]
            for criterion in asked:
                text = line_text(criterion)
                with self.subTest(text):
                    self.assertEqual(parse_line(text), criterion)
                    search = Search((county,), (criterion,))
                    compiled = compile(search, self.scope)
                    found = balance(compiled)
                    judged = brute.Judged(search, among, self.scope.today)
                    self.assertEqual(found.matches, len(judged.matches))
                    self.assertEqual(compiled.matches.count(), len(judged.matches), "PostgreSQL, where the copy was counted")
                    if criterion.accepts and not criterion.unknown and not self.is_copied(compiled):
                        in_postgresql.add(trait.key)
                    self.assertEqual([(line.removed, line.unknown, line.balance, line.if_struck) for line in found.lines], judged.balance())

        own = {trait.key for trait in self.traits if trait.is_own}
        self.assertEqual(in_postgresql - own, IN_POSTGRESQL, "what the reading copy can't be asked")

    def is_copied(self, compiled: Compiled) -> bool:
        try:
            in_copy(compiled)
        except NotInCopyError:
            return False
        return True

    def test_most_traits_have_values_in_the_demo(self) -> None:
        empty = {trait.key for trait in self.traits if not self.seen[trait.key]}
        # Elevations are an installation's own; tests/apps/test_backgrounds brings some.
        self.assertEqual(empty, {"elevation", "slope"}, "a trait that no demo parcel has can't be tried")

    @thorough
    def test_every_trait_sorts_both_ways(self) -> None:
        for trait in (one for one in self.traits if one.kind is not Kind.RING):
            for sort in (trait.key, f"-{trait.key}"):
                self.assertEqual(len(in_order(parcels(self.scope), sort).values_list("parcel_id")[:20]), 20)

    @thorough
    def test_facts_against_the_files_they_came_from(self) -> None:
        """What the rolls say must arrive as it was written; a dozen columns of two hundred parcels a county."""
        for county in counties():
            with tempfile.TemporaryDirectory() as folder:
                write_county(Path(folder), county.key, county.share)
                with (Path(folder) / county.key / "roll.csv").open(newline="") as handle:
                    roll = {row["parcel_number"]: row for row in csv.DictReader(handle)}
            here = [parcel for parcel in self.all if parcel["county"] == county.name]
            self.assertEqual(len(roll), len(here))
            for parcel in random.Random(1).sample(here, 200):
                self.assert_arrived(parcel, roll[parcel["parcel-number"]])

    def assert_arrived(self, parcel: brute.Parcel, row: dict[str, str]) -> None:
        for trait, column in [
            ("class", "class"), ("beds", "beds"), ("living-area", "living_area"), ("year-built", "year_built"),
            ("owner-name", "owner"), ("street", "street"), ("house-number", "house_number"), ("zip", "zip"), ("city", "city"),
            ("municipality", "municipality"), ("subdivision", "subdivision"), ("improvement-value", "improvement_value"),
        ]:  # fmt: skip
            recorded = row[column].removesuffix(".0")
            if trait == "class" and not recorded:
                # Told by its use.
                continue
            self.assertEqual(str(parcel[trait]) if parcel[trait] is not None else "", recorded, (trait, row))
        if row["land_value"] and row["improvement_value"]:
            self.assertEqual(parcel["assessed-value"], float(row["land_value"]) + float(row["improvement_value"]))
        if row["lot_acres"] and float(row["lot_acres"]):
            self.assertAlmostEqual(parcel["lot-acres"], float(row["lot_acres"]), delta=0.006)
        for trait in self.traits:
            if trait.is_own and parcel["county"].casefold().replace(" ", "-") == trait.key.partition("/")[0]:
                written = row[trait.label].casefold() if trait.choices else row[trait.label]
                self.assertEqual("" if parcel[trait.key] is None else str(parcel[trait.key]), written)
