"""How far a range can be trusted: the same method on the past sales of the subject's area, or where those are few of its county."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from functools import partial
from hashlib import sha256

from django.core.cache import caches

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.models import CompSettings
from jaded_ledger.comps.sales_on_record import county_sales, of_area
from jaded_ledger.comps.settings_by_hand import constants_of
from jaded_ledger.comps.valuation import Subject, method_of, past_sales_after
from jaded_ledger.core.comps.constants import Constants
from jaded_ledger.core.comps.lines import PoolLine
from jaded_ledger.core.comps.trust import ENOUGH, Trust, back_test
from jaded_ledger.records.models import County
from jaded_ledger.records.versions import county_version

MOST = 200
"""So many past sales are told, the latest."""
_KEPT_SECONDS = 7 * 86_400


@dataclass(frozen=True)
class TrustHere:
    """How far a range can be trusted, and of which area the past sales are: blank for the county."""

    trust: Trust
    area: str


def constants_at(county: County, today: date, settings: CompSettings | None, is_land: bool, day: date) -> Constants:
    return constants_of(county, today, day, settings, is_land=is_land)


def _back_tested(subject: Subject, scope: Scope, lines: Sequence[PoolLine], settings: CompSettings | None) -> TrustHere:
    county = subject.parcel.county
    sales = county_sales(county, scope.today)
    after = past_sales_after(subject.house.day)
    here = of_area(sales, subject.house, MOST, after=after, is_near=True)
    is_here = len(here) >= ENOUGH
    rows = here if is_here else of_area(sales, subject.house, MOST, after=after, is_near=False)
    at = partial(constants_at, county, scope.today, settings, subject.is_land)
    return TrustHere(back_test(sales, rows, lines, at), "neighborhood" if is_here else "")


def trust_here(subject: Subject, scope: Scope, lines: Sequence[PoolLine]) -> TrustHere:
    """Return how far a range by some lines can be trusted. It is told once for each version of the facts and of what was set by hand."""
    settings = method_of(subject, scope, lines).settings
    asked = (
        subject.parcel.county_id, subject.house.value("neighborhood"), subject.is_land,
        county_version(subject.parcel.county_id), scope.today,
        [str(line) for line in lines], settings and (settings.pk, settings.changed_at),
    )  # fmt: skip
    key = f"comps-trust-{sha256(repr(asked).encode()).hexdigest()}"
    found: TrustHere | None = caches["tallies"].get(key)
    if found is None:
        found = _back_tested(subject, scope, lines, settings)
        caches["tallies"].set(key, found, _KEPT_SECONDS)
    return found
