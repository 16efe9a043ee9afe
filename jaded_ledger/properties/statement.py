"""The statement: what is on record of a parcel as dated lines, oldest first."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from enum import StrEnum

from jaded_ledger.core.criteria.display import money_text
from jaded_ledger.core.distress.filings import CaseStatus
from jaded_ledger.core.finance.loans import LoanKind
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.properties.kinds import Record
from jaded_ledger.records import models
from jaded_ledger.records.models import Filed, RecordedName, SourceFile

_SHORTENED = {"hoa": "HOA"}


class About(StrEnum):
    """What a line is about; the statement can be read for one alone."""

    TITLE = "title"
    DEBT = "loans and liens"
    TAX = "tax"
    COURT = "courts"
    USE = "permits and use"
    OFFERS = "listings"


@dataclass(frozen=True)
class Line:
    """One line. ``amount`` is a price; ``debit`` adds to what is owed; ``number`` is the document's."""

    day: date
    about: About
    document: str
    row: Filed
    party: str = ""
    note: str = ""
    amount: Decimal | None = None
    debit: Decimal | None = None
    number: str = ""

    @property
    def source_file(self) -> SourceFile:
        return self.row.source_file


def _name(name: RecordedName | None) -> str:
    return in_reading_case(name.text) if name else ""


def _between(one: RecordedName | None, other: RecordedName | None) -> str:
    return " to ".join(filter(None, (_name(one), _name(other))))


def _said(word: str) -> str:
    """Return a vocabulary's word as the beginning of a line."""
    text = word.replace("-", " ")
    return _SHORTENED.get(text) or text[:1].upper() + text[1:]


def _deeds(record: Record) -> Iterator[Line]:
    for one in record.rows(models.Transfer):
        parties, note = _between(one.grantor, one.grantee), "" if one.price is not None else "no price stated"
        yield Line(one.recorded_on, About.TITLE, f"{_said(one.deed)} deed", one, parties, note, one.price, number=one.document_number)


def _terms(loan: models.Loan) -> str:
    years = f"{loan.term_months / 12:g} y" if loan.term_months else ""
    rate = f"{loan.rate.normalize():f} %" if loan.rate is not None else "rate not stated"
    return ", ".join(filter(None, (_said(loan.kind or "loan"), years, rate)))


def _debts(record: Record) -> Iterator[Line]:
    for one in record.rows(models.Loan):
        note = "to its full limit" if one.kind == LoanKind.CREDIT_LINE else one.rate_kind
        yield Line(one.recorded_on, About.DEBT, _terms(one), one, _name(one.lender), note, debit=one.amount, number=one.document_number)
    for one in record.rows(models.LoanEvent):
        document = f"{_said(one.kind)} of {one.loan_number}"
        yield Line(one.recorded_on, About.DEBT, document, one, _between(one.by, one.to), number=one.document_number)
    for one in record.rows(models.Lien):
        document = f"{_said(one.kind)} lien"
        yield Line(one.recorded_on, About.DEBT, document, one, _name(one.claimant), debit=one.amount, number=one.document_number)
    for one in record.rows(models.LienRelease):
        paid = f"paid {money_text(one.amount)}" if one.amount is not None else ""
        yield Line(one.recorded_on, About.DEBT, f"Release of lien {one.lien_number}", one, note=paid, number=one.document_number)


def _taxes(record: Record) -> Iterator[Line]:
    for one in (year for year in record.rows(models.TaxYear) if year.due):
        yield Line(one.valid_from, About.TAX, f"Tax of {one.year} due", one, note="with interest, as of this day", debit=one.due)
    for one in record.rows(models.Exemption):
        yield Line(one.since, About.TAX, f"{one.kind} exemption", one)
        if one.until:
            yield Line(one.until, About.TAX, f"{one.kind} exemption ends", one)


def _courts(record: Record) -> Iterator[Line]:
    for one in record.rows(models.CourtCase):
        case, court = f"{_said(one.kind)} case", in_reading_case(one.court)
        yield Line(one.filed_on, About.COURT, f"{case} filed", one, court, amount=one.amount, number=one.case_number)
        if one.status != CaseStatus.FILED and one.status_on:
            yield Line(one.status_on, About.COURT, f"{case}: {one.status}", one, court, number=one.case_number)
    for one in record.rows(models.ForeclosureStep):
        step = f"Foreclosure: {one.step.replace('-', ' ')}"
        yield Line(one.taken_on, About.COURT, step, one, _name(one.lender), amount=one.amount, number=one.case_number)
    for one in record.rows(models.Auction):
        note = f"at least {money_text(one.minimum_bid)}" if one.minimum_bid is not None else ""
        sale, party = f"{_said(one.kind)} auction, {one.status.replace('-', ' ')}", _name(one.buyer) or one.place
        yield Line(one.held_on, About.COURT, sale, one, party, note, one.sold_for, number=one.case_number)


def _use(record: Record) -> Iterator[Line]:
    for one in record.rows(models.Permit):
        permit = f"Permit, {one.kind}" if one.kind else "Permit"
        yield Line(one.issued_on, About.USE, permit, one, _name(one.contractor), one.description, one.cost, number=one.number)
    for one in record.rows(models.Violation):
        yield Line(one.opened_on, About.USE, "Code violation", one, note=one.description, amount=one.fine, number=one.number)
        if one.closed_on:
            yield Line(one.closed_on, About.USE, "Code violation closed", one, number=one.number)
    for one in record.rows(models.Vacancy):
        yield Line(one.since, About.USE, "Noticed empty", one, note=one.noticed_by)
        if one.until:
            yield Line(one.until, About.USE, "No longer empty", one, note=one.noticed_by)
    for one in record.rows(models.Rental):
        unit = f", {one.unit}" if one.unit else ""
        yield Line(one.since, About.USE, f"Let{unit}", one, _name(one.tenant), one.noted_by, one.rent)
        if one.until:
            yield Line(one.until, About.USE, f"No longer let{unit}", one, _name(one.tenant))


def _offers(record: Record) -> Iterator[Line]:
    for one in record.rows(models.Listing):
        begun = one.on_market_date or one.listing_contract_date or one.first_seen_on
        asked = one.lease_amount if one.lease_amount is not None else one.original_list_price or one.list_price
        office = one.list_office_name or one.originating_system_name
        yield Line(begun, About.OFFERS, f"Listed, {one.offer}", one, office, amount=asked, number=one.listing_id)
        if one.standard_status == StandardStatus.CLOSED:
            yield Line(
                one.close_date, About.OFFERS, "Listing closed", one, office, one.buyer_financing, one.close_price, number=one.listing_id
            )
    for one in record.rows(models.ListingEvent):
        day, listing = one.modification_timestamp, one.resource_record_id
        if one.field_name == "ListPrice":
            was = f"from {money_text(Decimal(one.previous_value))}" if one.previous_value else ""
            yield Line(day, About.OFFERS, "Price changed", one, note=was, amount=Decimal(one.new_value), number=listing)
        elif one.new_value != StandardStatus.CLOSED:
            yield Line(day, About.OFFERS, one.new_value, one, number=listing)


def statement(record: Record) -> list[Line]:
    """Return a record's lines in the order of their days; of one day, title before debt before all else."""
    abouts = list(About)
    chapters = (_deeds, _debts, _taxes, _courts, _use, _offers)
    return sorted((line for chapter in chapters for line in chapter(record)), key=lambda line: (line.day, abouts.index(line.about)))
