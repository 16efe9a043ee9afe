"""Where an input's value comes from: the record, an estimate on it, what is assumed until somebody knows better, or the user.

``Recorded`` holds numbers for one property or arrays for many, so that a worksheet that nobody has touched and the screening of thousands
begin with the same inputs.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from jaded_ledger.core.deals.expressions import Numbers
from jaded_ledger.core.deals.inputs import INPUTS


class Origin(StrEnum):
    """Whose word a value is."""

    RECORDED = "recorded"
    LISTING = "listing"
    ESTIMATED = "estimated"
    ASSUMED = "assumed"
    YOURS = "yours"


@dataclass(frozen=True)
class Given:
    """A value with whose word it is, and where that comes from in a few words."""

    value: Numbers
    origin: Origin
    said: str = ""


@dataclass(frozen=True)
class Recorded:
    """What is on record of a property, or of many in arrays; not a number where it is not known. Money is in dollars, rents are of a month.

    ``rent_area`` is the area's median rent of one dwelling like these. ``repaired_value`` and ``as_is_value`` come from comps, and
    ``repaired_comps`` and ``as_is_comps`` count those.
    """

    list_price: Numbers = np.nan
    estimated_value: Numbers = np.nan
    repaired_value: Numbers = np.nan
    repaired_comps: Numbers = np.nan
    as_is_value: Numbers = np.nan
    as_is_comps: Numbers = np.nan
    living_area: Numbers = np.nan
    tax_bill: Numbers = np.nan
    association_fee: Numbers = np.nan
    dwellings: Numbers = np.nan
    rent_in_place: Numbers = np.nan
    rent_advertised: Numbers = np.nan
    rent_potential: Numbers = np.nan
    rent_area: Numbers = np.nan
    frontage: Numbers = np.nan
    depth: Numbers = np.nan
    lot_sqft: Numbers = np.nan


def first_known(*values: Numbers) -> Numbers:
    """Return the first of some values that is known."""
    found = np.asarray(values[-1], dtype=np.float64)
    for value in reversed(values[:-1]):
        found = np.where(np.isnan(value), found, value)
    return found[()]


def _first_known(record: Recorded, choices: tuple[tuple[Numbers, Origin, str], ...]) -> Given:
    """Return the first choice that is known; of many properties, whose word it is differs and is not told."""
    value = first_known(*(value for value, _, _ in choices))
    if np.ndim(value):
        return Given(value, choices[-1][1])
    return next((Given(value, origin, said) for value, origin, said in choices if not np.isnan(value)), Given(value, *choices[-1][1:]))


def dwellings(record: Recorded) -> Numbers:
    """Return how many dwellings there are; where that is not known, one."""
    return np.where(np.nan_to_num(record.dwellings) >= 1, record.dwellings, 1.0)[()]


def rent_today(record: Recorded) -> Given:
    """Return what all of it is let for a month: as let, as asked, its stated potential, or else the area's rent."""
    asked = np.where(dwellings(record) == 1, record.rent_advertised, np.nan)[()]
    return _first_known(record, (
        (record.rent_in_place, Origin.RECORDED, "as let today"), (asked, Origin.LISTING, "as asked in its rental listing"),
        (record.rent_potential, Origin.LISTING, "its listing's stated potential"),
        (record.rent_area * dwellings(record), Origin.ESTIMATED, "the area's median rent of its class and bedrooms"),
    ))  # fmt: skip


def rent_at_market(record: Recorded) -> Given:
    """Return what all of it would be let for a month: at the area's rent, or else what is known of its own."""
    today = rent_today(record)
    return _first_known(record, (
        (record.rent_area * dwellings(record), Origin.ESTIMATED, "the area's median rent of its class and bedrooms"),
        (record.rent_potential, Origin.LISTING, "its listing's stated potential"), (today.value, today.origin, today.said),
    ))  # fmt: skip


def value_after_repair(record: Recorded) -> Given:
    """Return what a property would sell for once it is repaired: by comps sold after repair, else by comps as is, else its estimated value.

    Worksheets and screening both take it from here.
    """
    return _first_known(record, (
        (record.repaired_value, Origin.ESTIMATED, f"{_count(record.repaired_comps)} sold after repair"),
        (record.as_is_value, Origin.ESTIMATED, f"{_count(record.as_is_comps)} as is; none sold after repair"),
        (record.estimated_value, Origin.ESTIMATED, "its estimated value; no comps"),
    ))  # fmt: skip


