"""The demo's own files: always the same, and a larger world is more of it."""

from __future__ import annotations

import csv
import hashlib
import json
import tempfile
import unittest
from itertools import combinations
from pathlib import Path

from django.contrib.gis.geos import GEOSGeometry

from jaded_ledger.core.criteria.parcel_numbers import mask
from jaded_ledger.demo.files import write_county
from jaded_ledger.demo.world import counties, county
from tests.support.commands import run
from tests.support.tiers import thorough


class Files(unittest.TestCase):
    def written(self, key: str, parcels: int) -> Path:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        write_county(Path(folder.name), key, parcels)
        return Path(folder.name) / key

    def test_the_same_every_time(self) -> None:
        """But for workbooks, which note when they were written."""
        first, second = self.written("odell-marsh", 300), self.written("odell-marsh", 300)
        self.assertEqual({path.name for path in first.iterdir()}, {path.name for path in second.iterdir()})
        for path in first.iterdir():
            if path.suffix != ".xlsx":
                digests = {hashlib.sha256(one.read_bytes()).digest() for one in (path, second / path.name)}
                self.assertEqual(len(digests), 1, path.name)

    @thorough
    def test_a_larger_world_is_more_towns_side_by_side(self) -> None:
        folder = self.written("odell-marsh", 1_900 + 400)
        features = json.loads((folder / "parcels.geojson").read_text())["features"]
        numbers = [feature["properties"]["parcel_number"] for feature in features]
        self.assertEqual((len(numbers), len(set(numbers))), (2_300, 2_300))
        self.assertEqual({len(number) for number in numbers}, {9})
        shapes = [GEOSGeometry(json.dumps(feature["geometry"])) for feature in features]
        towns = (shapes[:1_900], shapes[1_900:])
        extents = [(min(s.extent[0] for s in town), max(s.extent[2] for s in town)) for town in towns]
        self.assertLess(extents[0][1], extents[1][0])
        self.assertTrue(all(shape.valid for shape in towns[1]))
        with (folder / "roll.csv").open(newline="") as handle:
            cities = {row["city"] for row in csv.DictReader(handle)}
        self.assertEqual(cities, {"Odell", "Odell 2"})
        with (folder / "tax-rates.csv").open(newline="") as handle:
            rates = [(row["authority"], row["year"]) for row in csv.DictReader(handle)]
        self.assertEqual(len(rates), len(set(rates)))

    def test_counties_do_not_meet(self) -> None:
        extents = []
        for one in counties():
            features = json.loads((self.written(one.key, 400) / "areas.geojson").read_text())["features"]
            whole = next(feature for feature in features if feature["properties"]["kind"] == "county")
            extents.append(GEOSGeometry(json.dumps(whole["geometry"])))
        for first, second in combinations(extents, 2):
            self.assertTrue(first.intersection(second).area < 1e-9)

    def test_the_command(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            said = run("demo_files", folder, "--parcels", "125")
            for one in counties():
                self.assertIn(f"{one.name} County, {one.parcels_of(125):,} parcels", said)
                self.assertTrue((Path(folder) / one.key / "roll.csv").exists())

    def test_parcel_numbers_fit_their_countys_mask(self) -> None:
        for one in counties():
            rules, seen = mask(one.mask), set()
            for block in (0, 1, 899, 900, 9_000, 60_000):
                for lot in (1, 26):
                    number = county(one.key).number(block, lot)
                    seen.add(rules.key(number))
                    self.assertEqual(rules.format(rules.key(number)), number)
            self.assertEqual(len(seen), 12)
