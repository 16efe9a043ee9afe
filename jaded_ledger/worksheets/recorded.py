"""What is on record of properties, as worksheets begin with it: of one, or of many in arrays."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

import numpy as np
from django.db.models import QuerySet

from jaded_ledger.comps.screening import ASKED_NOW
from jaded_ledger.core.deals.expressions import Numbers
from jaded_ledger.core.deals.figures import default_units
from jaded_ledger.core.deals.known import Recorded
from jaded_ledger.core.deals.roll import Building, BuildingSystem, RentedUnit, SystemKind
from jaded_ledger.core.deals.seller import Payoff
from jaded_ledger.core.deals.systems import SystemYear, system_years
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.records.models import Listing, Parcel, ParcelFacts, Permit, Unit
from jaded_ledger.worksheets.defaults import Places

_COLUMNS = (
    "list_price", "estimated_value", "living_area", "tax_bill", "hoa_fee", "units", "rent_in_place", "rent_advertised", "rent_potential",
    "rent_area", "frontage", "depth", "lot_sqft", "equity", "status", "neighborhood_id", "city_id", "county_id", "parcel_id",
)  # fmt: skip


@dataclass(frozen=True)
class RecordedParcels:
    """Properties in columns: their ids, what is on record, where each is, and all that is owed on it."""

    ids: Sequence[int]
    record: Recorded
    places: Sequence[Places]
    owed: Numbers


def _column(values: Iterable[Any]) -> Numbers:
    return np.array([np.nan if value is None else float(value) for value in values], dtype=np.float64)


def recorded_parcels(rows: QuerySet[ParcelFacts]) -> RecordedParcels:
    """Return what is on record of some properties. A price counts while it is asked."""
    found = dict(zip(_COLUMNS, zip(*rows.values_list(*_COLUMNS), strict=True), strict=False)) or dict.fromkeys(_COLUMNS, ())
    columns = {name: _column(found[name]) for name in _COLUMNS[:-5]}
    is_asked = np.isin(np.array([status or 0 for status in found["status"]]), list(ASKED_NOW))
    record = Recorded(
        list_price=np.where(is_asked & (columns["list_price"] > 0), columns["list_price"], np.nan),
        association_fee=columns["hoa_fee"], dwellings=columns["units"],
        **{name: columns[name] for name in (
            "estimated_value", "living_area", "tax_bill", "rent_in_place", "rent_advertised", "rent_potential", "rent_area", "frontage",
            "depth", "lot_sqft",
        )},
    )  # fmt: skip
    places = [Places(*ids) for ids in zip(found["neighborhood_id"], found["city_id"], found["county_id"], strict=True)]
    return RecordedParcels(found["parcel_id"], record, places, columns["estimated_value"] - columns["equity"])


def recorded(parcel: Parcel) -> tuple[Recorded, Places]:
    """Return what is on record of one property, and where it is."""
    many = recorded_parcels(ParcelFacts.objects.filter(pk=parcel.pk))
    if not many.ids:
        return Recorded(), Places()
    return one_of(many.record), many.places[0]


def one_of(record: Recorded) -> Recorded:
    """Return the record of the only property of some in columns."""
    return Recorded(**{name: float(np.atleast_1d(getattr(record, name))[0]) for name in Recorded.__dataclass_fields__})


def building_of(parcel: Parcel, record: Recorded, findings: Findings) -> tuple[Building, dict[SystemKind, SystemYear]]:
    """Return a building as it is on record: its units with their rents, and its systems with the years that are told of them."""
    years = _systems(parcel)
    systems = tuple(BuildingSystem(kind, float(years[kind].year) if kind in years else None) for kind in SystemKind)
    return Building(units=_units(parcel, record, findings), systems=systems), years


def _units(parcel: Parcel, record: Recorded, findings: Findings) -> tuple[RentedUnit, ...]:
    """Return the units by the rental register where it has them all, else one for each dwelling with its share of the rent."""
    usual = default_units(record)
    named = {unit.designator: unit for unit in Unit.objects.filter(parcel=parcel, superseded_at=None)}
    let = sorted(findings.let_now, key=lambda rental: (rental.unit, rental.key))
    if len(let) == len(usual) and all(rental.rent is not None for rental in let):
        rents = [(rental.unit, _float(rental.rent)) for rental in let]
    else:
        names = sorted(named) if len(named) == len(usual) else [unit.name for unit in usual]
        rents = [(name, unit.rent) for name, unit in zip(names, usual, strict=True)]
    return tuple(
        replace(
            unit, name=name or unit.name, rent=rent,
            area=float(area) if name in named and (area := named[name].living_area) else None,
        )
        for unit, (name, rent) in zip(usual, rents, strict=True)
    )  # fmt: skip


def _systems(parcel: Parcel) -> dict[SystemKind, SystemYear]:
    permits = Permit.objects.filter(parcel=parcel, superseded_at=None).values_list("issued_on", "kind", "description")
    listings = Listing.objects.filter(parcel=parcel, superseded_at=None).values_list(
        "listing_contract_date", "first_seen_on", "public_remarks", "private_remarks"
    )
    return system_years(
        [(day, f"{kind} {description}") for day, kind, description in permits],
        [(listed or seen, f"{public} {private}") for listed, seen, public, private in listings],
    )


def _float(value: Decimal | None) -> float | None:
    return None if value is None else float(value)


def payoffs_of(found: Findings) -> list[Payoff]:
    """Return what is to be paid off of a property at closing, from its open loans, liens and taxes due."""
    payoffs = []
    for state in found.open_loans:
        loan, said = state.loan, f"recorded {state.loan.recorded_on:%Y}"
        said += (
            ", the full limit of a credit line"
            if state.is_line
            else ", as scheduled" + (" at an assumed rate" if state.is_rate_assumed else "")
        )
        who = in_reading_case(loan.lender) or "a lender not named"
        payoffs.append(Payoff(f"loan-{loan.key}", f"{loan.kind.replace('-', ' ')} loan, {who}", _float(state.owed_on(found.today)), said))
    if found.is_debt_unknown:
        why = (
            "owed under a land contract" if found.open_contract is not None
            else "a lender is at law, and no loan of it is on record" if found.is_loan_missing
            else "the county's loans are not on file"
        )  # fmt: skip
        payoffs.append(Payoff("other-loans", f"other loans: {why}", None))
    for lien in found.open_liens:
        payoffs.append(
            Payoff(f"lien-{lien.key}", f"{str(lien.kind).replace('-', ' ')} lien", _float(lien.amount), f"recorded {lien.recorded_on:%Y}")
        )
    if not found.county.has("liens"):
        payoffs.append(Payoff("other-liens", "liens: the county's are not on file", None))
    for year in found.delinquent:
        payoffs.append(Payoff(f"taxes-{year.year}", f"taxes of {year.year}", _float(year.due), "with interest as of the file's day"))
    return payoffs
