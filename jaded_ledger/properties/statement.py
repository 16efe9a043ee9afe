"""The statement: what is on record of a parcel as dated lines, oldest first."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from enum import StrEnum

from jaded_ledger.core.criteria.display import money_text
from jaded_ledger.core.distress.filings import CaseStatus
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.ledger import Balance, Movement, MovementOrder, Row, Running, dated_values, movements, value_on
from jaded_ledger.core.finance.loans import LoanKind
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.find.explanations import ROWS
from jaded_ledger.properties.record_kinds import PropertyRecord
from jaded_ledger.records import models
from jaded_ledger.records.models import Filed, RecordedName

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
class StatementLine:
    """One line. ``amount`` is a price; ``debit`` adds to what is owed and ``credit`` takes from it; ``number`` is the document's.

    ``balance`` is what is then owed, the value that day and the equity; None in a statement as of an earlier day.
    """

    day: date
    about: About
    document: str
    row: Filed | None
    party: str = ""
    note: str = ""
    amount: Decimal | None = None
    debit: Decimal | None = None
    number: str = ""
    credit: Decimal | None = None
    balance: Balance | None = None

    @property
    def is_computed(self) -> bool:
        """Whether no document says so: principal by schedule, or a debt that ends with another's beginning."""
        return self.row is None


def _name(name: RecordedName | None) -> str:
    return in_reading_case(name.text) if name else ""


def _between(one: RecordedName | None, other: RecordedName | None) -> str:
    return " to ".join(filter(None, (_name(one), _name(other))))


def _said(word: str) -> str:
    """Return a vocabulary's word as the beginning of a line."""
    text = word.replace("-", " ")
    return _SHORTENED.get(text) or text[:1].upper() + text[1:]


def _deeds(record: PropertyRecord) -> Iterator[StatementLine]:
    for row in record.rows(models.Transfer):
        parties, note = _between(row.grantor, row.grantee), "" if row.price is not None else "no price stated"
        yield StatementLine(
            row.recorded_on, About.TITLE, f"{_said(row.deed)} deed", row, parties, note, row.price, number=row.document_number
        )


def _terms(loan: models.Loan) -> str:
    years = f"{loan.term_months / 12:g} y" if loan.term_months else ""
    rate = f"{loan.rate.normalize():f} %" if loan.rate is not None else "rate not stated"
    return ", ".join(filter(None, (_said(loan.kind or "loan"), years, rate)))


def _debts(record: PropertyRecord) -> Iterator[StatementLine]:
    for one in record.rows(models.Loan):
        note = "to its full limit" if one.kind == LoanKind.CREDIT_LINE else one.rate_kind
        yield StatementLine(
            one.recorded_on, About.DEBT, _terms(one), one, _name(one.lender), note, debit=one.amount, number=one.document_number
        )
    for one in record.rows(models.LoanEvent):
        document = f"{_said(one.kind)} of {one.loan_number}"
        yield StatementLine(one.recorded_on, About.DEBT, document, one, _between(one.by, one.to), number=one.document_number)
    for one in record.rows(models.Lien):
        document = f"{_said(one.kind)} lien"
        yield StatementLine(one.recorded_on, About.DEBT, document, one, _name(one.claimant), debit=one.amount, number=one.document_number)
    for one in record.rows(models.LienRelease):
        paid = f"paid {money_text(one.amount)}" if one.amount is not None else ""
        yield StatementLine(one.recorded_on, About.DEBT, f"Release of lien {one.lien_number}", one, note=paid, number=one.document_number)


def _taxes(record: PropertyRecord) -> Iterator[StatementLine]:
    for one in sorted((year for year in record.rows(models.TaxYear) if year.due), key=lambda year: year.year):
        yield StatementLine(one.valid_from, About.TAX, f"Tax of {one.year} due", one, note="with interest, as of this day", debit=one.due)
    for one in record.rows(models.Exemption):
        yield StatementLine(one.since, About.TAX, f"{one.kind} exemption", one)
        if one.until:
            yield StatementLine(one.until, About.TAX, f"{one.kind} exemption ends", one)


def _courts(record: PropertyRecord) -> Iterator[StatementLine]:
    for one in record.rows(models.CourtCase):
        case, court = f"{_said(one.kind)} case", in_reading_case(one.court)
        yield StatementLine(one.filed_on, About.COURT, f"{case} filed", one, court, amount=one.amount, number=one.case_number)
        if one.status != CaseStatus.FILED and one.status_on:
            yield StatementLine(one.status_on, About.COURT, f"{case}: {one.status}", one, court, number=one.case_number)
    for one in record.rows(models.ForeclosureStep):
        step = f"Foreclosure: {one.step.replace('-', ' ')}"
        yield StatementLine(one.taken_on, About.COURT, step, one, _name(one.lender), amount=one.amount, number=one.case_number)
    for one in record.rows(models.Auction):
        note = f"at least {money_text(one.minimum_bid)}" if one.minimum_bid is not None else ""
        sale, party = f"{_said(one.kind)} auction, {one.status.replace('-', ' ')}", _name(one.buyer) or one.place
        yield StatementLine(one.held_on, About.COURT, sale, one, party, note, one.sold_for, number=one.case_number)


