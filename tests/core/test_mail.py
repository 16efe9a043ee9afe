"""Pieces and their refusals, and text fitted on a label."""

from __future__ import annotations

import unittest
from dataclasses import replace

from jaded_ledger.core.mail import pieces as p
from jaded_ledger.core.mail.addresses import Address, AddressKind, standardize
from jaded_ledger.core.mail.label_pdf import lay_out, sheets_needed
from jaded_ledger.core.mail.sheets import SHEETS, SMALLEST_TYPE, DoesNotFitError, fit
from jaded_ledger.core.mail.typesetting import text_width


def address(line: str, zip_code: str = "53301", city: str = "Alder Bay") -> Address:
    return standardize(line, "", city, "WI", zip_code)


def candidate(number: int, **more) -> p.Candidate:
    given = {
        "owner_id": number, "owner_name": f"OWNER {number}", "handler": "",
        "situs": address(f"{number} Capstan St"), "mailing": address(f"{number} Elsewhere Rd", "53399"),
    }  # fmt: skip
    return p.Candidate(number, f"12-034-{number:03}", **given | more)


class Pieces(unittest.TestCase):
    def reasons(self, candidates, to) -> dict[int, str]:
        return {piece.parcel_id: piece.reason for piece in p.make_pieces(candidates, to)[1]}

    def test_the_three_addressings(self) -> None:
        one = candidate(7, handler="Dora Kelm")
        for to, lines in [
            (p.Addressing.OWNER_MAILING, ("OWNER 7", "C/O DORA KELM", "7 ELSEWHERE RD", "ALDER BAY WI 53399")),
            (p.Addressing.OWNER_PROPERTY, ("OWNER 7", "7 CAPSTAN ST", "ALDER BAY WI 53301")),
            (p.Addressing.RESIDENT, ("CURRENT RESIDENT", "7 CAPSTAN ST", "ALDER BAY WI 53301")),
        ]:
            (piece,), refused = p.make_pieces([one], to)
            self.assertEqual((piece.lines, refused), (lines, []))

    def test_an_address_in_care_of_somebody_says_so(self) -> None:
        """The attention line of Publication 28, section 211."""
        one = candidate(7, mailing=address("C/O Dora Kelm, 9 Elsewhere Rd", "53399"))
        for more, line in (({}, "C/O DORA KELM"), ({"handler": "Paul Kelm"}, "C/O PAUL KELM")):
            (piece,), _ = p.make_pieces([replace(one, **more)], p.Addressing.OWNER_MAILING)
            self.assertEqual(piece.lines[1:3], (line, "9 ELSEWHERE RD"))
        (piece,), _ = p.make_pieces([one], p.Addressing.OWNER_PROPERTY)
        self.assertEqual(piece.lines[1], "7 CAPSTAN ST")

    def test_nothing_goes_to_an_owner_who_asked_for_none(self) -> None:
        asked = candidate(7, do_not_contact=True, stale_on="Absentee", mailing=None)
        for to in p.Addressing:
            kept, (refusal,) = p.make_pieces([asked], to)
            self.assertEqual((kept, refusal.reason), ([], p.ASKED_FOR_NONE))
            # Unknown is no yes, and the first of several owners at an address is no hindrance to the second.
            for known in (None, False):
                made, refused = p.make_pieces([replace(asked, situs=address("8 Capstan St")), candidate(8, do_not_contact=known)], to)
                self.assertEqual(([one.parcel_id for one in made], [one.parcel_id for one in refused]), ([8], [7]))

    def test_what_can_not_be_delivered(self) -> None:
        for mailing, detail in [
            (None, "none on record"), (address("7 Elsewhere Rd", ""), "no ZIP Code"), (address("7 Elsewhere Rd", city=""), "no city"),
            (address("somewhere"), "address can't be read"), (replace(address("7 Elsewhere Rd"), state=""), "no state"),
        ]:  # fmt: skip
            kept, (refusal,) = p.make_pieces([candidate(7, mailing=mailing)], p.Addressing.OWNER_MAILING)
            self.assertEqual((kept, refusal.reason, refusal.detail), ([], p.NO_ADDRESS, detail))

    def test_one_piece_to_an_owner_and_to_a_household(self) -> None:
        both = [candidate(1, owner_id=5), candidate(2, owner_id=5)]
        for to in (p.Addressing.OWNER_MAILING, p.Addressing.OWNER_PROPERTY):
            self.assertEqual(self.reasons(both, to), {2: p.SAME_OWNER})
        house = address("9 Elsewhere Rd", "53399")
        pair = [candidate(1, mailing=house), candidate(2, mailing=house)]
        self.assertEqual(self.reasons(pair, p.Addressing.OWNER_MAILING), {2: p.SAME_HOUSEHOLD})
        self.assertEqual(self.reasons(pair, p.Addressing.OWNER_PROPERTY), {})
        flats = [candidate(1, mailing=address("9 Elsewhere Rd Apt 1")), candidate(2, mailing=address("9 Elsewhere Rd Apt 2"))]
        self.assertEqual(self.reasons(flats, p.Addressing.OWNER_MAILING), {})
        door = [candidate(1, mailing=address("9 Elsewhere Rd Apt 1")), candidate(2, mailing=address("9 Elsewhere Rd # 1"))]
        self.assertEqual(self.reasons(door, p.Addressing.OWNER_MAILING), {1: p.SAME_HOUSEHOLD})

    def test_residents_get_one_each_whoever_owns(self) -> None:
        block = [candidate(1, owner_id=5), candidate(2, owner_id=5), candidate(3, situs=address("2 Capstan St"))]
        self.assertEqual(self.reasons(block, p.Addressing.RESIDENT), {3: p.SAME_DWELLING})
        self.assertEqual(self.reasons([candidate(1, owner_name="")], p.Addressing.RESIDENT), {})
        self.assertEqual(self.reasons([candidate(1, owner_name="")], p.Addressing.OWNER_PROPERTY), {1: p.NO_OWNER})
        self.assertEqual(self.reasons([candidate(1, improvement_value=0)], p.Addressing.RESIDENT), {1: p.NO_BUILDING})

    def test_mailing_order(self) -> None:
        lines = [
            ("20 Birch St", "53302"),
            ("9 Birch St", "53302"),
            ("100 Alder St", "53302"),
            ("3 Zinc St", "53301-0009"),
            ("4 Zinc St", "53301"),
        ]
        made, _ = p.make_pieces(
            [candidate(n, mailing=address(line, zip_code)) for n, (line, zip_code) in enumerate(lines)], p.Addressing.OWNER_MAILING
        )
        self.assertEqual(
            [piece.lines[1:] for piece in made],
            [
                ("4 ZINC ST", "ALDER BAY WI 53301"), ("3 ZINC ST", "ALDER BAY WI 53301-0009"),
                ("100 ALDER ST", "ALDER BAY WI 53302"), ("9 BIRCH ST", "ALDER BAY WI 53302"), ("20 BIRCH ST", "ALDER BAY WI 53302"),
            ],
        )  # fmt: skip


