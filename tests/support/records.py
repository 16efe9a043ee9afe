"""Records of one parcel as the core reads them, put together for a test: what is not given is usual or blank."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

from jaded_ledger.core.distress import signals as s
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.record import NOT_ON_ROLL, CountyRules, Described, RecordedParcel, Roll
from jaded_ledger.core.finance.debts import Ended, Loan, LoanEvent, loan_states
from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.market.on_market import (
    Change,
    Listing,
)
from jaded_ledger.core.title.sales import DeedType, Transfer

TODAY = date(2026, 11, 24)
DAY = timedelta(days=1)


def sale(day: date, price: int | None = 200_000, **more) -> Transfer:
    given = {"deed": DeedType.WARRANTY, "is_related": False, "recorded_on": day, "key": day.toordinal()} | more
    return Transfer(sold_on=day, price=None if price is None else Decimal(price), **given)


def loan(
    day: date, kind: str = "purchase", amount: int | None = 100_000, rate: str | None = "0.06", term: int | None = 360, **more
) -> Loan:
    terms = {"matures_on": None, "number": f"{day}-{kind}", "key": day.toordinal()} | more
    return Loan(day, None, kind, None if amount is None else Decimal(amount), rate and Decimal(rate), term, **terms)


def event(of: Loan, kind: str, day: date, amount: int | None = None) -> dict[str, list[LoanEvent]]:
    return {of.number: [LoanEvent(day, kind, of.number, amount and Decimal(amount), 9)]}


def ends(*loans: Loan, events=None, passings=()) -> list[Ended | None]:
    return [state.ended for state in loan_states(loans, events or {}, passings, TODAY)]


NOTHING = dict.fromkeys(Listing._fields) | {"source": "S", "conditions": "", "property_type": "Residential", "office": "", "key": 1}


def listing(number: str, begun: date, status: str = "Active", **more) -> Listing:
    return Listing(**(NOTHING | {"listing_id": number, "status": status, "on_market_date": begun, "first_seen_on": begun} | more))


def turned(day: date, before: str, after: str) -> Change:
    return Change(day, "StandardStatus", before, after)


EVERYWHERE = dict.fromkeys(
    ("deeds", "loans", "liens", "tax-years", "cases", "violations", "listings"), TODAY
)  # fmt: skip
SITUS = Address(AddressKind.STREET, "12 FERN RD", city="ODELL", state="OH", zip5="44001")
AWAY = Address(AddressKind.STREET, "9 QUARRY LN", city="BRANT", state="OH", zip5="44009")


def roll(**more) -> Roll:
    return Roll(**(NOT_ON_ROLL._asdict() | {"key": 1, "property_class": 1, "situs": SITUS, "mailing": SITUS} | more))


def described(**more) -> Described:
    return Described(**(dict.fromkeys(Described._fields) | {"occupant": "", "seller_role": "", "remarks": ()} | more))


def of(through=EVERYWHERE, county=None, today=TODAY, **record) -> Findings:
    rules = CountyRules(name="Odell Marsh", state="OH", through=through, **(county or {}))
    return Findings(RecordedParcel(rules, **record), today)


def case(kind: str, day: date, **more) -> s.Case:
    given = {"status": "filed", "status_on": None, "amount": None, "case_number": "", "serves_lender": False, "key": day.toordinal()}
    return s.Case(kind, day, **(given | more))
