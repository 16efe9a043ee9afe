"""Address forms against USPS Publication 28, "Postal Addressing Standards".

The examples are the publication's own, recalled from memory where marked; those without a mark are also what
``usaddress-scourgify`` gives, which is asked here too.
"""

from __future__ import annotations

import unittest

from scourgify import normalize_address_record

from jaded_ledger.core.mail.addresses import AddressKind, standardize


class Publication28(unittest.TestCase):
    def line(self, written: str) -> str:
        return standardize(written, "", "ANYTOWN", "WI", "53301").delivery_line

    def test_examples_from_memory(self) -> None:
        for section, written, printed in [
            ("213 secondary unit designators", "102 Main Street Apartment 101", "102 MAIN ST APT 101"),
            ("213 secondary unit designators", "1356 Executive Drive Suite 202", "1356 EXECUTIVE DR STE 202"),
            ("213 the pound sign", "425 Flower Boulevard #72", "425 FLOWER BLVD # 72"),
            ("213 the pound sign goes with a designator", "425 Flower Blvd Apt # 4B", "425 FLOWER BLVD APT 4B"),
            ("213 designators without a number", "55 Sylvan Boulevard Rear", "55 SYLVAN BLVD REAR"),
            ("213 designators without a number", "34 Mast Lane Upper", "34 MAST LN UPPR"),
            ("233 directionals", "475 North Main Street", "475 N MAIN ST"),
            ("233 directionals after the name", "1234 Elm Avenue Southwest", "1234 ELM AVE SW"),
            ("234 suffixes", "103 Capstan Terrace", "103 CAPSTAN TER"),
            ("241 rural routes", "Rural Route 2 Box 152", "RR 2 BOX 152"),
            ("241 rural routes", "RR 4 Box 87A", "RR 4 BOX 87A"),
            ("251 highway contract routes", "HC 68 Box 23A", "HC 68 BOX 23A"),
            ("281 post office boxes", "P.O. Box 11890", "PO BOX 11890"),
            ("281 post office boxes", "Post Office Box 44", "PO BOX 44"),
            ("261 general delivery", "General Delivery", "GENERAL DELIVERY"),
            ("appendix D grid addresses", "N6W23001 Bluemound Road", "N6W23001 BLUEMOUND RD"),
            ("appendix D fractions", "123 1/2 Main Street", "123 1/2 MAIN ST"),
            ("appendix F county roads", "441 County Road 12", "441 COUNTY ROAD 12"),
            ("appendix F state highways", "7 State Highway 60", "7 STATE HIGHWAY 60"),
        ]:
            with self.subTest(section, written=written):
                self.assertEqual(self.line(written), printed)

    def test_suffixes_and_directions_as_the_library_has_them(self) -> None:
        for written in (
            "12 Harbour Avenue", "9 West Fathom Street", "300 Old Mill Lane", "77 Kestrel Circle", "5 Orchard Parkway",
            "18 Prospect Place", "6 Bayview Court", "2 Quarry Trail", "40 Southeast Dunlin Drive", "1 Exchange Plaza",
        ):  # fmt: skip
            expected = normalize_address_record(written)["address_line_1"]
            self.assertEqual(self.line(written), expected, written)

    def test_what_can_not_be_read_is_kept_in_its_own_words(self) -> None:
        for written in ("behind the mill", "???", "X" * 300, "=HYPERLINK(1)"):
            address = standardize(written, "", "ANYTOWN", "WI", "53301")
            self.assertIs(address.kind, AddressKind.UNREADABLE)
            self.assertTrue(address.undeliverable)

    def test_last_line(self) -> None:
        for zip_code, last in [
            ("53301", "ALDER BAY WI 53301"),
            ("53301-1234", "ALDER BAY WI 53301-1234"),
            ("533011234", "ALDER BAY WI 53301-1234"),
        ]:
            self.assertEqual(standardize("1 Mast Ln", "", "Alder Bay", "wi", zip_code).last_line, last)
        for zip_code in ("5330", "ABCDE", "", "53301-12"):
            self.assertEqual(standardize("1 Mast Ln", "", "Alder Bay", "WI", zip_code).undeliverable, "no ZIP Code")
        self.assertEqual(standardize("1 Mast Ln", "", "Alder Bay", "Wisc", "53301").undeliverable, "no state")
