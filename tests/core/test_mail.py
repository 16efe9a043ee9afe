"""Pieces and their refusals, and text fitted on a label."""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import timedelta

from jaded_ledger.core.mail import pieces as p
from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.mail.label_pdf import LabelFit, sheets_needed
from jaded_ledger.core.mail.letters import Recipient
from jaded_ledger.core.mail.sheets import LEADING, SHEETS, SMALLEST_TYPE, DoesNotFitError, fit
from jaded_ledger.core.mail.typesetting import text_width
from tests.support.pieces import TODAY, R, address, candidate, terms


def fits_lines(fits) -> p.Fits:
    return lambda candidate, lines: fits(lines)


class Pieces(unittest.TestCase):
    def made(self, candidates, to, *relaxed, **more) -> p.Mailing:
        found = p.make_pieces(candidates, terms(to, *relaxed, **more))
        self.assertEqual(len(found.pieces) + len(found.refusals), len(candidates))
        return found

    def reasons(self, candidates, to, *relaxed, **more) -> dict[int, p.Reason]:
        return {one.parcel_id: one.reason for one in self.made(candidates, to, *relaxed, **more).refusals}

    def test_the_four_addressings(self) -> None:
        one = candidate(7, handler="Dora Kelm")
        for to, lines in [
            (p.Addressing.OWNER_MAILING, ("OWNER 7", "C/O DORA KELM", "7 ELSEWHERE RD", "ALDER BAY WI 53399")),
            (p.Addressing.OWNER_PROPERTY, ("OWNER 7", "7 CAPSTAN ST", "ALDER BAY WI 53301")),
            (p.Addressing.RESIDENT, ("CURRENT RESIDENT", "7 CAPSTAN ST", "ALDER BAY WI 53301")),
            (p.Addressing.OWNER_OR_RESIDENT, ("OWNER 7", "OR CURRENT RESIDENT", "7 CAPSTAN ST", "ALDER BAY WI 53301")),
        ]:
            found = self.made([one], to)
            self.assertEqual((found.pieces[0].lines, found.refusals), (lines, []))

    def test_an_address_in_care_of_somebody_says_so(self) -> None:
        """The attention line of Publication 28, section 211."""
        one = candidate(7, mailing=address("C/O Dora Kelm, 9 Elsewhere Rd", "53399"))
        for more, line in (({}, "C/O DORA KELM"), ({"handler": "Paul Kelm"}, "C/O PAUL KELM")):
            (piece,) = self.made([one._replace(**more)], p.Addressing.OWNER_MAILING).pieces
            self.assertEqual(piece.lines[1:3], (line, "9 ELSEWHERE RD"))
        (piece,) = self.made([one], p.Addressing.OWNER_PROPERTY).pieces
        self.assertEqual(piece.lines[1], "7 CAPSTAN ST")

    def test_an_estate_is_written_to_its_executor(self) -> None:
        """Common practice: whoever opens an estate's mail is its executor; one who is named stands there by name."""
        estate = candidate(7, owner_name="ESTATE OF ARVID KELM", recipient=Recipient.ESTATE)
        for more, line in (({}, "ATTN EXECUTOR"), ({"handler": "DORA KELM"}, "C/O DORA KELM")):
            (piece,) = self.made([estate._replace(**more)], p.Addressing.OWNER_MAILING).pieces
            self.assertEqual(piece.lines[:2], ("ESTATE OF ARVID KELM", line))

    def test_nothing_goes_to_an_owner_who_asked_for_none(self) -> None:
        asked = candidate(7, do_not_contact=True, stale_on="Absentee", is_public=True)
        for to in p.Addressing:
            # Nor where every reason was let go.
            for relaxed in ((), tuple(R)):
                self.assertEqual(self.reasons([asked], to, *relaxed), {7: R.DO_NOT_MAIL})
            # Unknown is no yes, and the first of several owners at an address is no hindrance to the second.
            for known in (None, False):
                both = [asked._replace(situs=address("8 Capstan St")), candidate(8, do_not_contact=known)]
                self.assertEqual([one.parcel_id for one in self.made(both, to).pieces], [8])

    def test_what_can_not_be_delivered(self) -> None:
        for mailing, detail in [
            (None, "none on record"), (address("7 Elsewhere Rd", ""), "no ZIP Code"), (address("7 Elsewhere Rd", city=""), "no city"),
            (address("somewhere"), "address can't be read"), (replace(address("7 Elsewhere Rd"), state=""), "no state"),
        ]:  # fmt: skip
            found = self.made([candidate(7, mailing=mailing)], p.Addressing.OWNER_MAILING, *R)
            self.assertEqual([(one.reason, one.detail) for one in found.refusals], [(R.NO_ADDRESS, detail)])

    def test_one_piece_to_an_owner_and_to_a_household(self) -> None:
        both = [candidate(1, owner_id=5), candidate(2, owner_id=5)]
        for to in (p.Addressing.OWNER_MAILING, p.Addressing.OWNER_PROPERTY):
            self.assertEqual(self.reasons(both, to), {2: R.SAME_OWNER})
            self.assertEqual(self.reasons(both, to, R.SAME_OWNER), {})
        house = address("9 Elsewhere Rd", "53399")
        pair = [candidate(1, mailing=house), candidate(2, mailing=house)]
        self.assertEqual(self.reasons(pair, p.Addressing.OWNER_MAILING), {2: R.SAME_HOUSEHOLD})
        self.assertEqual(self.reasons(pair, p.Addressing.OWNER_MAILING, R.SAME_HOUSEHOLD), {})
        self.assertEqual(self.reasons(pair, p.Addressing.OWNER_PROPERTY), {})
        flats = [candidate(1, mailing=address("9 Elsewhere Rd Apt 1")), candidate(2, mailing=address("9 Elsewhere Rd Apt 2"))]
        self.assertEqual(self.reasons(flats, p.Addressing.OWNER_MAILING), {})
        door = [candidate(1, mailing=address("9 Elsewhere Rd Apt 1")), candidate(2, mailing=address("9 Elsewhere Rd # 1"))]
        self.assertEqual(self.reasons(door, p.Addressing.OWNER_MAILING), {1: R.SAME_HOUSEHOLD})
        # Owners who are not known are not one.
        self.assertEqual(self.reasons([candidate(1, owner_id=None), candidate(2, owner_id=None)], p.Addressing.OWNER_MAILING), {})

    def test_an_owner_whose_first_parcel_is_refused_gets_the_piece_of_the_second(self) -> None:
        first, second = candidate(1, owner_id=5, mailing=None), candidate(2, owner_id=5)
        self.assertEqual(self.reasons([first, second], p.Addressing.OWNER_MAILING), {1: R.NO_ADDRESS})
        found = p.make_pieces(
            [candidate(1, owner_id=5, owner_name="X"), second], terms(p.Addressing.OWNER_MAILING),
            lambda candidate, lines: (R.TOO_LONG, "") if lines[0] == "X" else None,
        )  # fmt: skip
        self.assertEqual([one.parcel_id for one in found.pieces], [2])

    def test_all_of_an_owners_parcels_are_told_with_the_piece(self) -> None:
        several = [candidate(3, owner_id=5), candidate(1, owner_id=5), candidate(2), candidate(4, owner_id=5, do_not_contact=True)]
        found = self.made(several, p.Addressing.OWNER_MAILING)
        self.assertEqual({piece.parcel_id: piece.parcels for piece in found.pieces}, {1: (1, 3), 2: (2,)})

    def test_residents_get_one_each_whoever_owns(self) -> None:
        block = [candidate(1, owner_id=5), candidate(2, owner_id=5), candidate(3, situs=address("2 Capstan St"))]
        for to in (p.Addressing.RESIDENT, p.Addressing.OWNER_OR_RESIDENT):
            self.assertEqual(self.reasons(block, to), {3: R.SAME_DWELLING})
            self.assertEqual(self.reasons([candidate(1, owner_name="")], to), {})
            self.assertEqual(self.reasons([candidate(1, improvement_value=0)], to), {1: R.NO_BUILDING})
            self.assertEqual(self.reasons([candidate(1, improvement_value=0)], to, R.NO_BUILDING), {})
        self.assertEqual(self.reasons([candidate(1, owner_name="")], p.Addressing.OWNER_PROPERTY), {1: R.NO_OWNER})
        (piece,) = self.made([candidate(1, owner_name="")], p.Addressing.OWNER_OR_RESIDENT).pieces
        self.assertEqual(piece.lines[0], "CURRENT RESIDENT")

    def test_each_reason_by_its_addressing_and_let_go(self) -> None:
        yesterday = TODAY - timedelta(1)
        every, owners = set(p.Addressing), {p.Addressing.OWNER_MAILING, p.Addressing.OWNER_PROPERTY}
        for reason, more, asked in (
            (R.RETURNED, {"returned_on": yesterday}, every), (R.RECENT, {"bought_on": yesterday}, owners),
            (R.STALE, {"stale_on": "Absentee"}, owners), (R.PUBLIC, {"is_public": True}, owners),
            (R.MAILED, {"mailed_on": yesterday}, every),
        ):  # fmt: skip
            for to in p.Addressing:
                with self.subTest(reason, to=to):
                    one = [candidate(1, **more)]
                    self.assertEqual(self.reasons(one, to), {1: reason} if to in asked else {})
                    found = self.made(one, to, reason)
                    self.assertEqual((len(found.pieces), found.relaxed[reason]), (1, to in asked))

    def test_the_day_itself(self) -> None:
        """Within 60 days: the sixtieth day ago is past, the day after it is not."""
        for days, reasons in ((60, {}), (59, {1: R.MAILED})):
            one = candidate(1, mailed_on=TODAY - timedelta(days))
            self.assertEqual(self.reasons([one], p.Addressing.OWNER_MAILING, mailed_within=60), reasons)
        for days, reasons in ((365, {}), (364, {1: R.RECENT})):
            one = candidate(1, bought_on=TODAY - timedelta(days))
            self.assertEqual(self.reasons([one], p.Addressing.OWNER_MAILING), reasons)

    def test_the_first_reason_is_told(self) -> None:
        full = candidate(
            1, mailing=None, do_not_contact=True, returned_on=TODAY, bought_on=TODAY, stale_on="x", is_public=True, mailed_on=TODAY,
        )  # fmt: skip
        self.assertEqual(self.reasons([full], p.Addressing.OWNER_MAILING), {1: R.NO_ADDRESS})
        order = [R.RETURNED, R.RECENT, R.STALE, R.PUBLIC, R.MAILED]
        rest = full._replace(mailing=address("9 Elsewhere Rd"), do_not_contact=None)
        for place, reason in enumerate(order):
            found = self.made([rest], p.Addressing.OWNER_MAILING, *order[:place])
            self.assertEqual((found.refusals[0].reason, found.relaxed), (reason, {}))
        self.assertEqual(set(self.made([rest], p.Addressing.OWNER_MAILING, *order).relaxed), set(order))

    def test_mailing_order(self) -> None:
        lines = [
            ("20 Birch St", "53302"),
            ("9 Birch St", "53302"),
            ("100 Alder St", "53302"),
            ("3 Zinc St", "53301-0009"),
            ("4 Zinc St", "53301"),
        ]
        made = self.made(
            [candidate(n, mailing=address(line, zip_code)) for n, (line, zip_code) in enumerate(lines)], p.Addressing.OWNER_MAILING
        ).pieces
        self.assertEqual(
            [piece.lines[1:] for piece in made],
            [
                ("4 ZINC ST", "ALDER BAY WI 53301"), ("3 ZINC ST", "ALDER BAY WI 53301-0009"),
                ("100 ALDER ST", "ALDER BAY WI 53302"), ("9 BIRCH ST", "ALDER BAY WI 53302"), ("20 BIRCH ST", "ALDER BAY WI 53302"),
            ],
        )  # fmt: skip


