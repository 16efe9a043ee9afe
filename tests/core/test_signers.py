"""Whose signature a sale needs. Rules are common practice; each case is one that a title company would ask about."""

from __future__ import annotations

from unittest import TestCase

from jaded_ledger.core.deals.signers import CaseParty, Ownership, signers


def who(owner: Ownership, *cases: CaseParty) -> list[tuple[str, str, bool]]:
    return [(one.name, one.role, bool(one.doubt)) for one in signers(owner, cases)]


class Signers(TestCase):
    def test_each_of_a_couple_signs(self):
        self.assertEqual(who(Ownership("KELM DORA & OTTO", "couple")), [("DORA KELM", "owner", False), ("OTTO KELM", "owner", False)])

    def test_somebody_alone_may_have_a_spouse_who_is_not_named(self):
        self.assertEqual(who(Ownership("KELM DORA", "individual")), [("DORA KELM", "owner", True)])

    def test_those_whom_the_roll_does_not_name_are_told(self):
        self.assertEqual(who(Ownership("KELM OTTO ET UX", "couple"))[-1], ("a spouse", "owner", True))
        self.assertEqual(who(Ownership("KELM OTTO ET AL", "several people"))[-1], ("others", "owners", True))

    def test_a_company_signs_by_somebody_with_authority(self):
        for kind in ("company", "lender", "government", "non-profit"):
            (found,) = signers(Ownership("KELM HARDWARE LLC", kind), [])
            self.assertEqual((found.role, bool(found.doubt)), ("for KELM HARDWARE LLC", True))

    def test_a_trust_signs_by_its_trustee(self):
        (found,) = signers(Ownership("KELM FAMILY TRUST", "trust"), [])
        self.assertEqual(found.role, "trustee")

    def test_an_estate_without_probate_names_nobody_yet(self):
        self.assertEqual([role for _, role, _ in who(Ownership("ESTATE OF OTTO KELM", "estate"))], ["for the estate", "heirs"])

    def test_a_representative_signs_for_the_dead_and_the_living_for_themselves(self):
        parties = [
            CaseParty("probate", "P1", "decedent", "OTTO KELM"), CaseParty("probate", "P1", "personal-representative", "IDA KELM"),
            CaseParty("probate", "P1", "heir", "MAX KELM"),
        ]  # fmt: skip
        self.assertEqual(
            who(Ownership("KELM DORA & OTTO", "couple"), *parties),
            [("DORA KELM", "owner", False), ("IDA KELM", "personal representative", True), ("MAX KELM", "heir", True)],
        )
        self.assertEqual(who(Ownership("KELM OTTO", "individual"), parties[0])[0], ("a personal representative", "for the estate", True))

    def test_a_spouse_in_divorce_signs_too_once(self):
        parties = [CaseParty("divorce", "D1", "petitioner", "KELM, DORA"), CaseParty("divorce", "D1", "respondent", "OTTO KELM")]
        self.assertEqual([name for name, _, _ in who(Ownership("KELM DORA", "individual"), *parties)], ["DORA KELM", "OTTO KELM"])

    def test_a_trustee_in_bankruptcy_signs(self):
        found = who(
            Ownership("KELM DORA", "individual"),
            CaseParty("bankruptcy", "B1", "trustee", "A LEDGER"),
            CaseParty("bankruptcy", "B1", "debtor", "DORA KELM"),
        )
        self.assertEqual(found[-1], ("A LEDGER", "trustee in bankruptcy", True))
        self.assertEqual(len(found), 2)

    def test_who_keeps_title_under_a_land_contract_signs(self):
        found = who(Ownership("KELM DORA", "individual", seller_keeps_title="Otto Kelm"))
        self.assertEqual(found[-1], ("Otto Kelm", "seller under a land contract", True))

    def test_a_last_deed_to_somebody_else_is_told(self):
        self.assertEqual(
            who(Ownership("KELM DORA", "individual", "New Buyer", differs=True))[-1], ("New Buyer", "grantee of the last deed", True)
        )
        self.assertEqual(len(who(Ownership("KELM DORA", "individual", "Dora Kelm", differs=False))), 1)
        self.assertEqual(len(who(Ownership("KELM DORA", "individual", "Dora Kelm", differs=None))), 1)

    def test_an_owner_who_is_not_known_is_said(self):
        self.assertEqual(who(Ownership("UNKNOWN", None)), [("the owner", "owner", True)])
