"""A worksheet with everything that it rests on: the record, the comps, what the team assumes, and its figures."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jaded_ledger.accounts.grades import grade_of
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.deals.figures import Figures, compute
from jaded_ledger.core.deals.known import Given, Origin, Recorded
from jaded_ledger.core.deals.roll import Building, SystemKind
from jaded_ledger.core.deals.seller import Payoff, SellerSheet, seller_sheet
from jaded_ledger.core.deals.systems import SystemYear
from jaded_ledger.core.deals.worksheet import Worksheet
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.deals.valuation import Valuation, in_set, value
from jaded_ledger.deals.worksheets.defaults import defaults_of
from jaded_ledger.deals.worksheets.recorded import building_of, payoffs_of, recorded
from jaded_ledger.records.models import Parcel
from jaded_ledger.records.reading import record_of


@dataclass(frozen=True)
class Basis:
    """What is on record of a property, whatever its worksheet says: read once for an edit and what comes of it."""

    parcel: Parcel
    record: Recorded
    recorded: Building
    system_years: Mapping[SystemKind, SystemYear]
    findings: Findings
    neighborhood: int | None


def basis_of(parcel: Parcel, scope: Scope) -> Basis:
    """Return what is on record of a property, as of the team's today."""
    record, neighborhood = recorded(parcel)
    findings = Findings(record_of(parcel, alone=True), scope.today)
    building, years = building_of(parcel, record, findings)
    return Basis(parcel, record, building, years, findings, neighborhood)


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


def _count(comps: Valuation) -> str:
    count = len(comps.chosen)
    return f"{count} comp{'' if count == 1 else 's'}"


def comps_of(parcel: Parcel, record: Recorded, scope: Scope) -> Valuation | None:
    """Return the comps that tell what a property would sell for: those after repair, or where there are none, as it stands."""
    if record.living_area != record.living_area and record.lot_sqft != record.lot_sqft:  # not a number
        return None
    repaired = value(parcel, scope, of_set="repaired", with_offers=False)
    return repaired if repaired.range else in_set(repaired, "as-is")


def _estimates(comps: Valuation | None) -> dict[str, Given]:
    if comps is None or comps.range is None:
        return {}
    said = _count(comps) + ("" if comps.of_set == "repaired" else ", as it stands: none was sold after repair")
    return {"arv": Given(float(round(comps.range.value)), Origin.ESTIMATED, said)}


def computed(worksheet: Worksheet, parcel: Parcel, scope: Scope, basis: Basis | None = None) -> Computed:
    """Return a worksheet's figures for a property, as of the team's today. ``basis`` is what was read of it already."""
    basis = basis or basis_of(parcel, scope)
    comps = comps_of(parcel, basis.record, scope)
    assumed = defaults_of(scope, basis.neighborhood)
    figures = compute(worksheet, basis.record, basis.recorded, assumed, _estimates(comps))
    payoffs: list[Payoff] = payoffs_of(basis.findings)
    seller = seller_sheet(figures.inputs, payoffs, worksheet.payoffs)
    return Computed(basis, figures, seller, comps, grade_of(scope, basis.neighborhood))
