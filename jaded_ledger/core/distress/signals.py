"""Signs that an owner may have to sell: each dated, open or closed, with the row that tells of it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from enum import StrEnum
from typing import NamedTuple

from jaded_ledger.core.distress.filings import AuctionKind, AuctionStatus, CaseKind, CaseStatus, ForeclosureStepKind, LienKind


class SignalKind(StrEnum):
    """What kind of sign it is."""

    TAX_DELINQUENT = "tax delinquent"
    TAX_SUIT = "tax suit"
    TAX_JUDGMENT = "tax judgment"
    NOTICE_OF_DEFAULT = "notice of default"
    LIS_PENDENS = "lis pendens"
    FORECLOSURE_JUDGMENT = "foreclosure judgment"
    FORECLOSURE_AUCTION = "foreclosure auction"
    TAX_AUCTION = "tax auction"
    BANK_OWNED = "bank-owned"
    MECHANICS_LIEN = "mechanic’s lien"
    HOA_LIEN = "HOA lien"
    JUDGMENT_LIEN = "judgment lien"
    FEDERAL_TAX_LIEN = "federal tax lien"
    STATE_TAX_LIEN = "state tax lien"
    MUNICIPAL_LIEN = "municipal lien"
    CHILD_SUPPORT_LIEN = "child support lien"
    CODE_VIOLATION = "code violation"
    VACANCY = "vacancy"
    PROBATE = "probate"
    INHERITED = "inherited"
    DIVORCE = "divorce"
    BANKRUPTCY = "bankruptcy"
    EVICTION = "eviction filing"
    UNSOLD_LISTING = "expired or withdrawn listing"
    LONG_ON_MARKET = "long on the market"
    PRICE_CUTS = "price cuts"


@dataclass(frozen=True)
class Signal:
    """One sign. ``on`` is its day, ``closed_on`` when it ended; ``row`` the kind and key of the row that tells of it.

    ``confirmed_on`` is the day of the newest record that still shows what goes on: unpaid tax, a vacancy, an open violation.
    """

    kind: SignalKind
    on: date
    is_open: bool
    row: tuple[str, int]
    closed_on: date | None = None
    amount: Decimal | None = None
    confirmed_on: date | None = None

    @property
    def counts_from(self) -> date:
        """The day from which it fades: that of its filing, or as long as it goes on the day on which it was last confirmed."""
        return max(self.on, self.confirmed_on) if self.confirmed_on else self.on


class TaxYear(NamedTuple):
    """A year's tax. A tuple, because millions are read."""

    year: int
    land_value: Decimal | None
    improvement_value: Decimal | None
    market_value: Decimal | None
    billed: Decimal | None
    due: Decimal | None
    key: int = 0


class Case(NamedTuple):
    """A court case about the parcel. ``serves_lender`` tells whether a lender was served for its interest in the land."""

    kind: str
    filed_on: date
    status: str
    status_on: date | None
    amount: Decimal | None
    case_number: str
    serves_lender: bool
    key: int = 0


class Step(NamedTuple):
    """A step of a foreclosure."""

    taken_on: date
    step: str
    amount: Decimal | None
    key: int = 0


class Auction(NamedTuple):
    """A public sale."""

    held_on: date
    kind: str
    status: str
    minimum_bid: Decimal | None
    key: int = 0


class Lien(NamedTuple):
    """An involuntary lien, with the day of its release where one is recorded."""

    recorded_on: date
    kind: str
    amount: Decimal | None
    number: str
    released_on: date | None = None
    key: int = 0


class Episode(NamedTuple):
    """A code violation, or a time of standing empty, that began and may have ended."""

    since: date
    until: date | None
    key: int = 0


