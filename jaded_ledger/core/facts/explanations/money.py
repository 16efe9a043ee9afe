"""How value, debt, equity and taxes are explained."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.facts.explanations.entries import (
    Entry,
    Source,
    counted,
    day,
    figure,
    kind_text,
    money,
    not_on_file,
    on_roll,
    part_of_price,
)
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.finance import rates
from jaded_ledger.core.finance.amortization import payments_due
from jaded_ledger.core.finance.debts import LoanState
from jaded_ledger.core.finance.loans import LoanEventKind
from jaded_ledger.core.several_parcels import listed_numbers


def value(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Each way in which the value can be told, and those that can't be."""
    estimate, sale, area = found.estimate, found.last_sale, found.record.area
    parts = {part.way: part for part in estimate.parts} if estimate else {}
    ways = (
        ("assessed", "As assessed", on_roll(found), "no assessed value above 0 is on the roll"),
        (
            "last sale",
            "By the last sale",
            (Source("deed", sale.key),) if sale else (),
            "no sale of a known price for it alone, or too few sales of its year or of now",
        ),
        ("area", "By the area’s sales", on_roll(found), f"no living area, or too few sales in {area.name or 'the area'}"),
    )
    for way, label, sources, missing in ways:
        part = parts.get(way)
        yield Entry(label, money(part.amount) if part else "·", part.how if part else missing, sources if part else ())
        if way == "last sale" and sale and sale.covered.others:
            yield from part_of_price(sale)
    if estimate is None:
        return
    how = {1: "the only one", 2: "their mean"}.get(len(parts), "their median")
    yield Entry("Estimated value", money(estimate.value), f"{how}; from {money(estimate.low)} to {money(estimate.high)}", is_sum=True)
    if trait.key == "value-sqft":
        yield Entry("Living area", figure(found.roll.living_area if found.roll else None, "sq ft"), "", on_roll(found))


def _terms(one: LoanState, found: Findings) -> str:
    if one.is_line:
        return "a credit line, at its full limit"
    rate = f"{one.rate * 100:.3f}".rstrip("0").rstrip(".")
    year = one.loan.recorded_on.year
    rate_text = f"{rate} %, {year}’s average: none is recorded ({rates.SOURCE})" if one.is_rate_assumed else f"{rate} %"
    paid = min(payments_due(one.begins_on, found.today), one.months)
    return f"{money(one.loan.amount)} at {rate_text} over {one.months} months, {paid} paid"


def _blanket(one: LoanState, found: Findings) -> str:
    """Return what a loan on several parcels is as a whole, and how much of it is this parcel's."""
    covered = one.loan.covered
    if not covered.others:
        return ""
    share = f"{figure(covered.share * 100)} % by assessed value" if covered.share is not None else "a share that is not known"
    whole = money(one.whole_owed_on(found.today))
    return f"; {share} of {whole} owed on {covered.parcels:,} parcels, with {listed_numbers(covered.others)}"


def _partly_released(one: LoanState, found: Findings) -> Iterator[Entry]:
    for restart in one.restarts:
        if restart.kind is LoanEventKind.PARTIAL_RELEASE and restart.on <= found.today:
            note = "the balance after it, of the whole loan" if restart.principal is not None else "its amount is not recorded"
            yield Entry(f"Partial release of {day(restart.on)}", money(restart.principal), note, (Source("loan-event", restart.key),))


def loans(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Each loan: what is owed on it, or why it is no longer open."""
    yield from not_on_file(found, "loans")
    for one in found.loans:
        loan = one.loan
        label = f"{kind_text(loan.kind) or 'Loan'} of {day(loan.recorded_on)}, {loan.lender.title() or 'lender not stated'}"
        sources = (Source("loan", loan.key),) + ((Source(*one.ended_by),) if one.ended_by else ())
        if one.is_open_on(found.today):
            yield Entry(label, money(one.owed_on(found.today)), f"{_terms(one, found)}{_blanket(one, found)}", sources)
            yield from _partly_released(one, found)
        else:
            yield Entry(label, "closed", f"{one.ended}, {day(one.ended_on)}", sources)
    if not found.loans and found.county.has("loans"):
        yield Entry("Loans on record", "none")
    if contract := found.open_contract:
        note = "the seller financed it, and how much is still owed is not recorded"
        yield Entry(f"Sale of {day(contract.sold_on)}", "·", note, (Source("deed", contract.key),))
    if found.is_loan_missing:
        rows = tuple(Source(*row) for row in found.lenders_at_law)
        yield Entry("A lender is at law", "·", "served in a tax suit, or foreclosing: the deed records may lack its loan", rows)
    yield Entry("Owed on open loans", money(found.owed), is_sum=True)


def equity(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Value less loans, liens and taxes."""
    yield from not_on_file(found, "loans", "liens")
    worth, owed = found.estimate.value if found.estimate else None, found.owed
    yield Entry("Estimated value", money(worth), "open its own figure to see how it is told")
    open_ones = tuple(Source("loan", loan.loan.key) for loan in found.open_loans)
    yield Entry("Open loans", _less(owed), f"{len(found.open_loans) or 'none'} open", open_ones)
    if trait.key == "ltv":
        yield Entry("Loans in percent of value", figure(owed / worth * 100 if worth and owed is not None else None, "%"), is_sum=True)
        return
    liens = tuple(Source("lien", lien.key) for lien in found.open_liens)
    yield Entry("Involuntary liens", _less(found.lien_total), f"{len(found.open_liens) or 'none'} open", liens)
    taxes = tuple(Source("tax-year", one.key) for one in found.delinquent)
    due = found.tax_due if found.county.has("tax-years") else Decimal(0)
    note = counted(len(found.delinquent), "year") if found.delinquent else "none due" if due is not None else "no tax year is on record"
    yield Entry("Delinquent taxes", _less(due), note, taxes)
    own = found.equity
    yield Entry("Equity", money(own.amount if own else None), f"{figure(own.percent)} % of value" if own else "", is_sum=True)


def _less(amount: Decimal | None) -> str:
    return f"− {money(amount)}" if amount is not None else "·"


def taxes(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The tax years that tell."""
    yield from not_on_file(found, "tax-years")
    if trait.key in ("tax-years-delinquent", "tax-due"):
        for one in found.delinquent:
            yield Entry(f"Due of {one.year}", money(one.due), f"billed {money(one.billed)}", (Source("tax-year", one.key),))
        yield Entry("Due in all", money(found.tax_due), counted(len(found.delinquent), "year"), is_sum=True)
        return
    last = found.last_tax_year
    if last is None:
        yield Entry("Tax years on record", "none")
    elif trait.key == "tax-bill":
        yield Entry(f"Billed for {last.year}", money(last.billed), "", (Source("tax-year", last.key),), is_sum=True)
    else:
        years = 1 if trait.key == "market-value-1y" else 5
        for year in (last.year - years, last.year):
            if year in found.tax_years:
                one = found.tax_years[year]
                yield Entry(f"Market value of {year}", money(one.market_value), "", (Source("tax-year", one.key),))
        yield Entry("Change", figure(found.market_value_change(years), "%"), is_sum=True)


def assessed(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Land and improvements."""
    roll = found.roll
    yield Entry("Land", money(roll.land_value if roll else None), "", on_roll(found))
    yield Entry("Improvements", money(roll.improvement_value if roll else None), "", on_roll(found))
    yield Entry("Assessed", money(found.assessed), is_sum=True)
