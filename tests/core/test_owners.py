"""Names as counties record them, and whether the owner lives at the property. Common practice."""

from __future__ import annotations

import unittest

from jaded_ledger.core.mail.addresses import standardize
from jaded_ledger.core.ownership.identity import are_close
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.ownership.names import are_related, read_name
from jaded_ledger.core.ownership.occupancy import is_owner_occupied


class Kinds(unittest.TestCase):
    def test_kinds(self) -> None:
        for kind, names in {
            OwnerKind.INDIVIDUAL: (
                "OSTROM HELEN M", "CHURCH JOHN A", "BANKS MARIA", "ESTES MARY", "TEMPLE SHIRLEY", "STATE JOHN", "OSTROM, HELEN",
                "TOWN PETER B", "HOLLOWAY-PIKE JUNE",
            ),
            OwnerKind.COUPLE: ("OSTROM HELEN M & PETER", "VAN TONGEREN LISE AND KARL", "QUILLFEATHER DORA & PELLWORTH ADA"),
            OwnerKind.COMPANY: (
                "TWO LAMPS HOLDINGS LLC", "HARROW POINT RENTALS L.L.C.", "COPPERLINE INC", "BRASS KEY PROPERTIES",
                "100 HARBOUR FRONT CONDOMINIUM ASSOCIATION", "KELM & SONS CO",
            ),
            OwnerKind.TRUST: ("BRANDT FAMILY TRUST", "OSTROM HELEN M LIVING TRUST", "KELM ARVID TTEE", "KELM ARVID REVOCABLE TR TRUST"),
            OwnerKind.ESTATE: ("ESTATE OF ARVID KELM", "KELM ARVID EST", "HEIRS OF INES TOLLIVER", "KELM ARVID DECD"),
            OwnerKind.LENDER: ("LAKEPORT SAVINGS BANK", "FIRST BEACON BANK N A", "TIDEWATER CREDIT UNION", "ALDER MORTGAGE CORP"),
            OwnerKind.GOVERNMENT: ("CITY OF ALDER BAY", "TAMARACK COUNTY", "UNITED STATES OF AMERICA", "HUD", "STATE OF WISCONSIN"),
            OwnerKind.NON_PROFIT: ("ST OLAF LUTHERAN CHURCH", "HARBOUR LIGHT MINISTRIES", "OSTROM FOUNDATION"),
        }.items():  # fmt: skip
            for name in names:
                with self.subTest(name):
                    self.assertEqual(read_name(name).kind, kind)
        self.assertIsNone(read_name("  ").kind)

    def test_four_cousins_are_no_couple(self) -> None:
        self.assertEqual(read_name("OSTROM HELEN & PETER & DORA & PAUL").kind, OwnerKind.SEVERAL_PEOPLE)

    def test_names_for_an_envelope(self) -> None:
        for recorded, mailed in [
            ("OSTROM HELEN M & PETER", "HELEN M & PETER OSTROM"),
            ("QUILLFEATHER DORA & PELLWORTH ADA", "DORA QUILLFEATHER & ADA PELLWORTH"),
            ("VAN TONGEREN LISE & KARL", "LISE & KARL VAN TONGEREN"),
            ("OSTROM HELEN M & PETER J", "HELEN M & PETER J OSTROM"),
            ("AMBLECOTE ELSPETH & DELACRUZ ROLAND M", "ELSPETH AMBLECOTE & ROLAND M DELACRUZ"),
            ("SMITH JOHN JR", "JOHN SMITH JR"),
            ("OSTROM, HELEN M", "HELEN M OSTROM"),
            ("KELM ARVID EST", "ESTATE OF ARVID KELM"),
            ("Two Lamps Holdings LLC", "TWO LAMPS HOLDINGS LLC"),
        ]:
            self.assertEqual(read_name(recorded).mailing_name, mailed)

    def test_whoever_acts_for_the_owner_is_split_off(self) -> None:
        for recorded, role, handler in [
            ("KELM ARVID EST C/O DORA KELM", "care of", "DORA KELM"),
            ("KELM DORA GUARDIAN PAUL KELM", "guardian", "PAUL KELM"),
            ("KELM DORA (ATTORNEY IN FACT PAUL KELM)", "attorney-in-fact", "PAUL KELM"),
            ("ESTATE OF ARVID KELM EXECUTOR DORA KELM", "executor", "DORA KELM"),
            ("TWO LAMPS HOLDINGS LLC RECEIVER PAUL KELM", "receiver", "PAUL KELM"),
        ]:
            read = read_name(recorded)
            self.assertEqual((read.handler_role, read.handler), (role, handler), recorded)
            self.assertNotIn("C/O", read.mailing_name)

    def test_relatives_share_a_surname(self) -> None:
        def related(one: str, other: str) -> bool:
            return are_related(read_name(one).surnames, read_name(other).surnames)

        self.assertTrue(related("OSTROM HELEN M", "OSTROM PETER"))
        self.assertTrue(related("OSTROM HELEN M", "OSTROM HELEN M LIVING TRUST"))
        self.assertTrue(related("ESTATE OF ARVID KELM", "KELM DORA"))
        self.assertFalse(related("OSTROM HELEN M", "KELM DORA"))
        self.assertFalse(related("TWO LAMPS HOLDINGS LLC", "TWO LAMPS RENTALS LLC"))


