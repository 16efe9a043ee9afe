"""A worksheet with everything that it rests on: the record, the comps, what the team assumes, and its figures."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jaded_ledger.accounts.grades import grade_of
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.pools import with_known_areas
from jaded_ledger.comps.valuation import Valuation, in_set, value
from jaded_ledger.core.comps.lines import PoolError, parse_lines
from jaded_ledger.core.deals.figures import Figures, compute
from jaded_ledger.core.deals.inputs import InputError
from jaded_ledger.core.deals.known import Origin, Recorded
from jaded_ledger.core.deals.roll import Building, SystemKind
from jaded_ledger.core.deals.seller import Payoff, SellerSheet, seller_sheet
from jaded_ledger.core.deals.systems import SystemYear
from jaded_ledger.core.deals.worksheet import Worksheet
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.records.models import Parcel
from jaded_ledger.records.reading import record_of
from jaded_ledger.worksheets.comp_values import with_comps
from jaded_ledger.worksheets.defaults import Places, defaults_of
from jaded_ledger.worksheets.recorded import building_of, payoffs_of, recorded


@dataclass(frozen=True)
class Basis:
    """What is on record of a property, whatever its worksheet says: read once for an edit and what comes of it."""

    parcel: Parcel
    record: Recorded
    recorded: Building
    system_years: Mapping[SystemKind, SystemYear]
    findings: Findings
    places: Places


def basis_of(parcel: Parcel, scope: Scope) -> Basis:
    """Return what is on record of a property, as of the team's today."""
    record, places = recorded(parcel)
    findings = Findings(record_of(parcel, alone=True), scope.today)
    building, years = building_of(parcel, record, findings)
    return Basis(parcel, record, building, years, findings, places)


@dataclass(frozen=True)
class Computed:
    """A worksheet computed for a property. ``comps`` tell the value after repair; None where neither living area nor lot is known."""

    basis: Basis
    figures: Figures
    seller: SellerSheet
    comps: Valuation | None
    grade: str

    @property
    def record(self) -> Recorded:
        return self.basis.record

    @property
    def recorded(self) -> Building:
        return self.basis.recorded

    @property
    def findings(self) -> Findings:
        return self.basis.findings

    @property
    def doubts_about_value(self) -> tuple[str, ...]:
        """What a reader should doubt in the value after repair, in sentences; nothing where the user set it."""
        if self.comps is None or self.comps.range is None or self.figures.given["arv"].origin is Origin.YOURS:
            return ()
        if self.comps.of_set == "repaired":
            return self.comps.doubts
        count = self.comps.range.count
        as_is = f"No comp sold after repair: this is the value as is, from {count} comp{'' if count == 1 else 's'}."
        return (as_is, *self.comps.doubts)


def comps_of(parcel: Parcel, record: Recorded, scope: Scope, pool: str | None = None) -> Valuation | None:
    """Return the comps that tell what a property would sell for: those after repair, or where there are none, those as is.

    ``pool`` are the lines to narrow them by; None for the property's own. Raises InputError for lines that can't be read.
    """
    if record.living_area != record.living_area and record.lot_sqft != record.lot_sqft:  # not a number
        return None
    try:
        lines = None if pool is None else with_known_areas(scope, parse_lines(pool))
    except PoolError as error:
        raise InputError(f"pool: {error}") from error
    repaired = value(parcel, scope, lines, "repaired", with_offers=False)
    return repaired if repaired.range else in_set(repaired, "as-is")


def computed(worksheet: Worksheet, parcel: Parcel, scope: Scope, basis: Basis | None = None) -> Computed:
    """Return a worksheet's figures for a property, as of the team's today. ``basis`` is what was read of it already."""
    basis = basis or basis_of(parcel, scope)
    comps = comps_of(parcel, basis.record, scope, worksheet.pool)
    assumed = defaults_of(scope, basis.places)
    figures = compute(worksheet, with_comps(basis.record, comps), basis.recorded, assumed)
    payoffs: list[Payoff] = payoffs_of(basis.findings)
    seller = seller_sheet(figures.inputs, payoffs, worksheet.payoffs)
    return Computed(basis, figures, seller, comps, grade_of(scope, basis.places.neighborhood))
