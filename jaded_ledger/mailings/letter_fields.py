"""What a letter can say of an owner and a property: each field with its meaning, and how its words come from what is on record."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from enum import StrEnum
from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue.choices import OWNER_KINDS
from jaded_ledger.core.criteria.display import money_text
from jaded_ledger.core.criteria.search import Members, Search
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.ownership.kinds import PEOPLE, OwnerKind
from jaded_ledger.core.title.holding import whole_years
from jaded_ledger.core.words import folded, words_of
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.mailings.mail_settings import Signature, signature_of
from jaded_ledger.maps.around_sale import sales_of, sales_of_list
from jaded_ledger.maps.models import SaleOfArea

CODE_OF = {kind: choice.code for choice in OWNER_KINDS for kind in OwnerKind if choice.key == kind.replace(" ", "-")}
"""By kind of owner what a parcel's facts have for it."""
_PEOPLE = {CODE_OF[kind] for kind in PEOPLE}
Row = Mapping[str, Any]
"""A parcel's columns by their names."""
CODE, PARCELS, PARCEL_LIST, PHONE = "code", "parcels", "parcel-list", "phone"


_NO_SIGNATURE = Signature()


class Section(StrEnum):
    """Where a field is offered beside the text."""

    OWNER = "The owner"
    PROPERTY = "The property"
    SALE = "The sale that the search is around"
    SENDER = "The sender"


@dataclass(frozen=True)
class LetterContext:
    """What all letters of a mailing say alike."""

    today: date
    sender: str
    team: str
    sale: SaleOfArea | None = None
    signature: Signature = _NO_SIGNATURE


def letter_context(scope: Scope, sale: SaleOfArea | None) -> LetterContext:
    """Return what the letters of a team's user say alike."""
    return LetterContext(scope.today, scope.user.display_name if scope.user else "", scope.team.name, sale, signature_of(scope))


@dataclass(frozen=True)
class LetterField:
    """A field: its name in braces, what it says, and its words; None where they are unknown. ``columns`` are those it is read from."""

    key: str
    section: Section
    meaning: str
    words: Callable[[Row, LetterContext], str | None]
    columns: tuple[str, ...] = ()


def long_day(day: date) -> str:
    """Return a date as letters have it.

    >>> long_day(date(2026, 11, 4))
    'November 4, 2026'
    """
    return f"{day:%B} {day.day}, {day.year}"


def _with_periods(name: str) -> str:
    return " ".join(f"{word}." if len(word) == 1 and word.isalpha() else word for word in name.split())


def salutation(name: str) -> str:
    """Return the name by which people are greeted, from the one on their envelope.

    >>> salutation("HELEN M & PETER OSTROM")
    'Helen M. and Peter Ostrom'
    """
    return _with_periods(in_reading_case(name).replace(" & ", " and "))


def salutation_of_body(name: str) -> str:
    """Return how a company, trust or estate is greeted: by its name, or whoever acts for it by their office.

    >>> salutation_of_body("KELM FAMILY TRUST"), salutation_of_body("ESTATE OF DORA KELM"), salutation_of_body("OAKUM HOLDINGS LLC")
    ('Trustee of the Kelm Family Trust', 'Executor of the Estate of Dora Kelm', 'Oakum Holdings LLC')
    """
    shown = in_reading_case(name)
    said = re.sub(r"^the ", "", shown, flags=re.IGNORECASE)
    words = set(words_of(said))
    if "trust" in words and not words & {"trustee", "trustees", "company", "bank"}:
        return f"Trustee of the {said}"
    return f"Executor of the {said}" if said.casefold().startswith("estate of ") else shown


def _salutation(row: Row, context: LetterContext) -> str | None:
    name = row["owner_name__mailing_name"]
    if not name or row["owner_kind"] is None:
        return None
    return salutation(name) if row["owner_kind"] in _PEOPLE else salutation_of_body(name)


def _street(row: Row, context: LetterContext) -> str | None:
    line = " ".join(filter(None, (row["address__street"], row["address__unit"])))
    return in_reading_case(line) or None


def _in_reading_case(column: str) -> Callable[[Row, LetterContext], str | None]:
    return lambda row, context: in_reading_case(row[column]) if row[column] else None


def _dollars(column: str) -> Callable[[Row, LetterContext], str | None]:
    return lambda row, context: None if row[column] is None else money_text(Decimal(row[column]))


def _number(column: str) -> Callable[[Row, LetterContext], str | None]:
    return lambda row, context: None if row[column] is None else f"{row[column]:,}"


def _years_owned(row: Row, context: LetterContext) -> str | None:
    if row["owned_since"] is None:
        return None
    years = whole_years(row["owned_since"], context.today)
    return "less than a year" if years < 1 else "a year" if years == 1 else f"{years} years"


