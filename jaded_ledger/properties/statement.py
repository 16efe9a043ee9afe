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
from jaded_ledger.core.title.sales import DeedType
from jaded_ledger.find.explanations import ROWS
from jaded_ledger.properties.record_kinds import PropertyRecord
from jaded_ledger.properties.tables import doubts_text
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

    @property
    def doubts(self) -> str:
        """What of the document could not be so; blank for most."""
        return doubts_text(self.row) if self.row else ""


def _name(name: RecordedName | None) -> str:
    return in_reading_case(name.text) if name else ""


def _between(by: RecordedName | None, to: RecordedName | None) -> str:
    return " to ".join(filter(None, (_name(by), _name(to))))


def _said(word: str) -> str:
    """Return a vocabulary's word as the beginning of a line."""
    text = word.replace("-", " ")
    return _SHORTENED.get(text) or text[:1].upper() + text[1:]


def _for_parcels(row: models.Transfer | models.Loan | models.Lien) -> str:
    """Return for how many parcels a document's amount is; blank for one."""
    parcels = len(row.parcels.all())
    return f"for {parcels} parcels" if parcels > 1 else ""


def _deeds(record: PropertyRecord) -> Iterator[StatementLine]:
    for row in record.rows(models.Transfer):
        parties, note = _between(row.grantor, row.grantee), _for_parcels(row) if row.price is not None else "no price stated"
        document = _said(row.deed) + ("" if row.deed == DeedType.LAND_CONTRACT else " deed")
        yield StatementLine(row.recorded_on, About.TITLE, document, row, parties, note, row.price, number=row.document_number)


def _terms(loan: models.Loan) -> str:
    years = f"{loan.term_months / 12:g} y" if loan.term_months else ""
    rate = f"{loan.rate.normalize():f} %" if loan.rate is not None else "rate not stated"
    return ", ".join(filter(None, (_said(loan.kind or "loan"), years, rate)))


def _debts(record: PropertyRecord) -> Iterator[StatementLine]:
    for loan in record.rows(models.Loan):
        note = "to its full limit" if loan.kind == LoanKind.CREDIT_LINE else loan.rate_kind
        if several := _for_parcels(loan):
            whole = f"of {money_text(loan.amount)} " if loan.amount is not None else ""
            note = f"this parcel’s part {whole}{several}"
        yield StatementLine(
            loan.recorded_on, About.DEBT, _terms(loan), loan, _name(loan.lender), note, debit=loan.amount, number=loan.document_number
        )
    for event in record.rows(models.LoanEvent):
        document = f"{_said(event.kind)} of {event.loan_number}"
        yield StatementLine(event.recorded_on, About.DEBT, document, event, _between(event.by, event.to), number=event.document_number)
    for lien in record.rows(models.Lien):
        document = f"{_said(lien.kind)} lien"
        yield StatementLine(
            lien.recorded_on, About.DEBT, document, lien, _name(lien.claimant), debit=lien.amount, number=lien.document_number
        )
    for release in record.rows(models.LienRelease):
        paid = f"paid {money_text(release.amount)}" if release.amount is not None else ""
        yield StatementLine(
            release.recorded_on, About.DEBT, f"Release of lien {release.lien_number}", release, note=paid, number=release.document_number
        )


def _taxes(record: PropertyRecord) -> Iterator[StatementLine]:
    for tax_year in sorted((year for year in record.rows(models.TaxYear) if year.due), key=lambda year: year.year):
        yield StatementLine(
            tax_year.valid_from,
            About.TAX,
            f"Tax of {tax_year.year} due",
            tax_year,
            note="with interest, as of this day",
            debit=tax_year.due,
        )
    for exemption in record.rows(models.Exemption):
        yield StatementLine(exemption.since, About.TAX, f"{exemption.kind} exemption", exemption)
        if exemption.until:
            yield StatementLine(exemption.until, About.TAX, f"{exemption.kind} exemption ends", exemption)


def _courts(record: PropertyRecord) -> Iterator[StatementLine]:
    for court_case in record.rows(models.CourtCase):
        case, court = f"{_said(court_case.kind)} case", in_reading_case(court_case.court)
        yield StatementLine(
            court_case.filed_on, About.COURT, f"{case} filed", court_case, court, amount=court_case.amount, number=court_case.case_number
        )
        if court_case.status != CaseStatus.FILED and court_case.status_on:
            yield StatementLine(
                court_case.status_on, About.COURT, f"{case}: {court_case.status}", court_case, court, number=court_case.case_number
            )
    for foreclosure_step in record.rows(models.ForeclosureStep):
        step = f"Foreclosure: {foreclosure_step.step.replace('-', ' ')}"
        yield StatementLine(
            foreclosure_step.taken_on,
            About.COURT,
            step,
            foreclosure_step,
            _name(foreclosure_step.lender),
            amount=foreclosure_step.amount,
            number=foreclosure_step.case_number,
        )
    for auction in record.rows(models.Auction):
        note = f"at least {money_text(auction.minimum_bid)}" if auction.minimum_bid is not None else ""
        sale, party = _auction(auction, auction.status), _name(auction.buyer) or auction.place
        yield StatementLine(auction.held_on, About.COURT, sale, auction, party, note, auction.sold_for, number=auction.case_number)


