"""Documents of several parcels, sellers who financed, and whose a loan is. Common practice of title work and sales validation."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal

from jaded_ledger.core.facts.columns import derive_columns
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.ledger import Running, debt_on, movements
from jaded_ledger.core.finance.amortization import balance
from jaded_ledger.core.finance.debts import Ended, Loan, LoanEvent, Passing, loan_states, owed_on
from jaded_ledger.core.market.areas import Median, PriceLevels
from jaded_ledger.core.ownership.parties import Party, are_kin
from jaded_ledger.core.several_parcels import ALONE, Covered, covered_by
from jaded_ledger.core.title.holding import Acquired
from jaded_ledger.core.title.sales import DeedType, are_flips_known, flips, is_cash_purchase, is_seller_financed, purchase_loans
from tests.support.records import DAY, TODAY, ends, event, loan, of, roll, sale

ON_FILE = {"deeds": TODAY, "loans": TODAY, "liens": TODAY}
PAIR = Covered(("12-034-008",), Decimal("0.25"))
UNSHARED = Covered(("12-034-008",), None)
OSTROM = Party("HELEN OSTROM", "individual", ("ostrom",))
KELM = Party("DORA KELM", "individual", ("kelm",))
MARSH = Party("PIA MARSH", "individual", ("marsh",))


def owned(transfers=(), loans=(), **more) -> Findings:
    on_roll = {"roll": roll(land_value=Decimal(20_000), improvement_value=Decimal(80_000))}
    return of(ON_FILE, transfers=transfers, loans=loans, **(on_roll | more))


class Shares(unittest.TestCase):
    def test_a_price_is_shared_by_assessed_value(self) -> None:
        shares = covered_by({"1": Decimal(30_000), "2": Decimal(90_000), "3": Decimal(0)})
        self.assertEqual({number: one.share for number, one in shares.items()}, {"1": None, "2": None, "3": None}, "0 is no value")
        shares = covered_by({"1": Decimal(30_000), "2": Decimal(90_000)})
        self.assertEqual([shares[number].part_of(Decimal(66_600)) for number in "12"], [16_650, 49_950])
        self.assertEqual((shares["1"].others, shares["1"].parcels, ALONE.parcels), (("2",), 2, 1))
        self.assertIsNone(covered_by({"1": Decimal(1), "2": None})["1"].share)
        self.assertEqual((UNSHARED.part_of(Decimal(1)), PAIR.part_of(None)), (None, None))

    def test_of_one_parcel_all_is_its_own(self) -> None:
        self.assertEqual(covered_by({"1": Decimal(5)})["1"], Covered((), Decimal(1)))

    def test_columns_show_the_whole_price_and_figure_with_the_part(self) -> None:
        columns = derive_columns(owned([sale(date(2020, 5, 1), 66_600, covered=PAIR)], roll=roll(living_area=1_000)))
        self.assertEqual((columns["last_sale_price"], columns["sale_parcels"], columns["sale_sqft"]), (66_600, 2, 16.65))
        columns = derive_columns(owned([sale(date(2020, 5, 1), 66_600, covered=UNSHARED)], roll=roll(living_area=1_000)))
        self.assertEqual((columns["last_sale_price"], columns["sale_sqft"]), (66_600, None))

    def test_value_by_the_last_sale_is_of_the_part(self) -> None:
        levels = PriceLevels({2020: Median(Decimal(80), 5)}, Median(Decimal(80), 5))
        for covered, value in ((PAIR, 16_650), (UNSHARED, None), (ALONE, 66_600)):
            found = of(ON_FILE, county={"levels": levels}, transfers=[sale(date(2020, 5, 1), 66_600, covered=covered)])
            self.assertEqual(found.estimate.value if found.estimate else None, value, covered)


class Flips(unittest.TestCase):
    def test_the_same_parcels_are_compared_whole(self) -> None:
        (flip,) = flips([sale(date(2020, 1, 1), 60_000, covered=UNSHARED), sale(date(2021, 1, 1), 80_000, covered=UNSHARED)])
        self.assertEqual((flip.paid, flip.got, flip.margin), (60_000, 80_000, 20_000))

    def test_one_parcel_against_two_compares_its_part(self) -> None:
        bought = sale(date(2020, 1, 1), 66_600, covered=PAIR)
        self.assertEqual([flip.margin for flip in flips([bought, sale(date(2020, 6, 1), 20_000)])], [Decimal(3_350)])
        self.assertEqual(flips([bought, sale(date(2020, 6, 1), 16_650)]), (), "not for the same")

    def test_what_cannot_be_compared_is_not_known(self) -> None:
        pair = [sale(date(2020, 1, 1), 66_600, covered=UNSHARED), sale(date(2022, 1, 1), 90_000)]
        self.assertEqual((flips(pair), are_flips_known(pair)), ((), False))
        self.assertTrue(are_flips_known([pair[0], sale(date(2022, 1, 2), 90_000)]), "a day too late to be one")
        columns = derive_columns(owned(pair))
        self.assertEqual((columns["flips"], columns["was_flipped"]), (None, None))
        self.assertEqual(derive_columns(owned())["flips"], 0)


class Blanket(unittest.TestCase):
    LOAN = loan(date(2016, 11, 24), "purchase", 36_000, "0", 360)

    def test_a_loan_is_shared_in_balance_and_equity(self) -> None:
        for covered, owed, is_one in ((PAIR, 6_000, True), (UNSHARED, None, True), (ALONE, 24_000, False)):
            found = owned(loans=[self.LOAN._replace(covered=covered)])
            self.assertEqual((found.owed, found.has_blanket_loan), (owed, is_one), covered)
            self.assertEqual(found.equity.amount if found.equity else None, None if owed is None else 100_000 - owed)
            self.assertEqual(debt_on(found, TODAY), owed)
        self.assertIs(owned().has_blanket_loan, False)
        self.assertIsNone(of({}).has_blanket_loan, "loans are not on file")
        released = event(self.LOAN, "release", date(2020, 1, 1))
        self.assertIs(owned(loans=[self.LOAN._replace(covered=PAIR)], loan_events=released).has_blanket_loan, False, "it is no longer open")

    def test_the_statement_has_the_part(self) -> None:
        running = Running()
        for movement in movements(owned(loans=[self.LOAN._replace(covered=PAIR)])):
            running.take(movement)
        self.assertEqual(running.debt, 6_000)

    def test_a_refinance_of_the_same_parcels_is_compared_whole(self) -> None:
        first, again = self.LOAN._replace(covered=UNSHARED), loan(date(2016, 11, 25), "refinance", 28_800, covered=UNSHARED)
        self.assertEqual(ends(first, again), [Ended.REPLACED, None])
        self.assertEqual(ends(first, again._replace(covered=ALONE)), [None, None], "its share is not known")
        part = self.LOAN._replace(covered=PAIR)
        self.assertEqual(ends(part, loan(date(2016, 11, 25), "refinance", 7_200)), [Ended.REPLACED, None], "four fifths of a quarter")
        self.assertEqual(ends(part, loan(date(2016, 11, 25), "refinance", 7_199)), [None, None])


class SellerFinanced(unittest.TestCase):
    CONTRACT = sale(date(2020, 5, 1), 90_000, deed=DeedType.LAND_CONTRACT, grantor=OSTROM, grantee=KELM)

    def test_it_is_no_cash_purchase_and_its_debt_is_unknown(self) -> None:
        for one in (self.CONTRACT, sale(date(2020, 5, 1), recites_contract=True)):
            found = owned([one])
            self.assertEqual((found.is_cash_purchase, found.is_seller_financed), (False, True))
            self.assertEqual((found.owed, found.equity, found.is_free_and_clear, found.has_blanket_loan), (None, None, None, False))
            self.assertIsNone(derive_columns(found)["open_loans"])
            self.assertEqual((debt_on(found, one.recorded_on), debt_on(found, one.recorded_on - DAY)), (None, 0))
        for silent in (False, None):
            found = owned([sale(date(2020, 5, 1), recites_contract=silent)])
            self.assertEqual((found.is_cash_purchase, found.is_seller_financed, found.owed), (True, False, 0))
        self.assertIs(of({"deeds": TODAY}, transfers=[self.CONTRACT]).is_cash_purchase, False, "whatever is on file of loans")
        self.assertIsNone(owned().is_seller_financed, "no sale is on record")

    def test_a_recorded_balance_tells_the_debt(self) -> None:
        lent = loan(date(2020, 5, 1), "purchase", 36_000, "0", 360, borrower=KELM, lent_by=OSTROM)
        found = owned([self.CONTRACT], [lent])
        self.assertEqual((found.owed, found.is_free_and_clear), (36_000 - 78 * 100, False))
        bought = sale(date(2020, 5, 1), grantor=OSTROM, grantee=KELM)
        self.assertTrue(is_seller_financed(bought, [lent]), "the seller lent the price")
        self.assertFalse(is_seller_financed(bought, [lent._replace(lent_by=MARSH)]))
        self.assertFalse(is_cash_purchase(bought, [lent], TODAY))

    def test_the_deed_once_it_is_paid_is_no_second_sale(self) -> None:
        deed = sale(date(2024, 5, 1), 90_000, grantor=OSTROM, grantee=Party("DORA M KELM", "individual", ("kelm",)))
        found = owned([deed, self.CONTRACT])
        self.assertEqual(found.sales, [self.CONTRACT])
        self.assertEqual((found.holding.began, found.holding.by, found.holding.acquired), (self.CONTRACT, self.CONTRACT, Acquired.SALE))
        self.assertEqual((found.owed, found.is_free_and_clear), (0, True))
        for day, debt in ((date(2020, 4, 30), 0), (date(2020, 5, 1), None), (date(2024, 4, 30), None), (date(2024, 5, 1), 0)):
            self.assertEqual(debt_on(found, day), debt, day)
        running = Running()
        for movement in movements(found):
            running.take(movement)
        self.assertEqual(running.debt, 0)

    def test_a_deed_to_somebody_else_is_a_sale(self) -> None:
        for grantor, grantee in ((OSTROM, MARSH), (MARSH, KELM)):
            deed = sale(date(2024, 5, 1), 90_000, grantor=grantor, grantee=grantee)
            self.assertEqual(owned([self.CONTRACT, deed]).last_sale, deed)
        again = self.CONTRACT._replace(sold_on=date(2024, 5, 1), recorded_on=date(2024, 5, 1))
        self.assertEqual(owned([self.CONTRACT, again]).last_sale, again, "another contract is another sale")
        lost = sale(date(2024, 5, 1), None, deed=DeedType.SHERIFF)
        self.assertEqual(owned([self.CONTRACT, lost]).owed, 0, "lost by foreclosure")


class WhoseLoan(unittest.TestCase):
    SALE = sale(date(2020, 5, 1), grantor=OSTROM, grantee=KELM)

    def passing(self) -> Passing:
        return Passing(date(2020, 5, 1), True, OSTROM, KELM, 1)

    def test_a_purchase_loan_is_of_the_grantee_it_names(self) -> None:
        for borrower, is_buyers in ((KELM, True), (OSTROM, False), (MARSH, True), (Party(), True)):
            lent = loan(date(2020, 4, 20), borrower=borrower)
            self.assertEqual(bool(purchase_loans(self.SALE, [lent])), is_buyers, borrower)
            self.assertEqual(ends(lent, passings=[self.passing()]), [None if is_buyers else Ended.SOLD], borrower)

    def test_of_two_sales_within_days_each_has_its_own(self) -> None:
        resale = sale(date(2020, 5, 11), 250_000, grantor=KELM, grantee=MARSH)
        first, second = loan(date(2020, 5, 1), borrower=KELM), loan(date(2020, 5, 11), borrower=MARSH)
        both = [self.SALE, resale]
        self.assertEqual([purchase_loans(one, [first, second], both) for one in both], [[first], [second]])
        paid = purchase_loans(self.SALE, [second], both)
        self.assertIs(is_cash_purchase(self.SALE, paid, TODAY), True, "the resale's loan is not the first buyer's")
        passings = [self.passing(), Passing(date(2020, 5, 11), True, KELM, MARSH, 2)]
        self.assertEqual(ends(first, second, passings=passings), [Ended.SOLD, None])

    def test_kin(self) -> None:
        company = Party("KELM HARDWARE LLC", "company")
        for one, other, kin in [
            (OSTROM, Party("PETER OSTROM", "individual", ("ostrom",)), True), (OSTROM, KELM, False), (Party(), Party(), False),
            (company, Party("KELM HARDWARE, L.L.C.", "company"), True), (company, Party("PIKE HARDWARE LLC", "company"), False),
            (company, Party("KELM HARDWARE LLC", "trust"), True), (company, Party("KELM HARDWARE INC", "trust"), False),
        ]:  # fmt: skip
            self.assertIs(are_kin(one, other), kin, (one, other))


class OneFinancing(unittest.TestCase):
    def test_two_purchase_loans_of_one_day_are_closed_together(self) -> None:
        first, piggyback = loan(date(2016, 11, 24), "purchase", 80_000, "0"), loan(date(2016, 11, 24), "purchase", 20_000, "0", key=2)
        for amount, both in ((80_000, Ended.REPLACED), (79_999, None)):
            self.assertEqual(ends(first, piggyback, loan(date(2016, 11, 25), "refinance", amount)), [both, both, None], amount)
        apart = piggyback._replace(recorded_on=date(2016, 11, 23), number="other")
        found = {state.loan.recorded_on: state.ended for state in self.states(first, apart, loan(date(2016, 11, 25), "refinance", 64_000))}
        self.assertEqual(found[first.recorded_on], Ended.REPLACED)
        self.assertIsNone(found[apart.recorded_on])

    @staticmethod
    def states(*loans: Loan):
        return loan_states(loans, {}, [], TODAY)


class PartialReleases(unittest.TestCase):
    LOAN = loan(date(2010, 1, 4))

    def owed(self, events: dict[str, list[LoanEvent]], day: date = TODAY) -> Decimal | None:
        return owed_on(loan_states([self.LOAN], events, [], TODAY), day)

    def test_one_lowers_the_balance_by_its_amount(self) -> None:
        before = balance(Decimal(100_000), Decimal("0.06"), 360, 120)
        partial = event(self.LOAN, "partial-release", date(2020, 1, 4), 30_000)
        self.assertEqual(self.owed(partial, date(2020, 1, 3)), balance(Decimal(100_000), Decimal("0.06"), 360, 119))
        self.assertEqual(self.owed(partial, date(2020, 1, 4)), before - 30_000)
        self.assertEqual(self.owed(partial, date(2021, 1, 4)), balance(before - 30_000, Decimal("0.06"), 240, 12))
        self.assertEqual(self.owed(event(self.LOAN, "partial-release", date(2020, 1, 4), 900_000)), 0, "no more than is owed")

    def test_without_an_amount_the_balance_is_not_known_until_it_is_set_anew(self) -> None:
        partial = event(self.LOAN, "partial-release", date(2020, 1, 4))
        self.assertEqual((self.owed(partial), self.owed(partial, date(2020, 1, 4))), (None, None))
        self.assertIsNotNone(self.owed(partial, date(2020, 1, 3)))
        anew = event(self.LOAN, "modification", date(2022, 1, 4), 50_000)
        both = {self.LOAN.number: partial[self.LOAN.number] + anew[self.LOAN.number]}
        self.assertEqual(self.owed(both, date(2022, 1, 4)), 50_000)
        self.assertIsNone(self.owed(both, date(2022, 1, 3)))

    def test_of_a_credit_line_it_lowers_the_limit(self) -> None:
        line = loan(date(2015, 7, 2), "credit-line", 40_000)
        self.assertEqual(owed_on(loan_states([line], event(line, "partial-release", date(2020, 1, 4), 15_000), [], TODAY), TODAY), 25_000)

    def test_movements_add_up_to_the_balance(self) -> None:
        release = [LoanEvent(date(2024, 1, 4), "release", self.LOAN.number, None, 20)]
        for amount in (30_000, None):
            for after in ([], event(self.LOAN, "modification", date(2022, 1, 4), 99_000)[self.LOAN.number], release):
                events = {self.LOAN.number: [*event(self.LOAN, "partial-release", date(2020, 1, 4), amount)[self.LOAN.number], *after]}
                found, running = owned(loans=[self.LOAN], loan_events=events), Running()
                for movement in movements(found, [date(2012, 5, 5), date(2021, 6, 6)]):
                    running.take(movement)
                self.assertEqual(running.debt, found.owed, (amount, after))
