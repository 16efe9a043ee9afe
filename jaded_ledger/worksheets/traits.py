"""The traits of screening: what a worksheet that nobody has touched says of a property, by the team's own assumptions."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np
from django.db.models import FloatField, IntegerField

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.kept_values import among, asked_of, not_computed, value_of
from jaded_ledger.comps.models import CompRange
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.deals.expressions import Cell, Values, cells_of
from jaded_ledger.core.deals.figures import Figures, compute, default_units
from jaded_ledger.core.deals.inputs import Exit
from jaded_ledger.core.deals.known import Given, Origin, Recorded
from jaded_ledger.core.deals.reading import exact_text, reading_of, why_none
from jaded_ledger.core.deals.roll import Building
from jaded_ledger.core.deals.seller import Payoff, seller_sheet
from jaded_ledger.core.deals.worksheet import Worksheet
from jaded_ledger.core.facts.explanations.entries import Entry
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.records.models import Parcel, ParcelFacts
from jaded_ledger.worksheets.comp_values import with_calculated_comps
from jaded_ledger.worksheets.defaults import defaults_of
from jaded_ledger.worksheets.models import ScreenedParcel
from jaded_ledger.worksheets.recorded import one_of, recorded, recorded_parcels

_OFFER = "highest-offer"
NOT_SCREENED = "not computed: it is for what is on the market, and for lists whose page says so"


def screening_figures(parcel: Parcel, scope: Scope) -> tuple[Figures, Recorded]:
    """Return the figures of a worksheet that nobody has touched, at its list price, as screening has it."""
    found, places = recorded(parcel)
    record = one_of(with_calculated_comps(found, [parcel.pk], scope))
    asked = {"price": Given(record.list_price, Origin.LISTING, "its list price")}
    worksheet = Worksheet((Exit.RESALE, Exit.RENTAL))
    return compute(worksheet, record, Building(default_units(record)), defaults_of(scope, places), asked), record


def _lines(cell: Cell, values: Values, figures: Figures) -> Iterator[Entry]:
    """Yield the figures that a figure is made of, and what those are made of, to its third part."""
    for part in cells_of(cell.expression) if cell.expression else []:
        given = figures.given.get(part.key) if part.is_input else None
        how = reading_of(part, values) if not given else f"{given.origin}{', ' + given.said if given.said else ''}"
        yield Entry(part.label.capitalize(), exact_text(values.number(part), part.unit), how or why_none(part, values))


def _explain(key: str) -> Callable[[Parcel, Findings, Scope], Iterator[Entry]]:
    def explain(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
        row = ScreenedParcel.objects.filter(team=scope.team, parcel=parcel).first()
        if row is None:
            yield Entry("Screening", "", NOT_SCREENED)
            return
        figures, _ = screening_figures(parcel, scope)
        cell = figures.sheet.cells[key]
        calculated = CompRange.objects.filter(team=scope.team, parcel=parcel).first()
        if key == _OFFER and calculated:
            yield Entry("Comps calculated", day_text(calculated.computed_on))
        yield Entry("Screened", day_text(row.screened_on), reading_of(cell, figures.values) or why_none(cell, figures.values))
        yield from _lines(cell, figures.values, figures)

    return explain


def _explain_discount(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
    if not ScreenedParcel.objects.filter(team=scope.team, parcel=parcel).exists():
        yield Entry("Screening", "", NOT_SCREENED)
        return
    record, _ = recorded(parcel)
    for label, value, how in (("Estimated value", record.estimated_value, ""), ("Asking price", record.list_price, "while it is asked")):
        yield Entry(label, "·" if np.isnan(value) else f"${value:,.0f}", how)


def _explain_net(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
    if not ScreenedParcel.objects.filter(team=scope.team, parcel=parcel).exists():
        yield Entry("Screening", "", NOT_SCREENED)
        return
    figures, record = screening_figures(parcel, scope)
    many = recorded_parcels(ParcelFacts.objects.filter(pk=parcel.pk))
    owed = float(np.asarray(many.owed)[0]) if many.ids else np.nan
    price = record.estimated_value if np.isnan(record.list_price) else record.list_price
    payoff = Payoff("owed", "loans, liens and taxes due", None if np.isnan(owed) else owed)
    sheet = seller_sheet({**figures.inputs, "price": price}, [payoff], {})
    for line in sheet.lines[:-1]:
        yield Entry(
            line.cell.label.capitalize(), exact_text(sheet.values.number(line.cell), line.cell.unit), reading_of(line.cell, sheet.values)
        )


def _trait(
    trait: Trait, column: str, explain: Callable[[Parcel, Findings, Scope], Iterator[Entry]], field: type[FloatField] | type[IntegerField]
) -> TeamTrait:
    value = value_of(ScreenedParcel, column, field)
    return TeamTrait(
        trait, asked_of(ScreenedParcel, column), value, explain, among=among(ScreenedParcel, column),
        not_computed=not_computed(ScreenedParcel),
    )  # fmt: skip


_of_deals = partial(Trait, section=Section.VALUE, source="the record, by your team's assumptions in worksheets", of_team=True)
TEAM_TRAITS = (
    _trait(
        _of_deals(
            "cap-rate", "cap rate at asking", kind=Kind.PERCENT, decimals=2, synonyms=("cap rate", "capitalization rate"),
            meaning="what letting it would leave a year before loans, in percent of what is asked; for what is on the market",
            rule="net operating income ÷ list price: rent on record, or else the area's median, less what your team assumes",
        ),
        "cap_rate", _explain("rental.cap"), FloatField,
    ),
    _trait(
        _of_deals(
            "cash-on-cash", "cash on cash at asking", kind=Kind.PERCENT, decimals=2, synonyms=("cash return", "coc"),
            meaning="what letting it would leave a year after the loans your team assumes, in percent of the cash that goes in",
            rule="(net operating income − loans) ÷ (price + costs − borrowed), at what is asked",
        ),
        "cash_on_cash", _explain("rental.return"), FloatField,
    ),
    _trait(
        _of_deals(
            "discount-to-value", "discount to value", kind=Kind.PERCENT, decimals=2, synonyms=("below value", "under value", "discount"),
            meaning="how far its asking price lies under its estimated value, in percent of the value; below 0 it lies over it",
            rule="(estimated value − list price) ÷ estimated value",
        ),
        "discount_to_value", _explain_discount, FloatField,
    ),
    _trait(
        _of_deals(
            "highest-offer", "highest offer", kind=Kind.MONEY, synonyms=("max offer", "maximum allowable offer", "mao"),
            meaning="a share of its value after repair, less repairs and fee; that value is by comps where they are calculated for a list, "
            "else its estimated value",
            rule="value after repair (comps after repair, else comps as is, else estimated value) × share − repairs − fee, "
            "by your team's assumptions",
        ),
        "highest_offer", _explain("highest-offer"), IntegerField,
    ),
    _trait(
        _of_deals(
            "value-needed", "value comps must reach", kind=Kind.MONEY, synonyms=("needed value", "required arv"),
            meaning="the value that comps must reach for what is asked to be the highest offer",
            rule="(list price + repairs + fee) ÷ share, by your team's assumptions",
        ),
        "value_needed", _explain("value-needed"), IntegerField,
    ),
    _trait(
        _of_deals(
            "net-to-seller", "net to seller", kind=Kind.MONEY, synonyms=("seller's net", "seller proceeds", "net proceeds"),
            meaning="what its owner would walk away with at what is asked, or else at its estimated value",
            rule="price − loans, liens and taxes due − commission, transfer tax and closing, by your team's assumptions",
        ),
        "net_to_seller", _explain_net, IntegerField,
    ),
)  # fmt: skip
