"""The constants and lines of a county's comps: measured, and as a team set them by hand."""

from __future__ import annotations

import math
from collections.abc import Mapping
from datetime import date
from functools import lru_cache

import numpy as np
from django.db.models import Q
from django.db.models.functions import Lower

from jaded_ledger.accounts.audit import AuditKind, note
from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.acts import COMPS
from jaded_ledger.comps.models import CompSettings
from jaded_ledger.comps.sales_on_record import county_sales, forget_sales
from jaded_ledger.core.comps.constants import LIKENESS_KEYS, Constants, measure, set_by_hand
from jaded_ledger.core.comps.lines import USUAL_OF_HOUSES, USUAL_OF_LAND, PoolLine, parse_lines
from jaded_ledger.core.comps.size_step import size_step
from jaded_ledger.core.comps.terms import CONDITIONS, GRADES, OF_HOUSES, OF_LAND
from jaded_ledger.core.criteria.catalogue.choices import CLASSES
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import AreaFigures, County, RecordedText
from jaded_ledger.records.versions import county_version

_HELD = 64
SIZE_STEP = "size-step"
OF_LAND_ALONE = "land-"
"""Begins the key of a constant that is set for land."""
_KEYS = {term.key: term for term in OF_HOUSES} | {f"{OF_LAND_ALONE}{term.key}": term for term in OF_LAND}
SHARES = {key for key, term in _KEYS.items() if term.shape == "share"}
PERCENTAGES = (_KEYS.keys() | {"time", f"{OF_LAND_ALONE}time"} | {f"grade-{grade}" for grade in GRADES}) - SHARES
_OF_CONDITION = "condition-"
"""Begins the key of a constant for one recorded condition."""
PLAIN = {SIZE_STEP: (100, 100_000), "likeness-miles": (0.01, 50), "likeness-months": (1, 600)}
"""What is set as it is typed, with the least and the most that it can be."""


class SettingsError(ValueError):
    """A value that can't be set; the message says which, and what could be."""


def names_of_kinds(codes: set[float]) -> dict[tuple[str, float], str]:
    """Return what the kinds of classes and conditions are called: conditions by their codes, and all that have an order."""
    names = {("property_class", float(choice.code)): choice.key for choice in CLASSES}
    conditions = RecordedText.objects.annotate(word=Lower("text")).filter(Q(pk__in=[int(code) for code in codes]) | Q(word__in=CONDITIONS))
    texts = conditions.values_list("pk", "text")
    return names | {("condition", float(pk)): text.lower() for pk, text in texts}


def _growth(county: County) -> float | None:
    return AreaFigures.objects.filter(area__kind="county", area__county=county).values_list("growth", flat=True).first()


@lru_cache(_HELD)
def _measured(county_id: int, version: str, today: date, day: date, is_land: bool) -> Constants:
    county = County.objects.get(pk=county_id)
    sales = county_sales(county, today)
    conditions = {float(code) for code in np.unique(sales.traits["condition"]) if not math.isnan(code)}
    return measure(sales, day, names_of_kinds(conditions), is_land=is_land, yearly_growth=_growth(county))


def forget_measured() -> None:
    """Forget what was read and measured of every county, as when another database is asked."""
    forget_sales()
    _measured.cache_clear()
    _step.cache_clear()


def measured(county: County, today: date, day: date, *, is_land: bool) -> Constants:
    """Return the constants of a county as of a day, as its sales tell them, or the shipped ones."""
    return _measured(county.pk, county_version(county.pk), today, day, is_land)


def settings_of(team: Team, county: County) -> CompSettings | None:
    return CompSettings.objects.filter(team=team, county=county).first()


def constants_of(county: County, today: date, day: date, settings: CompSettings | None, *, is_land: bool) -> Constants:
    """Return the constants that count: measured, with those in their place that the team set by hand."""
    found = measured(county, today, day, is_land=is_land)
    by_hand = {
        key.removeprefix(OF_LAND_ALONE): float(value)
        for key, value in (settings.constants if settings else {}).items()
        if key.startswith(OF_LAND_ALONE) is is_land or key in LIKENESS_KEYS
    }
    return set_by_hand(found, by_hand, OF_LAND if is_land else OF_HOUSES) if by_hand else found


def grade_amounts(settings: CompSettings | None) -> dict[str, float]:
    """Return by how much graded conditions change the log of a price, of those that were set."""
    set_ones = settings.constants if settings else {}
    return {grade: float(set_ones[f"grade-{grade}"]) for grade in GRADES if f"grade-{grade}" in set_ones}


def lines_of(settings: CompSettings | None, *, is_land: bool) -> tuple[PoolLine, ...]:
    """Return the lines that a pool begins with."""
    if settings and settings.lines and not is_land:
        return parse_lines(settings.lines)
    return USUAL_OF_LAND if is_land else USUAL_OF_HOUSES


def step_of(county: County, today: date, area: float, settings: CompSettings | None) -> tuple[float | None, str]:
    """Return the living area at which an area's dollars a square foot break, and where that comes from; None without one."""
    if settings and SIZE_STEP in settings.constants:
        return float(settings.constants[SIZE_STEP]), "set by hand"
    return _step(county.pk, county_version(county.pk), today, area), "from the area's own sales"


@lru_cache(_HELD)
def _step(county_id: int, version: str, today: date, area: float) -> float | None:
    sales = county_sales(County.objects.get(pk=county_id), today)
    here = sales.take(sales.traits["neighborhood"] == area).before(today, 730)
    return size_step(here.traits["living_area"], here.unit_price)


def _figure(key: str, text: str, least: float, most: float) -> float:
    try:
        value = float(text.replace("%", "").replace("−", "-").replace(",", "").strip())
    except ValueError:
        raise SettingsError(f"“{text[:30]}” is not a number for {key}; write it as 2.5") from None
    if not least <= value <= most:
        raise SettingsError(f"{key} goes from {least:g} to {most:g}; {value:g} does not")
    return value


def read_constants(typed: Mapping[str, str]) -> dict[str, float]:
    """Return constants from what was typed by their keys: shares as they are, all else in percent; blank ones are not set.

    Raises SettingsError.
    """
    found = {}
    for key, text in typed.items():
        if not text.strip():
            continue
        if key in PLAIN:
            found[key] = _figure(key, text, *PLAIN[key])
        elif key in SHARES:
            found[key] = _figure(key, text, 0, 2)
        elif key == "likeness-adjustment":
            found[key] = _figure(key, text, 1, 100) / 100
        elif key in PERCENTAGES or key.startswith(_OF_CONDITION):
            found[key] = math.log1p(_figure(key, text, -50, 100) / 100)
    return found


def set_settings(scope: Scope, county: County, lines: str, constants: Mapping[str, float]) -> CompSettings:
    """Set a county's lines and constants. Raises PoolError and PermissionDenied."""
    require(scope, COMPS)
    read = parse_lines(lines)
    found, _ = CompSettings.objects.update_or_create(
        team=scope.team, county=county,
        defaults={
            "lines": "\n".join(map(str, read)), "constants": dict(constants), "changed_by": scope.user, "changed_at": now(),
        },
    )  # fmt: skip
    note(scope, AuditKind.SETTING, f"comps of {county.name}")
    return found
