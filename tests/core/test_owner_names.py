"""How owners' names are read, of 764 labeled ones: ``owner_names.csv``. Common practice.

608 are our own writing in the style of county rolls; 156 are drawn at random from labeled examples: probablepeople 0.5.6
(``name_data/labeled``, the Atlanta Journal Constitution, MIT) and nameparser 2.6.0 (``tests``), people turned last name first by
their labels, the kinds of organizations judged by hand. A random half was set aside before the rules were written. Of three
later sets of own writing, each written down before the rules were tried on it, 96.6, 96.0 and 97.3 in a hundred were right at the first
look (before the rules were mended for the first, 70.5, 73.8 and 81.0); the last of them is set aside.
"""

from __future__ import annotations

import csv
import unittest
from pathlib import Path

from jaded_ledger.core.ownership.census_names import as_given, as_surname
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.ownership.names import OwnerName, are_related, read_name
from jaded_ledger.core.ownership.people import is_given_first, read_people

LABELED = list(csv.DictReader(Path(__file__).with_name("owner_names.csv").open()))
RIGHT = 0.97


def plain(name: str) -> str:
    return " ".join(name.replace(".", "").replace(",", "").split())


def is_right(row: dict[str, str], read: OwnerName) -> bool:
    people = [plain(person) for person in row["people"].split("; ") if person]
    is_named = not people or people == [plain(person) for person in read.people]
    return (read.kind or "unknown") == row["kind"] and plain(read.mailing_name) == plain(row["envelope"]) and is_named


class Labeled(unittest.TestCase):
    def test_at_least_300_half_of_them_drawn(self) -> None:
        drawn = [row for row in LABELED if row["source"] != "own"]
        self.assertGreaterEqual(len(LABELED), 300)
        self.assertGreaterEqual(len(drawn), 150)
        self.assertEqual(len({row["recorded"] for row in LABELED}), len(LABELED))

    def test_of_each_half_97_in_a_hundred_are_right(self) -> None:
        for half in ("yes", "no"):
            rows = [row for row in LABELED if row["set aside"] == half]
            wrong = [row["recorded"] for row in rows if not is_right(row, read_name(row["recorded"]))]
            self.assertGreaterEqual(1 - len(wrong) / len(rows), RIGHT, wrong)


class TwoSurnames(unittest.TestCase):
    def test_each_of_a_couple_has_kin(self) -> None:
        """An envelope that lost the second surname had sales between relatives counted as sales."""
        couple = read_name("XIONG PRIYA K & THISTLEWOOD MATEO")
        self.assertEqual(couple.mailing_name, "PRIYA K XIONG & MATEO THISTLEWOOD")
        for one, is_kin in (("XIONG KAO", True), ("THISTLEWOOD ANNA", True), ("OSTROM HELEN", False)):
            self.assertIs(are_related(couple.surnames, read_name(one).surnames), is_kin, one)
        self.assertEqual(read_name("OSTROM HELEN M & PETER").mailing_name, "HELEN M & PETER OSTROM")


class Order(unittest.TestCase):
    def test_the_census_tells_given_names_from_surnames(self) -> None:
        """Shares in percent of the 1990 census: Smith 1.006, James 3.318 of men, Mary 2.629 of women."""
        self.assertEqual((as_surname("SMITH"), as_given("Mary"), as_given("OSTROMM")), (1.006, 2.629 + 0.009, 0.0))

    def test_given_first_only_where_it_is_much_likelier(self) -> None:
        for words, is_first in [
            ("DORA KELM", True), ("KELM DORA", False), ("JAMES HENRY", False), ("J KELM", True), ("J K", False), ("KELM J", False),
            ("VAN THANH KELM", False), ("KELM", False),
        ]:  # fmt: skip
            self.assertIs(is_given_first(words.split()), is_first, words)

    def test_who_else_is_named(self) -> None:
        for recorded, envelope in [
            ("OSTROM PETER & KELM DORA", "PETER OSTROM & DORA KELM"), ("OSTROM PETER & DORA KELM", "PETER OSTROM & DORA KELM"),
            ("OSTROM PETER & MARY BETH", "PETER & MARY BETH OSTROM"), ("OSTROM PETER & OSTROM DORA", "PETER & DORA OSTROM"),
            ("OSTROM PETER W/R/S & DORA 1/2 INT", "PETER & DORA OSTROM"), ("OSTROM PETER; KELM DORA", "PETER OSTROM & DORA KELM"),
        ]:  # fmt: skip
            self.assertEqual(read_people(recorded).envelope, envelope, recorded)
        self.assertEqual((read_people("&").named, read_people("&").envelope), ((), ""))


class Kin(unittest.TestCase):
    def test_a_family_and_its_trust(self) -> None:
        for one, other, kin in [
            ("OSTROM-KELM HELEN", "OSTROM-KELM FAMILY TRUST", True), ("OSTROM-KELM HELEN", "OSTROM KELM LIVING TRUST", True),
            ("OSTROM-KELM HELEN", "HELEN OSTROM-KELM TRUST", True), ("GARCIA LOPEZ MARIA", "MARIA LOPEZ TRUST", True),
            ("TEMPLE ROSE & CARL", "TEMPLE ROSE", True), ("HEIRS OF CARL TEMPLE", "TEMPLE ROSE", True),
            ("CHURCH PAUL EST", "CHURCH JOHN A", True),
            ("OSTROM PETER & KELM DORA", "KELM DORA", True), ("OSTROM PETER & DORA KELM", "KELM DORA M", True),
            ("MARY KELM", "KELM MARY TRUSTEE", True), ("QUAY BANK TRUSTEE OF THE OSTROM TRUST", "OSTROM HELEN", True),
            ("LONGSTRETH OTIS W & ALMA", "LONGSTRETH MIKKEL & CHURCH AMARA S", True),
            ("OSTROM HELEN", "KELM DORA", False), ("DE LA CRUZ JOSE", "DE LA ROSA ANA", False), ("FAMILY TRUST", "LIVING TRUST", False),
        ]:  # fmt: skip
            self.assertIs(are_related(read_name(one).surnames, read_name(other).surnames), kin, (one, other))


class Decided(unittest.TestCase):
    def test_what_decided_is_said(self) -> None:
        for recorded, kind, by in [
            ("VILLAGE GREEN LLC", OwnerKind.COMPANY, "“llc”"), ("KELM DORA REV TR", OwnerKind.TRUST, "“rev tr”"),
            ("OSTROM HELEN", OwnerKind.INDIVIDUAL, "given and family names of the 1990 census"),
            ("OLYMPIC MEAT PACKERS", OwnerKind.COMPANY, "a tagger trained on labeled names (probablepeople)"),
            ("CULLMAN & KRAVIS", OwnerKind.COMPANY, "surnames, and no given name among them"),
            ("QUILLFEATHER SHUBHANGI", OwnerKind.INDIVIDUAL, "no word of any other kind"), ("UNKNOWN", None, "“unknown”"),
        ]:  # fmt: skip
            read = read_name(recorded)
            self.assertEqual((read.kind, read.decided_by), (kind, by), recorded)