class OneOwner(unittest.TestCase):
    """Names at one address, as envelopes have them, made for the purpose; common practice."""

    def test_spellings_of_one(self) -> None:
        for kind, one, other in [
            (OwnerKind.COMPANY, "TWO LAMPS HOLDINGS LLC", "TWO LAMPS HOLDINGS L.L.C."),
            (OwnerKind.COMPANY, "TWO LAMPS HOLDINGS LLC", "TWO LAMPS HOLDING LLC"),
            (OwnerKind.COMPANY, "HARROW POINT RENTALS INC", "HARROW PIONT RENTALS"),
            (OwnerKind.COUPLE, "HELEN M & PETER OSTROM", "PETER & HELEN OSTROM"),
            (OwnerKind.INDIVIDUAL, "HELEN M OSTROM", "HELEN OSTROM"),
            (OwnerKind.INDIVIDUAL, "HELEN OSTROM", "HELEN OSTRUM"),
            (OwnerKind.TRUST, "BRANDT FAMILY TRUST", "THE BRANDT FAMILY TRUST"),
        ]:
            self.assertTrue(are_close(one, other, kind), (one, other))
            self.assertTrue(are_close(other, one, kind), (one, other))

    def test_two_owners(self) -> None:
        for kind, one, other in [
            (OwnerKind.INDIVIDUAL, "MARIA OSTROM", "MARIE OSTROM"), (OwnerKind.INDIVIDUAL, "PETER OSTROM", "PETRA OSTROM"),
            (OwnerKind.INDIVIDUAL, "HELEN M OSTROM", "HELEN B OSTROM"), (OwnerKind.INDIVIDUAL, "JOHN KELM JR", "JOHN KELM SR"),
            (OwnerKind.INDIVIDUAL, "HELEN OSTROM", "HELEN KELM"), (OwnerKind.COMPANY, "LOT 12 HOLDINGS LLC", "LOT 13 HOLDINGS LLC"),
            (OwnerKind.COMPANY, "TWO LAMPS HOLDINGS LLC", "TWO LAMPS RENTALS LLC"), (OwnerKind.COMPANY, "ALDER LLC", "ADLER LLC"),
            (OwnerKind.COMPANY, "LLC", "INC"),
        ]:  # fmt: skip
            self.assertFalse(are_close(one, other, kind), (one, other))