def _owned_since(row: Row, context: LetterContext) -> str | None:
    return str(row["owned_since"].year) if row["owned_since"] else None


def _of_sale(words: Callable[[SaleOfArea], str | None]) -> Callable[[Row, LetterContext], str | None]:
    return lambda row, context: words(context.sale) if context.sale else None


def _days(sale: SaleOfArea) -> str | None:
    return None if sale.days is None else f"{sale.days:,} day{'' if sale.days == 1 else 's'}"


_LATER = "its words follow from the whole mailing"


def _later(row: Row, context: LetterContext) -> str | None:
    return None


FIELDS: Mapping[str, LetterField] = {
    field.key: field
    for field in (
        LetterField("salutation", Section.OWNER, "Helen M. and Peter Ostrom; Trustee of the Kelm Family Trust", _salutation,
                    ("owner_kind", "owner_name__mailing_name")),
        LetterField("owner", Section.OWNER, "the owner’s name as on an envelope", _in_reading_case("owner_name__mailing_name"),
                    ("owner_name__mailing_name",)),
        LetterField("years-owned", Section.OWNER, "17 years", _years_owned, ("owned_since",)),
        LetterField("owned-since", Section.OWNER, "2009", _owned_since, ("owned_since",)),
        LetterField(PARCELS, Section.OWNER, "how many properties of theirs the mailing is about", _later),
        LetterField(PARCEL_LIST, Section.OWNER, "their addresses, a line each", _later, ("address__street", "address__unit")),
        LetterField("address", Section.PROPERTY, "418 Capstan St", _street, ("address__street", "address__unit")),
        LetterField("city", Section.PROPERTY, "Alder Bay", _in_reading_case("address__city"), ("address__city",)),
        LetterField("neighborhood", Section.PROPERTY, "the assessor’s neighborhood", _in_reading_case("neighborhood__text"),
                    ("neighborhood__text",)),
        LetterField("parcel-number", Section.PROPERTY, "as the county prints it", lambda row, context: row["parcel__number"],
                    ("parcel__number",)),
        LetterField("year-built", Section.PROPERTY, "1962", lambda row, context: str(row["year_built"]) if row["year_built"] else None,
                    ("year_built",)),
        LetterField("living-area", Section.PROPERTY, "square feet", _number("living_area"), ("living_area",)),
        LetterField("assessed-value", Section.PROPERTY, "$312,000", _dollars("assessed_value"), ("assessed_value",)),
        LetterField("estimated-value", Section.PROPERTY, "$341,500", _dollars("estimated_value"), ("estimated_value",)),
        LetterField("sale-address", Section.SALE, "103 Capstan St", _of_sale(lambda sale: sale.address or None)),
        LetterField("sale-date", Section.SALE, "November 12, 2026",
                    _of_sale(lambda sale: long_day(sale.closed_on) if sale.closed_on else None)),
        LetterField("sale-price", Section.SALE, "$312,000",
                    _of_sale(lambda sale: money_text(sale.close_price) if sale.close_price is not None else None)),
        LetterField("sale-days", Section.SALE, "how long it was on the market: 2 days", _of_sale(_days)),
        LetterField("sender", Section.SENDER, "who makes the mailing", lambda row, context: context.sender or None),
        LetterField("team", Section.SENDER, "your team’s name", lambda row, context: context.team),
        LetterField(PHONE, Section.SENDER, "your phone number, from Prices and printers",
                    lambda row, context: context.signature.phone or None),
        LetterField("license", Section.SENDER, "your license line, from Prices and printers",
                    lambda row, context: context.signature.license or None),
        LetterField("today", Section.SENDER, "the day it is made", lambda row, context: long_day(context.today)),
        LetterField(CODE, Section.SENDER, "the piece’s reply code", _later),
    )
}  # fmt: skip


def lists_in(search: Search) -> Iterator[str]:
    """Yield the lists that a search includes."""
    for criterion in search:
        if criterion.trait == "on-list" and criterion.is_applied:
            yield from (name for value in criterion.accepts if isinstance(value, Members) for name in value.items)


def sale_of(search: Search, scope: Scope) -> SaleOfArea | None:
    """Return the sale that a mailing's search is around, or around which a list of it was found; the latest of several."""
    found = sales_of(search, scope)
    names = [folded(name) for name in lists_in(search)]
    for which in ParcelList.objects.filter(team=scope.team, folded__in=names, deleted=None) if names and not found else ():
        found += sales_of_list(which, scope)
    return max(found, key=lambda sale: (sale.closed_on or date.min, sale.pk), default=None)