class Fitting(unittest.TestCase):
    SHEET = SHEETS["letter-30"]

    def test_short_text_keeps_its_size_and_long_text_shrinks(self) -> None:
        self.assertEqual(fit(("HELEN OSTROM", "103 CAPSTAN ST", "ALDER BAY WI 53301"), self.SHEET, text_width).size, 10)
        longer = fit(("HELEN MARGARET & PETER ALEXANDER OSTROM", "X", "Y"), self.SHEET, text_width)
        self.assertLess(longer.size, 10)
        self.assertEqual(len(longer.lines), 3)

    def test_then_it_is_wrapped_and_nothing_is_cut(self) -> None:
        name = "THE HELEN MARGARET AND PETER ALEXANDER OSTROM IRREVOCABLE FAMILY TRUST OF NINETEEN NINETY FOUR"
        fitted = fit((name, "103 CAPSTAN ST", "ALDER BAY WI 53301"), self.SHEET, text_width)
        self.assertEqual(fitted.size, SMALLEST_TYPE)
        self.assertEqual(" ".join(fitted.lines), f"{name} 103 CAPSTAN ST ALDER BAY WI 53301")
        self.assertTrue(all(text_width(line, fitted.size) <= self.SHEET.label[0] for line in fitted.lines))

    def test_then_it_is_refused_with_the_reason(self) -> None:
        with self.assertRaisesRegex(DoesNotFitError, "wider than the label"):
            fit(("X" * 90,), self.SHEET, text_width)
        with self.assertRaisesRegex(DoesNotFitError, "more than the label holds"):
            fit(("OSTROM " * 80,), self.SHEET, text_width)
        made, _ = p.make_pieces([candidate(7, owner_name="X" * 90)], p.Addressing.OWNER_MAILING)
        labels, (refusal,) = lay_out(made, {7: "12-034-007"}, self.SHEET)
        self.assertEqual((labels, refusal.number), ([], "12-034-007"))

    def test_sheets_needed(self) -> None:
        for labels, start, sheets in [(0, 1, 0), (1, 1, 1), (30, 1, 1), (31, 1, 2), (30, 2, 2), (1, 30, 1), (2, 30, 2)]:
            self.assertEqual(sheets_needed(labels, self.SHEET, start), sheets)


class Order(unittest.TestCase):
    def test_a_street_without_a_number_goes_before_number_one(self) -> None:
        unnumbered, first, tenth = (Address(AddressKind.STREET, street) for street in ("ELM ST", "1 ELM ST", "10 ELM ST"))
        self.assertEqual([p._house_number(one) for one in (unnumbered, first, tenth)], [0, 1, 10])

    def test_an_address_is_told_by_street_and_place(self) -> None:
        for street, zip5, city, is_told in (
            ("1 ELM ST", "53301", "", True),
            ("1 ELM ST", "", "ALDER BAY", True),
            ("1 ELM ST", "", "", False),
            ("", "53301", "", False),
        ):
            key = Address(AddressKind.STREET, street, city=city, state="OH" if city else "", zip5=zip5).building_key
            self.assertEqual(bool(key), is_told, (street, zip5, city))