class Occupancy(unittest.TestCase):
    SITUS = standardize("103 Capstan Street", "", "Alder Bay", "WI", "53301")

    def occupied(self, line: str, zip_code: str = "53301", situs=SITUS, **more) -> bool | None:
        mailing = standardize(line, "", "ALDER BAY", "WI", zip_code) if line else None
        return is_owner_occupied(situs, mailing, **{"homestead": None, "is_condominium": False} | more)

    def test_the_same_address_however_written(self) -> None:
        for line in ("103 CAPSTAN ST", "103 capstan street", "103 Capstan St.", "103 CAPSTAN ST APT 2"):
            self.assertIs(self.occupied(line), True, line)
        self.assertIs(self.occupied("103 CAPSTAN ST", zip_code=""), True)
        self.assertIs(self.occupied("103 CAPSTAN ST", zip_code="53301-1234"), True)

    def test_the_same_address_as_clerks_write_it(self) -> None:
        """The forms that Publication 28 lets stand side by side."""
        for one, other in [
            ("103 FIRST ST", "103 1ST ST"), ("103 TWENTY-FIRST AVE", "103 21st Ave"), ("103 THIRTIETH ST", "103 30TH ST"),
            ("103 ST CLAIR AVE", "103 SAINT CLAIR AVE"), ("103 CAPSTAN", "103 CAPSTAN ST"), ("103 N MAIN ST", "103 N MAIN"),
            ("12-14 OAK ST", "12 OAK ST"), ("12-14 OAK ST", "14 OAK ST"), ("12 - 14 OAK ST", "12 & 14 OAK ST"),
            ("12-16 OAK ST", "14 OAK ST"),
            ("C/O DORA KELM 103 CAPSTAN ST", "103 CAPSTAN ST"), ("% KELM, 103 CAPSTAN ST", "103 CAPSTAN ST"),
            ("ATTN: DORA KELM, 103 CAPSTAN ST", "103 CAPSTAN ST"),
        ]:  # fmt: skip
            for line, situs in ((one, other), (other, one)):
                here = standardize(situs, "", "ALDER BAY", "WI", "53301")
                self.assertIs(self.occupied(line, situs=here), True, (line, situs))

    def test_another_building(self) -> None:
        for one, other in [
            ("103 CAPSTAN ST", "103 CAPSTAN CT"), ("12-14 OAK ST", "13 OAK ST"), ("12-14 OAK ST", "16 OAK ST"),
            ("103 N MAIN ST", "103 S MAIN ST"),
            ("103 FIRST ST", "103 2ND ST"), ("103 21ST ST", "103 TWENTY ST"), ("1 ST CLAIR AVE", "1 CLAIR AVE"),
            ("12-14 OAK ST", "10 OAK ST"),
            ("N6W23001 BLUEMOUND RD", "N7W23001 BLUEMOUND RD"),
        ]:  # fmt: skip
            for line, situs in ((one, other), (other, one)):
                here = standardize(situs, "", "ALDER BAY", "WI", "53301")
                self.assertIs(self.occupied(line, situs=here), False, (line, situs))

    def test_another_address(self) -> None:
        self.assertIs(self.occupied("105 CAPSTAN ST"), False)
        self.assertIs(self.occupied("103 CAPSTAN ST", zip_code="53399"), False)

    def test_a_homestead_is_lived_in(self) -> None:
        self.assertIs(self.occupied("9 ELSEWHERE RD", homestead=True), True)
        self.assertIs(self.occupied("", homestead=True), True)
        self.assertIs(self.occupied("9 ELSEWHERE RD", homestead=False), False)

    def test_unknown(self) -> None:
        self.assertIsNone(self.occupied(""))
        self.assertIsNone(self.occupied("PO BOX 118"))
        self.assertIs(self.occupied("PO BOX 118", zip_code="53399"), False)
        self.assertIsNone(self.occupied("PO BOX 118", zip_code=""))
        self.assertIsNone(self.occupied("GENERAL DELIVERY"))
        self.assertIs(self.occupied("GENERAL DELIVERY", zip_code="53399"), False)
        self.assertIsNone(self.occupied("103 CAPSTAN ST", situs=None))
        self.assertIsNone(self.occupied("SOMEWHERE"))

    def test_units_count_on_condominiums_only(self) -> None:
        situs = standardize("103 Capstan Street", "UNIT 4", "Alder Bay", "WI", "53301")
        self.assertIs(self.occupied("103 CAPSTAN ST APT 4", situs=situs, is_condominium=True), True)
        self.assertIs(self.occupied("103 CAPSTAN ST APT 04", situs=situs, is_condominium=True), True)
        self.assertIs(self.occupied("103 CAPSTAN ST APT 40", situs=situs, is_condominium=True), False)
        self.assertIs(self.occupied("103 CAPSTAN ST APT 5", situs=situs, is_condominium=True), False)
        self.assertIs(self.occupied("103 CAPSTAN ST", situs=situs, is_condominium=True), True)
        self.assertIs(self.occupied("103 CAPSTAN ST APT 5", situs=situs, is_condominium=False), True)


class Told(unittest.TestCase):
    def test_n_a_is_a_bank_s_ending_only_at_the_end(self) -> None:
        self.assertIs(read_name("FIRST BEACON N A").kind, OwnerKind.LENDER)
        self.assertIsNot(read_name("HOLLIS N A JR").kind, OwnerKind.LENDER)
        self.assertIsNot(read_name("ABBOT N A ZUBER").kind, OwnerKind.LENDER)

    def test_the_family_of_a_trust(self) -> None:
        for name, surnames in (("BRANDT FAMILY TRUST", ("brandt",)), ("THE BRANDT FAMILY TRUST", ("brandt",)), ("THE TRUST", ())):
            self.assertEqual(read_name(name).surnames, surnames, name)

    def test_a_slip_in_a_short_word_is_another_word(self) -> None:
        for one, other, same in (("HALES", "HALEZ", True), ("HALE", "HALZ", False)):
            self.assertEqual(are_close(f"{one} HOLDINGS LLC", f"{other} HOLDINGS LLC", OwnerKind.COMPANY), same)
