"""What a worksheet says of the building itself: its units and their rents, what is repaired for how much, and its systems' age."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields
from enum import StrEnum
from typing import Any, Self, TypeVar

from jaded_ledger.core.deals.inputs import InputError

Kind = TypeVar("Kind", bound=StrEnum)

LONGEST = 80
MOST_ROWS = 60


class Legality(StrEnum):
    """Whether a unit may be let."""

    LEGAL = "legal"
    NOT_LEGAL = "not legal"
    UNKNOWN = "not known"


class Making(StrEnum):
    """Whether a unit was built as one."""

    BUILT = "built so"
    CONVERTED = "converted"
    UNKNOWN = "not known"


def _text(value: object, what: str, longest: int = LONGEST) -> str:
    if not isinstance(value, str):
        raise InputError(f"{what} is text, not {str(value)[:30]}")
    said = " ".join(value.replace("\x00", "").split())
    if len(said) > longest:
        raise InputError(f"{what} has at most {longest} characters; this has {len(said)}")
    return said


def _number(value: object, what: str, least: float = 0, most: float = 1e11) -> float | None:
    if value is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value) or not least <= value <= most:
        raise InputError(f"{what} is a number from {least:,.10g} to {most:,.10g}, not {str(value)[:30]}")
    return float(value)


def _choice(kind: type[Kind], value: object, what: str) -> Kind:
    try:
        return kind(value)  # type: ignore[arg-type]
    except ValueError:
        raise InputError(f"{what} is one of {', '.join(kind)}, not {str(value)[:30]}") from None


class _Row(ABC):
    """A row that is kept as JSON: what differs from its defaults."""

    WHAT = "a row"

    @classmethod
    def from_json(cls, said: object) -> Self:
        """Read a row. Raises InputError for what it can't be."""
        if not isinstance(said, Mapping):
            raise InputError(f"{cls.WHAT} is an object with {', '.join(cls.names())}, not {str(said)[:30]}")
        unknown = [str(name) for name in said if name not in cls.names()]
        if unknown:
            raise InputError(f"{cls.WHAT} has no “{unknown[0][:40]}”; it has {', '.join(cls.names())}")
        return cls(**{name.replace("-", "_"): cls.read(name, value) for name, value in said.items()})

    @classmethod
    def names(cls) -> list[str]:
        return [one.name.replace("_", "-") for one in fields(cls)]  # type: ignore[arg-type]

    @classmethod
    @abstractmethod
    def read(cls, name: str, value: object) -> Any:
        """Return what a value of a named field means. Raises InputError."""

    def to_json(self) -> dict[str, Any]:
        found = {one.name.replace("_", "-"): getattr(self, one.name) for one in fields(self)}  # type: ignore[arg-type]
        return {name: _plain(value) for name, value in found.items() if value not in (None, "", ())}


RowKind = TypeVar("RowKind", bound=_Row)


def _plain(value: Any) -> Any:
    if isinstance(value, tuple):
        return [one.to_json() for one in value]
    return str(value) if isinstance(value, StrEnum) else value


@dataclass(frozen=True)
class RentedUnit(_Row):
    """A unit of the rent roll. Rents are of a month: ``rent`` is paid today (0 where it stands empty), ``market`` what it would bring.

    ``subsidy`` is what a program's schedule pays, ``standard`` what meeting its standard costs. ``leaves`` is the year, counted from the
    purchase, in which the tenant goes; None says that nobody is known to go. ``value`` is what it would sell for by itself.
    """

    WHAT = "a unit"

    name: str = ""
    rent: float | None = None
    market: float | None = None
    legality: Legality = Legality.UNKNOWN
    making: Making = Making.UNKNOWN
    second_exit: bool | None = None
    subsidy: float | None = None
    standard: float | None = None
    leaves: float | None = None
    area: float | None = None
    value: float | None = None

    @classmethod
    def read(cls, name: str, value: object) -> Any:
        match name:
            case "name":
                return _text(value, "a unit's name", 30)
            case "legality":
                return _choice(Legality, value, "a unit's legality")
            case "making":
                return _choice(Making, value, "how a unit was made")
            case "second-exit":
                if value is not None and not isinstance(value, bool):
                    raise InputError("a unit's second exit is true, false, or null where it is not known")
                return value
            case "leaves":
                return _number(value, "the year in which a tenant leaves", 1, 30)
            case "rent" | "market" | "subsidy":
                return _number(value, f"a unit's {name} a month", 0, 1e7)
            case "area":
                return _number(value, "a unit's area", 1, 1e7)
            case _:
                return _number(value, f"a unit's {name}")