LIEN_SIGNALS = {
    LienKind.MECHANICS: SignalKind.MECHANICS_LIEN,
    LienKind.HOA: SignalKind.HOA_LIEN,
    LienKind.JUDGMENT: SignalKind.JUDGMENT_LIEN,
    LienKind.FEDERAL_TAX: SignalKind.FEDERAL_TAX_LIEN,
    LienKind.STATE_TAX: SignalKind.STATE_TAX_LIEN,
    LienKind.MUNICIPAL: SignalKind.MUNICIPAL_LIEN,
    LienKind.CHILD_SUPPORT: SignalKind.CHILD_SUPPORT_LIEN,
}
"""The sign that each kind of lien is."""
TOLD_BY: Mapping[SignalKind, str] = {
    SignalKind.TAX_DELINQUENT: "tax-years",
    SignalKind.TAX_SUIT: "cases",
    SignalKind.TAX_JUDGMENT: "cases",
    SignalKind.NOTICE_OF_DEFAULT: "foreclosures",
    SignalKind.LIS_PENDENS: "foreclosures",
    SignalKind.FORECLOSURE_JUDGMENT: "foreclosures",
    SignalKind.BANK_OWNED: "foreclosures",
    SignalKind.FORECLOSURE_AUCTION: "auctions",
    SignalKind.TAX_AUCTION: "auctions",
    **dict.fromkeys(LIEN_SIGNALS.values(), "liens"),
    SignalKind.CODE_VIOLATION: "violations",
    SignalKind.VACANCY: "vacancies",
    SignalKind.PROBATE: "cases",
    SignalKind.INHERITED: "deeds",
    SignalKind.DIVORCE: "cases",
    SignalKind.BANKRUPTCY: "cases",
    SignalKind.EVICTION: "cases",
    SignalKind.UNSOLD_LISTING: "listings",
    SignalKind.LONG_ON_MARKET: "listings",
    SignalKind.PRICE_CUTS: "listings",
}
"""The kind of record that tells of each sign."""
_CASES = {
    CaseKind.PROBATE: SignalKind.PROBATE,
    CaseKind.DIVORCE: SignalKind.DIVORCE,
    CaseKind.BANKRUPTCY: SignalKind.BANKRUPTCY,
    CaseKind.EVICTION: SignalKind.EVICTION,
}
_CASE_OVER = frozenset({CaseStatus.DISMISSED, CaseStatus.DISPOSED})
_STEPS = {
    ForeclosureStepKind.NOTICE_OF_DEFAULT: SignalKind.NOTICE_OF_DEFAULT,
    ForeclosureStepKind.LIS_PENDENS: SignalKind.LIS_PENDENS,
    ForeclosureStepKind.JUDGMENT: SignalKind.FORECLOSURE_JUDGMENT,
    ForeclosureStepKind.BANK_OWNED: SignalKind.BANK_OWNED,
}
_STEP_ORDER = (
    ForeclosureStepKind.NOTICE_OF_DEFAULT,
    ForeclosureStepKind.LIS_PENDENS,
    ForeclosureStepKind.JUDGMENT,
    ForeclosureStepKind.SALE_SCHEDULED,
    ForeclosureStepKind.SALE_POSTPONED,
    ForeclosureStepKind.SOLD,
    ForeclosureStepKind.BANK_OWNED,
)
_CALLED_OFF = frozenset({ForeclosureStepKind.REINSTATED, ForeclosureStepKind.DISMISSED})
AHEAD = frozenset({AuctionStatus.SCHEDULED, AuctionStatus.POSTPONED})
"""The statuses of an auction of which nothing is recorded yet."""
_AUCTIONS = {AuctionKind.FORECLOSURE: SignalKind.FORECLOSURE_AUCTION, AuctionKind.TAX: SignalKind.TAX_AUCTION}


def delinquent_years(years: Iterable[TaxYear], reach: date) -> list[TaxYear]:
    """Return the years whose tax is still due and was late on the day through which bills are on file.

    That of the year that was running then is not late: nobody has seen since whether it was paid.
    """
    return sorted(year for year in years if year.due and year.year < reach.year)


def open_foreclosure(steps: Iterable[Step], sold_on: Sequence[date]) -> list[Step]:
    """Return the steps of a foreclosure that is under way or ended with the lender, in order.

    What was reinstated or dismissed is over, and so is what lies before an arm's-length sale.
    """
    found: list[Step] = []
    for step in sorted(steps):
        if step.step in _CALLED_OFF:
            found = []
        else:
            found.append(step)
    last_sale = max(sold_on, default=date.min)
    return [step for step in found if step.taken_on > last_sale]


def furthest(steps: Iterable[Step]) -> Step | None:
    """Return the furthest of some steps: the stage of the foreclosure."""
    return max(steps, key=lambda step: (_STEP_ORDER.index(ForeclosureStepKind(step.step)), step.taken_on), default=None)


class Result(StrEnum):
    """What became of an auction beside what its record says."""

    UNKNOWN = "held, result unknown"


def is_held_unknown(auction: Auction, today: date, reach: date) -> bool:
    """Return whether an auction's day has passed, the county's records reach beyond it, and none tells what became of it."""
    return auction.status in AHEAD and auction.held_on < today and auction.held_on <= reach


def is_ahead(auction: Auction, today: date) -> bool:
    """Return whether an auction is still to be held."""
    return auction.status in AHEAD and auction.held_on >= today


