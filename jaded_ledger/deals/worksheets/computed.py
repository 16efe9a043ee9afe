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
class Computed:
    """A worksheet computed for a property. ``comps`` tell the value after repair; None where neither living area nor lot is known."""

    parcel: Parcel
    record: Recorded
    recorded: Building
    system_years: Mapping[SystemKind, SystemYear]
    figures: Figures
    seller: SellerSheet
    comps: Valuation | None
    findings: Findings
    grade: str


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


def computed(worksheet: Worksheet, parcel: Parcel, scope: Scope) -> Computed:
    """Return a worksheet's figures for a property, as of the team's today."""
    record, neighborhood = recorded(parcel)
    findings = Findings(record_of(parcel), scope.today)
    building, years = building_of(parcel, record, findings)
    comps = comps_of(parcel, record, scope)
    figures = compute(worksheet, record, building, defaults_of(scope, neighborhood), _estimates(comps))
    payoffs: list[Payoff] = payoffs_of(findings)
    seller = seller_sheet(figures.inputs, payoffs, worksheet.payoffs)
    return Computed(parcel, record, building, years, figures, seller, comps, findings, grade_of(scope, neighborhood))
