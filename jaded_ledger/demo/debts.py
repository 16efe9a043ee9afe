"""Loans and liens: taken, assigned, refinanced, released, and now and then never released."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from itertools import zip_longest
from random import Random

from jaded_ledger.demo import people
from jaded_ledger.demo.books import Books
from jaded_ledger.demo.titles import DEEDS_SINCE, Home, Tenure

_RATES = {
    1990: 10.1,
    1994: 8.4,
    1998: 7.0,
    2001: 7.0,
    2004: 5.8,
    2008: 6.0,
    2012: 3.7,
    2016: 3.7,
    2019: 3.9,
    2020: 3.1,
    2022: 5.3,
    2023: 6.8,
    2026: 6.4,
}
"""What an invented lender asks for thirty years, by the year from which it holds."""


@dataclass
class OpenLoan:
    """A loan that has not been released."""

    document: str
    day: date
    amount: int
    lender: str
    months: int
    kind: str


def _rate(day: date, rng: Random) -> float:
    year = max(known for known in _RATES if known <= max(1990, day.year))
    return round((_RATES[year] + rng.uniform(-0.6, 0.9)) * 8) / 8


def _record(books: Books, home: Home, tenure: Tenure, day: date, amount: int, kind: str, rng: Random) -> OpenLoan:
    lender = tenure.lost_to or people.lender(rng)[0]
    months = rng.choices((360, 180, 240, 120), (78, 14, 6, 2))[0] if kind in ("purchase", "refinance") else rng.choice((120, 180, 240))
    document = books.document(day)
    tenure.borrowed.append((day, lender))
    rate = None if rng.random() < 0.15 else _rate(day, rng) + (1.5 if kind in ("second", "credit-line") else 0)
    books.enter(
        "loans", document_number=document, recorded_on=day, dated_on=day - timedelta(days=rng.randrange(0, 9)), kind=kind, amount=amount,
        rate=rate, rate_kind="adjustable" if kind == "credit-line" or rng.random() < 0.08 else "fixed", term_months=months,
        matures_on=None if rng.random() < 0.2 else day + timedelta(days=int(months * 30.44)), borrower=tenure.owner, lender=lender,
        parcel_number=";".join([home.number, *tenure.also]) if kind == "purchase" else home.number,
    )  # fmt: skip
    loan = OpenLoan(document, day, amount, lender, months, kind)
    if (
        not tenure.lost_to
        and rng.random() < 0.16
        and (moved := day + timedelta(days=rng.randrange(60, 900))) < books.county.recorded_through
    ):
        to, _ = people.lender(rng)
        if to != lender:
            books.enter(
                "loan-events",
                document_number=books.document(moved),
                recorded_on=moved,
                kind="assignment",
                loan_number=document,
                by=lender,
                to=to,
            )
            loan.lender = to
    return loan


def _release(books: Books, loan: OpenLoan, day: date, rng: Random) -> bool:
    """Record a release; seven in a hundred are forgotten."""
    day += timedelta(days=rng.randrange(6, 50))
    if rng.random() < 0.07 or day > books.county.recorded_through:
        return False
    books.enter(
        "loan-events", document_number=books.document(day), recorded_on=day, kind="release", loan_number=loan.document, by=loan.lender
    )
    return True


def _first_loan(books: Books, home: Home, tenure: Tenure, rng: Random) -> list[OpenLoan]:
    if tenure.since is None or tenure.recorded is None:
        return []
    odds = 0.25 if tenure.company is not None else 0.5
    if not tenure.is_sale or tenure.deed == "land-contract" or (tenure.until and (tenure.until - tenure.since).days < 340):
        return []
    if rng.random() > odds:
        return []
    amount = int(round((tenure.price or 0) * rng.uniform(0.68, 0.965), -2))
    return [_record(books, home, tenure, tenure.recorded, amount, "purchase", rng)]


def _refinances(books: Books, home: Home, tenure: Tenure, owed: list[OpenLoan], end: date, rng: Random) -> None:
    if rng.random() > (0.34 if owed else 0.1):
        return
    day = (tenure.since or DEEDS_SINCE) + timedelta(days=int(rng.expovariate(1 / 9) * 365) + 500)
    while day < end - timedelta(days=200):
        before = next((loan for loan in owed if loan.kind in ("purchase", "refinance")), None)
        worth = home.house.worth_on(day)
        share = 0.97 - 0.5 * (day - before.day).days / 365 / (before.months / 12) if before else 0.4
        amount = int(round(min(before.amount * max(share, 0.25) * rng.uniform(0.95, 1.25) if before else worth * 0.4, worth * 0.8), -2))
        if amount < 8_000:
            return
        owed.append(_record(books, home, tenure, day, amount, "refinance", rng))
        if before:
            _release(books, before, day, rng)
            owed.remove(before)
        day += timedelta(days=int(rng.expovariate(1 / 9) * 365) + 700)


def _what_was_lost(books: Books, home: Home, tenure: Tenure, end: date, rng: Random) -> OpenLoan:
    """Tell the loan of a house that a bank took: nobody loses one without having borrowed on it."""
    day = tenure.recorded or max(books.county.deeds_since, end - timedelta(days=rng.randrange(1500, 4000)))
    amount = max(9_000, int(round(home.house.worth_on(day) * rng.uniform(0.6, 0.85), -2)))
    return _record(books, home, tenure, day, amount, "purchase" if tenure.is_sale else "refinance", rng)


def _further_loans(books: Books, home: Home, tenure: Tenure, owed: list[OpenLoan], end: date, rng: Random) -> None:
    if tenure.company is not None or tenure.came_by == "foreclosed" or tenure.lost_to or not home.house.homes:
        return
    _refinances(books, home, tenure, owed, end, rng)
    day = (tenure.since or DEEDS_SINCE) + timedelta(days=rng.randrange(400, 4000))
    if rng.random() < 0.05 and day < end:
        amount = int(round(home.house.worth_on(day) * rng.uniform(0.08, 0.22), -3)) or 5_000
        owed.append(_record(books, home, tenure, day, amount, rng.choice(("credit-line", "credit-line", "second")), rng))


def _matures(loan: OpenLoan) -> date:
    return loan.day + timedelta(days=int(loan.months * 30.44))


def loans(books: Books, home: Home, rng: Random) -> list[OpenLoan]:
    """Tell a property's loans; return those that are open today."""
    owed: list[OpenLoan] = []
    for tenure, following in zip_longest(home.tenures, home.tenures[1:]):
        end = tenure.until or books.county.recorded_through
        owed += _first_loan(books, home, tenure, rng)
        if tenure.lost_to and not owed:
            owed.append(_what_was_lost(books, home, tenure, end, rng))
        _further_loans(books, home, tenure, owed, end, rng)
        for loan in [one for one in owed if _matures(one) < end]:
            _release(books, loan, _matures(loan), rng)
            owed.remove(loan)
        if following and following.came_by == "bought":
            for loan in owed:
                _release(books, loan, end, rng)
            owed = []
        elif tenure.lost_to:
            owed = []
    return owed


