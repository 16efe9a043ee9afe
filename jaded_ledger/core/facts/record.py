"""What is on record of one parcel, and around it, as far as its facts need it. None is unknown."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import NamedTuple

from jaded_ledger.core.distress.signals import Filed
from jaded_ledger.core.finance.debts import Loan, LoanEvent
from jaded_ledger.core.ground import Terrain, Way
from jaded_ledger.core.mail.addresses import Address
from jaded_ledger.core.market.areas import AreaFigures, PriceLevels
from jaded_ledger.core.market.on_market import Change, Listing
from jaded_ledger.core.title.sales import Transfer


class Roll(NamedTuple):
    """What the roll says, with the ids of the texts and places it names. A tuple, because millions are read."""

    key: int
    situs: Address | None
    situs_id: int | None
    house_number: int | None
    street_id: int | None
    municipality_id: int | None
    city_id: int | None
    zip_id: int | None
    subdivision_id: int | None
    neighborhood_id: int | None
    school_district_id: int | None
    land_use: str
    property_class: int | None
    tenure: str
    units: int | None
    beds: int | None
    baths: float | None
    living_area: int | None
    lot_sqft: int | None
    frontage: float | None
    depth: float | None
    zoning: str
    sewer: str
    water: str
    waterfront: bool | None
    hoa_fee: Decimal | None
    year_built: int | None
    land_value: Decimal | None
    improvement_value: Decimal | None
    market_value: Decimal | None
    homestead: bool | None
    owner_name_id: int | None
    owner_name: str
    owner_surnames: tuple[str, ...]
    owner_kind: str | None
    owner_role: str
    mailing: Address | None
    mailing_address_id: int | None
    owner_id: int | None


_BLANK = dict.fromkeys(("land_use", "tenure", "zoning", "sewer", "water", "owner_name", "owner_role"), "")
NOT_ON_ROLL = Roll._make(({"key": 0, "owner_surnames": ()} | _BLANK).get(name) for name in Roll._fields)
"""What the roll says of a parcel that it lacks: nothing."""


class Building(NamedTuple):
    """One building as measured."""

    number: int
    stories: float | None
    garage_spaces: int | None
    has_pool: bool | None
    main_floor_beds: int | None
    condition: str
    key: int = 0


class Permit(NamedTuple):
    """A building permit."""

    issued_on: date
    kind: str
    cost: Decimal | None
    key: int = 0


class Rental(NamedTuple):
    """A dwelling that is let."""

    since: date
    until: date | None
    rent: Decimal | None
    unit: str = ""
    key: int = 0


class Exemption(NamedTuple):
    """An exemption from tax."""

    since: date
    until: date | None
    kind: str
    key: int = 0


class Project(NamedTuple):
    """The project that the parcel belongs to."""

    name: str
    amenities: Sequence[str]
    key: int = 0


class Described(NamedTuple):
    """What a listing says of the house itself, and of who sells it."""

    beds: int | None
    full_baths: int | None
    half_baths: int | None
    living_area: int | None
    lot_sqft: int | None
    year_built: int | None
    stories: float | None
    garage_spaces: int | None
    main_floor_beds: int | None
    waterfront: bool | None
    pool: bool | None
    association_fee: Decimal | None
    occupant: str
    seller_id: int | None
    seller_kind: str | None
    seller_role: str
    remarks: tuple[str, ...]


_SAID = {"occupant": "", "seller_role": "", "remarks": ()}
NOT_DESCRIBED = Described._make(_SAID.get(name) for name in Described._fields)
"""What is said of a house that was never listed: nothing."""


@dataclass(frozen=True)
class Owned:
    """What is known of the parcel's owner beside this parcel. None where that kind of record is not on file."""

    parcels: int = 1
    has_telephone: bool | None = None
    has_email: bool | None = None
    do_not_contact: bool | None = None


@dataclass(frozen=True)
class Ground:
    """What the map says of the parcel's ground; None where that layer is not on file, or the outline is not.

    ``longitude`` and ``latitude``, in degrees (WGS 84), are of the point that represents the parcel; ``feet_to`` tells how far its
    outline lies from the nearest way of each kind.
    """

    flood_zones: tuple[str, ...] | None = None
    road_class: str | None = None
    miles_to_owner: float | None = None
    longitude: float | None = None
    latitude: float | None = None
    feet_to: Mapping[Way, float] = field(default_factory=dict)
    terrain: Terrain | None = None


@dataclass(frozen=True)
class CountyRules:
    """What a county's parcels have in common. ``through`` says by kind of record through which day it is on file."""

    id: int = 0
    name: str = ""
    state: str = ""
    assessment_ratio: Decimal = Decimal(1)
    relisting_gap_days: int = 30
    zips: frozenset[str] = frozenset()
    levels: PriceLevels = field(default_factory=lambda: PriceLevels({}, None))
    through: Mapping[str, date] = field(default_factory=dict)

    def has(self, kind: str) -> bool:
        """Whether a kind of record is on file, so that no row means that there is none."""
        return kind in self.through


@dataclass(frozen=True)
class RecordedParcel:
    """All that is on record of one parcel."""

    county: CountyRules
    roll: Roll | None = None
    buildings: Sequence[Building] = ()
    dwellings: int = 0
    project: Project | None = None
    transfers: Sequence[Transfer] = ()
    loans: Sequence[Loan] = ()
    loan_events: Mapping[str, Sequence[LoanEvent]] = field(default_factory=dict)
    filed: Filed = field(default_factory=Filed)
    permits: Sequence[Permit] = ()
    rentals: Sequence[Rental] = ()
    exemptions: Sequence[Exemption] = ()
    listings: Sequence[Listing] = ()
    described: Mapping[int, Described] = field(default_factory=dict)
    changes: Mapping[str, Sequence[Change]] = field(default_factory=dict)
    owned: Owned = field(default_factory=Owned)
    ground: Ground = field(default_factory=Ground)
    area: AreaFigures = field(default_factory=AreaFigures)