def _auction(auction: models.Auction, result: str) -> str:
    return f"{_said(auction.kind)} auction, {result.replace('-', ' ')}"


def _use(record: PropertyRecord) -> Iterator[StatementLine]:
    for permit in record.rows(models.Permit):
        document = f"Permit, {permit.kind}" if permit.kind else "Permit"
        yield StatementLine(
            permit.issued_on, About.USE, document, permit, _name(permit.contractor), permit.description, permit.cost, number=permit.number
        )
    for violation in record.rows(models.Violation):
        yield StatementLine(
            violation.opened_on,
            About.USE,
            "Code violation",
            violation,
            note=violation.description,
            amount=violation.fine,
            number=violation.number,
        )
        if violation.closed_on:
            yield StatementLine(violation.closed_on, About.USE, "Code violation closed", violation, number=violation.number)
    for vacancy in record.rows(models.Vacancy):
        yield StatementLine(vacancy.since, About.USE, "Noticed empty", vacancy, note=vacancy.noticed_by)
        if vacancy.until:
            yield StatementLine(vacancy.until, About.USE, "No longer empty", vacancy, note=vacancy.noticed_by)
    for rental in record.rows(models.Rental):
        unit = f", {rental.unit}" if rental.unit else ""
        yield StatementLine(rental.since, About.USE, f"Let{unit}", rental, _name(rental.tenant), rental.noted_by, rental.rent)
        if rental.until:
            yield StatementLine(rental.until, About.USE, f"No longer let{unit}", rental, _name(rental.tenant))


def _offers(record: PropertyRecord) -> Iterator[StatementLine]:
    for listing in record.rows(models.Listing):
        begun = listing.on_market_date or listing.listing_contract_date or listing.first_seen_on
        asked = listing.lease_amount if listing.lease_amount is not None else listing.original_list_price or listing.list_price
        office = listing.list_office_name or listing.originating_system_name
        yield StatementLine(begun, About.OFFERS, f"Listed, {listing.offer}", listing, office, amount=asked, number=listing.listing_id)
        if listing.standard_status == StandardStatus.CLOSED:
            yield StatementLine(
                listing.close_date,
                About.OFFERS,
                "Listing closed",
                listing,
                office,
                listing.buyer_financing,
                listing.close_price,
                number=listing.listing_id,
            )
    for event in record.rows(models.ListingEvent):
        day, number = event.modification_timestamp, event.resource_record_id
        if event.field_name == "ListPrice":
            was = f"from {money_text(Decimal(event.previous_value))}" if event.previous_value else ""
            yield StatementLine(day, About.OFFERS, "Price changed", event, note=was, amount=Decimal(event.new_value), number=number)
        elif event.new_value != StandardStatus.CLOSED:
            yield StatementLine(day, About.OFFERS, event.new_value, event, number=number)


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
    results = {auction.key: found.auction_result(auction) for auction in found.record.filed.auctions}
    for line in recorded:
        if isinstance(line.row, models.Auction):
            line = replace(line, document=_auction(line.row, results.get(line.row.pk, line.row.status)))
        row = _row_of(line.row)
        movement = by_row.get(releases.get(("released", row[1]), row)) if line.about in (About.DEBT, About.TAX) else None
        moved = replace(line, debit=(movement.debit or None) if movement else None, credit=(movement.credit or None) if movement else None)
        place = movement.place if movement else 0 if line.about is About.TITLE else len(MovementOrder) + 1 + _ORDER.index(line.about)
        set_down.append((line.day, place, moved, movement))
    for movement in moving:
        if movement.row is None:
            line = StatementLine(movement.on, About.DEBT, movement.label, None, note=movement.note, credit=movement.credit or None)
            set_down.append((movement.on, movement.place, line, movement))
    return list(_balanced(sorted(set_down, key=lambda entry: entry[:2]), found))


def _row_of(row: Filed | None) -> Row:
    if isinstance(row, models.LienRelease):
        return ("released", row.pk)
    return (_KIND_OF_ROW.get(type(row), ""), row.pk) if row else ("", 0)


def _balanced(set_down: Iterable[tuple[date, int, StatementLine, Movement | None]], found: Findings) -> Iterator[StatementLine]:
    running, known = Running(), dated_values(found)
    for day, _, line, movement in set_down:
        if movement:
            running.take(movement)
        yield line if day > found.today else replace(line, balance=Balance(running.debt, value_on(known, day)))