@dataclass(frozen=True)
class Bid(_Row):
    """What a contractor asks for some work."""

    WHAT = "a bid"

    by: str = ""
    amount: float | None = None

    @classmethod
    def read(cls, name: str, value: object) -> Any:
        return _text(value, "who bids") if name == "by" else _number(value, "a bid")


@dataclass(frozen=True)
class Repair(_Row):
    """Work to be done, by the user's own estimate or the bid that was taken (its place among the bids, from 1)."""

    WHAT = "a repair"

    what: str = ""
    amount: float | None = None
    bids: tuple[Bid, ...] = ()
    taken: float | None = None

    @classmethod
    def read(cls, name: str, value: object) -> Any:
        match name:
            case "what":
                return _text(value, "what is repaired")
            case "bids":
                return read_rows(Bid, value, most=6)
            case "taken":
                return _number(value, "the bid that is taken", 1, 6)
            case _:
                return _number(value, "what a repair costs")

    @property
    def cost(self) -> float | None:
        """What counts: the bid that is taken, or else the user's own estimate."""
        if self.taken is not None:
            place = int(self.taken) - 1
            return self.bids[place].amount if place < len(self.bids) else None
        return self.amount


class SystemKind(StrEnum):
    """A part of a building that wears out as a whole."""

    ROOF = "roof"
    FURNACE = "furnace"
    WATER_HEATER = "water-heater"
    ELECTRICAL = "electrical"


@dataclass(frozen=True)
class Usual:
    """How long a system lasts, and what replacing it costs; common practice, for a house of ordinary size."""

    label: str
    life: int
    cost: float


SYSTEMS: Mapping[SystemKind, Usual] = {
    SystemKind.ROOF: Usual("roof", 25, 11_000),
    SystemKind.FURNACE: Usual("furnace", 20, 5_500),
    SystemKind.WATER_HEATER: Usual("water heater", 12, 1_700),
    SystemKind.ELECTRICAL: Usual("electrical", 40, 9_000),
}


@dataclass(frozen=True)
class BuildingSystem(_Row):
    """A system as it stands: the year it is of, what replacing it costs, and whether that is counted among the repairs."""

    WHAT = "a system"

    kind: SystemKind = SystemKind.ROOF
    year: float | None = None
    cost: float | None = None
    is_replaced: bool = False

    @classmethod
    def read(cls, name: str, value: object) -> Any:
        match name:
            case "kind":
                return _choice(SystemKind, value, "a system")
            case "is-replaced":
                if not isinstance(value, bool):
                    raise InputError("whether a system is replaced is true or false")
                return value
            case "year":
                return _number(value, "a system's year", 1600, 2200)
            case _:
                return _number(value, "what replacing a system costs")

    @property
    def usual(self) -> Usual:
        return SYSTEMS[self.kind]

    def past_life(self, year: int) -> int | None:
        """Return by how many years it has outlived what such a system usually lasts; less than 0 are still left. None where unknown."""
        return None if self.year is None else year - int(self.year) - self.usual.life


def read_rows(kind: type[RowKind], said: object, *, most: int = MOST_ROWS) -> tuple[RowKind, ...]:
    """Read a list of rows. Raises InputError."""
    if not isinstance(said, Sequence) or isinstance(said, str):
        raise InputError(f"{kind.WHAT} stands in a list; {str(said)[:30]} is none")
    if len(said) > most:
        raise InputError(f"there is room for {most}; these are {len(said)}")
    return tuple(kind.from_json(one) for one in said)


@dataclass(frozen=True)
class Building:
    """What a worksheet says of a building. ``repairs`` that are itemized count in the place of a rate a square foot."""

    units: tuple[RentedUnit, ...] = ()
    repairs: tuple[Repair, ...] = ()
    systems: tuple[BuildingSystem, ...] = ()