def open_liens(liens: Iterable[Lien], sold_on: Sequence[date]) -> list[Lien]:
    """Return the liens neither released nor, as is common practice, paid from the price of a later arm's-length sale."""
    last_sale = max(sold_on, default=date.min)
    return sorted(
        (lien for lien in liens if lien.released_on is None and lien.recorded_on > last_sale), key=lambda lien: (lien.recorded_on, lien.key)
    )


def _of_taxes(years: Iterable[TaxYear], reach: date) -> Iterator[Signal]:
    late = delinquent_years(years, reach)
    if late:
        # A year's tax is late when the year is over.
        due = sum((one.due or Decimal(0) for one in late), Decimal(0))
        row = ("tax-year", late[-1].key)
        yield Signal(SignalKind.TAX_DELINQUENT, date(late[-1].year, 12, 31), True, row, amount=due, confirmed_on=reach)


def _of_cases(cases: Iterable[Case]) -> Iterator[Signal]:
    for case in cases:
        is_open = case.status not in _CASE_OVER
        row, over = ("case", case.key), None if is_open else case.status_on
        if case.kind == CaseKind.TAX:
            yield Signal(SignalKind.TAX_SUIT, case.filed_on, is_open, row, over, case.amount)
            if case.status == CaseStatus.JUDGMENT:
                yield Signal(SignalKind.TAX_JUDGMENT, case.status_on or case.filed_on, True, row, None, case.amount)
        elif case.kind in _CASES:
            # An eviction is over with its judgment; that it was filed still says something.
            is_open = is_open and not (case.kind == CaseKind.EVICTION and case.status == CaseStatus.JUDGMENT)
            yield Signal(_CASES[CaseKind(case.kind)], case.filed_on, is_open, row, None if is_open else case.status_on, case.amount)


def _of_foreclosure(steps: Sequence[Step], sold_on: Sequence[date]) -> Iterator[Signal]:
    still_open = set(open_foreclosure(steps, sold_on))
    for step in steps:
        if kind := _STEPS.get(ForeclosureStepKind(step.step)):
            yield Signal(kind, step.taken_on, step in still_open, ("foreclosure", step.key), amount=step.amount)


def _of_auctions(auctions: Iterable[Auction], today: date) -> Iterator[Signal]:
    for auction in auctions:
        if kind := _AUCTIONS.get(AuctionKind(auction.kind)):
            open_now = is_ahead(auction, today)
            yield Signal(
                kind, auction.held_on, open_now, ("auction", auction.key), None if open_now else auction.held_on, auction.minimum_bid
            )


def _of_liens(liens: Sequence[Lien], sold_on: Sequence[date]) -> Iterator[Signal]:
    still_open = set(open_liens(liens, sold_on))
    for lien in liens:
        yield Signal(
            LIEN_SIGNALS[LienKind(lien.kind)], lien.recorded_on, lien in still_open, ("lien", lien.key), lien.released_on, lien.amount
        )


@dataclass(frozen=True)
class Filed:
    """What is on record of a parcel that may be a sign of distress."""

    tax_years: Sequence[TaxYear] = ()
    cases: Sequence[Case] = ()
    steps: Sequence[Step] = ()
    auctions: Sequence[Auction] = ()
    liens: Sequence[Lien] = ()
    violations: Sequence[Episode] = ()
    vacancies: Sequence[Episode] = ()


def signals_of(filed: Filed, sold_on: Sequence[date], today: date, through: Mapping[str, date]) -> list[Signal]:
    """Return the signs that what was filed gives, open and closed.

    ``sold_on`` are the days of arm's-length sales, ``through`` the days through which each kind of record is on file.
    """
    signals = [
        *_of_taxes(filed.tax_years, min(today, through.get("tax-years", today))),
        *_of_cases(filed.cases),
        *_of_foreclosure(filed.steps, sold_on),
        *_of_auctions(filed.auctions, today),
        *_of_liens(filed.liens, sold_on),
    ]
    for kind, episodes, row in (
        (SignalKind.CODE_VIOLATION, filed.violations, "violation"),
        (SignalKind.VACANCY, filed.vacancies, "vacancy"),
    ):
        confirmed_on = min(today, through.get(TOLD_BY[kind], today))
        signals += [
            Signal(
                kind, episode.since, episode.until is None, (row, episode.key), episode.until,
                confirmed_on=confirmed_on if episode.until is None else None,
            )
            for episode in episodes
        ]  # fmt: skip
    return signals


def newest_open(signals: Iterable[Signal]) -> Mapping[SignalKind, Signal]:
    """Return the newest open sign of each kind."""
    found: dict[SignalKind, Signal] = {}
    for signal in signals:
        if signal.is_open and (signal.kind not in found or signal.on > found[signal.kind].on):
            found[signal.kind] = signal
    return found
