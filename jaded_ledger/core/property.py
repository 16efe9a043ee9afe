"""How a property is held, and what a project offers. Words of the trade."""

from __future__ import annotations

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