def _use(record: PropertyRecord) -> Iterator[StatementLine]:
    for one in record.rows(models.Permit):
        permit = f"Permit, {one.kind}" if one.kind else "Permit"
        yield StatementLine(one.issued_on, About.USE, permit, one, _name(one.contractor), one.description, one.cost, number=one.number)
    for one in record.rows(models.Violation):
        yield StatementLine(one.opened_on, About.USE, "Code violation", one, note=one.description, amount=one.fine, number=one.number)
        if one.closed_on:
            yield StatementLine(one.closed_on, About.USE, "Code violation closed", one, number=one.number)
    for one in record.rows(models.Vacancy):
        yield StatementLine(one.since, About.USE, "Noticed empty", one, note=one.noticed_by)
        if one.until:
            yield StatementLine(one.until, About.USE, "No longer empty", one, note=one.noticed_by)
    for one in record.rows(models.Rental):
        unit = f", {one.unit}" if one.unit else ""
        yield StatementLine(one.since, About.USE, f"Let{unit}", one, _name(one.tenant), one.noted_by, one.rent)
        if one.until:
            yield StatementLine(one.until, About.USE, f"No longer let{unit}", one, _name(one.tenant))


def _offers(record: PropertyRecord) -> Iterator[StatementLine]:
    for one in record.rows(models.Listing):
        begun = one.on_market_date or one.listing_contract_date or one.first_seen_on
        asked = one.lease_amount if one.lease_amount is not None else one.original_list_price or one.list_price
        office = one.list_office_name or one.originating_system_name
        yield StatementLine(begun, About.OFFERS, f"Listed, {one.offer}", one, office, amount=asked, number=one.listing_id)
        if one.standard_status == StandardStatus.CLOSED:
            yield StatementLine(
                one.close_date, About.OFFERS, "Listing closed", one, office, one.buyer_financing, one.close_price, number=one.listing_id
            )
    for one in record.rows(models.ListingEvent):
        day, listing = one.modification_timestamp, one.resource_record_id
        if one.field_name == "ListPrice":
            was = f"from {money_text(Decimal(one.previous_value))}" if one.previous_value else ""
            yield StatementLine(day, About.OFFERS, "Price changed", one, note=was, amount=Decimal(one.new_value), number=listing)
        elif one.new_value != StandardStatus.CLOSED:
            yield StatementLine(day, About.OFFERS, one.new_value, one, number=listing)


_CHAPTERS = (_deeds, _debts, _taxes, _courts, _use, _offers)
_ORDER = list(About)
_KIND_OF_ROW = {model: kind for kind, model in ROWS.items()}


def recorded_lines(record: PropertyRecord) -> list[StatementLine]:
    """Return a record's lines in the order of their days; of one day, title before debt before all else."""
    return sorted((line for chapter in _CHAPTERS for line in chapter(record)), key=lambda line: (line.day, _ORDER.index(line.about)))


def _releases(record: PropertyRecord) -> dict[Row, Row]:
    """Return the first release of each lien, by its own row, as the row of which a movement speaks."""
    liens = {lien.document_number: lien for lien in record.rows(models.Lien) if lien.document_number}
    found: dict[Row, Row] = {}
    seen = set()
    for release in sorted(record.rows(models.LienRelease), key=lambda row: row.recorded_on):
        if release.lien_number in liens and release.lien_number not in seen:
            seen.add(release.lien_number)
            found["released", release.pk] = ("lien-release", liens[release.lien_number].pk)
    return found


def statement(record: PropertyRecord, found: Findings) -> list[StatementLine]:
    """Return a record's lines as they stand, with what each adds to the debt or takes from it, and the debt, value and equity after it.

    Scheduled principal, and what ends a loan or a lien without a document of its own, are lines as well: debits less credits
    always make the debt.
    """
    recorded = recorded_lines(record)
    moving = movements(found, (line.day for line in recorded))
    by_row = {movement.row: movement for movement in moving if movement.row}
    releases = _releases(record)
    set_down: list[tuple[date, int, StatementLine, Movement | None]] = []
    for line in recorded:
        row = _row_of(line.row)
        movement = by_row.get(releases.get(("released", row[1]), row)) if line.about in (About.DEBT, About.TAX) else None
        moved = replace(line, debit=(movement.debit or None) if movement else None, credit=(movement.credit or None) if movement else None)
        place = movement.place if movement else 0 if line.about is About.TITLE else len(MovementOrder) + 1 + _ORDER.index(line.about)
        set_down.append((line.day, place, moved, movement))
    for movement in moving:
        if movement.row is None:
            line = StatementLine(movement.on, About.DEBT, movement.label, None, note=movement.note, credit=movement.credit)
            set_down.append((movement.on, movement.place, line, movement))
    return list(_balanced(sorted(set_down, key=lambda one: one[:2]), found))


def _row_of(row: Filed | None) -> Row:
    if isinstance(row, models.LienRelease):
        return ("released", row.pk)
    return (_KIND_OF_ROW.get(type(row), ""), row.pk if row else 0)


def _balanced(set_down: Iterable[tuple[date, int, StatementLine, Movement | None]], found: Findings) -> Iterator[StatementLine]:
    running, known = Running(), dated_values(found)
    for day, _, line, movement in set_down:
        if movement:
            running.take(movement)
        yield line if day > found.today else replace(line, balance=Balance(running.debt, value_on(known, day)))
