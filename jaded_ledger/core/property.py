"""How a property is held, what a project offers, and what class a land-use code tells. Words of the trade."""

from __future__ import annotations

import re
from decimal import Decimal
from enum import StrEnum


class Tenure(StrEnum):
    """How it is held."""

    FEE_SIMPLE = "fee-simple"
    CONDOMINIUM = "condominium"
    COOPERATIVE = "co-operative"
    LEASEHOLD = "leasehold"


class Amenity(StrEnum):
    """What a project offers to those who live in it."""

    POOL = "pool"
    GARAGE = "garage"
    LIFT = "lift"
    DOORMAN = "doorman"
    GYM = "gym"
    DOCK = "dock"
    LAUNDRY = "laundry"
    ROOF_DECK = "roof-deck"
    STORAGE = "storage"
    PETS = "pets"


_RESIDENTIAL = re.compile(r"(?i)res|dwell|famil|apart|condo|home")
_BY_DWELLINGS = {1: "single-family", 2: "duplex", 3: "triplex", 4: "fourplex"}


def class_by_use(land_use: str, tenure: str, dwellings: int | None, improvement_value: Decimal | None) -> str | None:
    """Return the class that a residential land-use code and the number of dwellings tell; None where they don't.

    For counties that write that a property is residential, and not of what kind: common practice.

    >>> class_by_use("1RES", "", 2, Decimal(90_000)), class_by_use("1RES", "", None, Decimal(0)), class_by_use("201", "", 1, None)
    ('duplex', 'residential-lot', None)
    """
    if not _RESIDENTIAL.search(land_use):
        return None
    if tenure == Tenure.CONDOMINIUM:
        return "condominium"
    if not dwellings:
        return "residential-lot" if improvement_value == 0 else None
    return _BY_DWELLINGS.get(dwellings, "apartments")