class AboutWhat(unittest.TestCase):
    def test_a_residents_piece_is_about_its_own_parcel(self) -> None:
        every = [candidate(number, owner_id=7) for number in (1, 2, 3)]
        for to in p.Addressing:
            with self.subTest(to):
                pieces = p.make_pieces(every, terms(to)).pieces
                expected = [(1, 2, 3)] if to.is_for_owner else [(1,), (2,), (3,)]
                self.assertEqual([tuple(sorted(piece.parcels)) for piece in pieces], expected)


class Fitting(unittest.TestCase):
    SHEET = SHEETS["letter-30"]

    def test_short_text_keeps_its_size_and_long_text_shrinks(self) -> None:
        self.assertEqual(fit(("HELEN OSTROM", "103 CAPSTAN ST", "ALDER BAY WI 53301"), self.SHEET, text_width).size, 10)
        longer = fit(("HELEN MARGARET AND PETER ALEXANDER OSTROM", "X", "Y"), self.SHEET, text_width)
        self.assertLess(longer.size, 10)
        self.assertEqual(len(longer.lines), 3)

    def test_a_line_is_broken_before_it_is_made_smaller(self) -> None:
        """At a comma or an “&”; in two, as even as can be."""
        for name, lines in (
            ("HELEN MARGARET & PETER ALEXANDER OSTROM", ("HELEN MARGARET", "& PETER ALEXANDER OSTROM")),
            ("BRANDT, OSTROM, KELM AND VALDERRAMA HOLDINGS", ("BRANDT, OSTROM,", "KELM AND VALDERRAMA HOLDINGS")),
        ):
            fitted = fit((name, "103 CAPSTAN ST", "ALDER BAY WI 53301"), self.SHEET, text_width)
            self.assertEqual((fitted.lines[:2], fitted.size), (lines, 10))
        # Where the label is not high enough for one line more, it is made smaller until it is.
        low = SHEETS["letter-80"]
        fitted = fit(("HELEN MARGARET & PETER ALEXANDER OSTROM", "103 CAPSTAN ST", "ALDER BAY WI 53301"), low, text_width)
        self.assertLessEqual(len(fitted.lines) * fitted.size * LEADING, low.label[1])
        self.assertLess(fitted.size, 10)

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
        found = p.make_pieces([candidate(7, owner_name="X" * 90)], terms(p.Addressing.OWNER_MAILING), fits_lines(LabelFit(self.SHEET)))
        self.assertEqual([(one.number, one.reason) for one in found.refusals], [("12-034-007", R.TOO_LONG)])

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