_CLAIMANTS = {
    "judgment": ("ALDER MUTUAL COLLECTIONS INC", "TIDEWATER CREDIT UNION", "HEARTHSTONE MEDICAL GROUP SC"),
    "federal-tax": ("UNITED STATES INTERNAL REVENUE SERVICE",), "state-tax": ("STATE DEPARTMENT OF REVENUE",),
    "municipal": ("CITY TREASURER", "VILLAGE UTILITY"), "child-support": ("COUNTY CHILD SUPPORT AGENCY",),
}  # fmt: skip


def liens(books: Books, home: Home, rng: Random) -> None:
    """Tell the liens on a property: a builder's after work that was not paid, an association's, a tax office's."""
    if rng.random() > 0.022 * home.lot.district.trouble or home.house.kind == "exempt":
        return
    owner, through = home.present, books.county.recorded_through
    kind = rng.choices(("judgment", "mechanics", "federal-tax", "state-tax", "municipal", "child-support"), (34, 20, 14, 14, 14, 4))[0]
    if home.unit and rng.random() < 0.6:
        kind = "hoa"
    first = max(owner.since or DEEDS_SINCE, through - timedelta(days=3600))
    day = first + timedelta(days=rng.randrange(0, max(1, (through - first).days)))
    if kind == "mechanics":
        claimant = people.contractor(rng)
        books.enter(
            "permits", parcel_number=home.number, number=f"B{day.year}-{books.serial('permit'):05d}", kind="alteration",
            description="Work stopped unpaid",
            issued_on=day - timedelta(days=90), cost=rng.randrange(9, 60) * 1000, contractor=claimant,
        )  # fmt: skip
    else:
        claimant = "HARBOUR FRONT CONDOMINIUM ASSOCIATION" if kind == "hoa" else rng.choice(_CLAIMANTS[kind])
    document = books.document(day)
    amount = rng.randrange(900, 31_000)
    books.enter(
        "liens",
        document_number=document,
        recorded_on=day,
        kind=kind,
        amount=amount,
        claimant=claimant,
        debtor=owner.owner,
        parcel_number=home.number,
    )
    home.notes.add("lien")
    paid = day + timedelta(days=rng.randrange(90, 1500))
    if rng.random() < 0.45 and paid < through:
        books.enter("lien-releases", document_number=books.document(paid), recorded_on=paid, lien_number=document, amount=amount)