def _count(comps: Numbers) -> str:
    return "" if np.ndim(comps) or np.isnan(comps) else f"{comps:.0f} comp{'' if comps == 1 else 's'}"


def given_by_record(record: Recorded) -> dict[str, Given]:
    """Return the inputs that the record tells, by key; what it does not tell is not a number."""
    on_record, listed = Origin.RECORDED, Origin.LISTING
    fee = record.association_fee
    value = (record.estimated_value, Origin.ESTIMATED, "its estimated value")
    return {
        "price": _first_known(record, ((record.list_price, listed, "its list price"), value)),
        "list-price": Given(record.list_price, listed, "its list price"),
        "arv": value_after_repair(record),
        "living-area": Given(record.living_area, on_record, "of the roll"),
        "taxes": Given(record.tax_bill, on_record, "the latest bill"),
        "association": _first_known(record, (
            (12 * fee, on_record, "the fee on record, a year"), (0 * dwellings(record), Origin.ASSUMED, "none on record"),
        )),
        "split.frontage": Given(record.frontage, on_record), "split.depth": Given(record.depth, on_record),
        "split.area": Given(record.lot_sqft, on_record),
    }  # fmt: skip


@dataclass(frozen=True)
class Defaults:
    """What a team assumes, by input: for all it does, for its grade of a neighborhood, for an area; the later wins.

    Each layer has a name for a reader, and values by key: numbers, or arrays with one for each of many properties.
    """

    layers: tuple[tuple[str, Mapping[str, Numbers]], ...] = field(default=())

    def of(self, key: str) -> Given | None:
        """Return what is assumed; None where only the record or the user can tell."""
        usual = INPUTS[key].usual
        found: Numbers = np.nan if usual is None else usual
        said = "usual" if usual is not None else ""
        for name, values in self.layers:
            value = values.get(key)
            if value is not None:
                found = first_known(value, found)
                said = name
        return None if np.ndim(found) == 0 and np.isnan(found) else Given(found, Origin.ASSUMED, said)


def _below_asking(record: Recorded, own: Mapping[str, float]) -> Given | None:
    """Return the price that a discount from asking gives; None where the user set none, or nothing is asked."""
    asked = record.list_price
    if np.ndim(asked) or np.isnan(asked):
        return None
    if "discount" in own:
        return Given(asked - own["discount"], Origin.YOURS, f"{_dollars(own['discount'])} the asking price of ${asked:,.0f}")
    if "discount-rate" in own:
        rate = own["discount-rate"]
        way = "below" if rate >= 0 else "above"
        return Given(np.round(asked * (1 - rate / 100)), Origin.YOURS, f"{abs(rate):g} % {way} the asking price of ${asked:,.0f}")
    return None


def _dollars(discount: float) -> str:
    return f"${abs(discount):,.0f} {'below' if discount >= 0 else 'above'}"


def fill(record: Recorded, defaults: Defaults, own: Mapping[str, float]) -> dict[str, Given]:
    """Return every input with its value: the user's own, else the record's, else what is assumed.

    Insurance is told from its rate on the estimated value until somebody knows better.
    """
    found: dict[str, Given] = {}
    recorded = given_by_record(record)
    for key in INPUTS:
        if key in own:
            found[key] = Given(own[key], Origin.YOURS, "as you set it")
            continue
        if key == "price" and (below := _below_asking(record, own)):
            found[key] = below
            continue
        on_record, assumed = recorded.get(key), defaults.of(key)
        if on_record is not None and assumed is not None:
            known = np.ndim(on_record.value) or not np.isnan(on_record.value)
            found[key] = Given(first_known(on_record.value, assumed.value), on_record.origin, on_record.said) if known else assumed
        else:
            found[key] = on_record or assumed or Given(np.nan, Origin.ASSUMED)
    if "insurance" not in own and defaults.of("insurance") is None:
        rate, value = found["insurance-rate"].value, first_known(record.estimated_value, found["price"].value)
        found["insurance"] = Given(np.round(rate / 100 * value), Origin.ESTIMATED, "its rate on the value")
    return found
