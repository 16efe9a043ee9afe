"""What a worksheet keeps: the exits it weighs, the user's own inputs, and the building's units, repairs and systems. Written as JSON."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from jaded_ledger.core.deals.inputs import PAYOFF, Exit, InputError, checked, input_named
from jaded_ledger.core.deals.roll import MOST_ROWS, Building, BuildingSystem, RentedUnit, Repair, read_rows


class Rents(StrEnum):
    """Which rents a worksheet counts with."""

    TODAY = "today"
    MARKET = "market"
    SUBSIDY = "subsidy"


class Period(StrEnum):
    """By what time money that comes and goes each month is told."""

    YEAR = "year"
    MONTH = "month"

    @property
    def parts(self) -> int:
        """Into how many of these a year is parted."""
        return 12 if self is Period.MONTH else 1


class RepairsBy(StrEnum):
    """How repairs are told."""

    RATE = "rate"
    ITEMS = "items"


USUAL_EXITS = (Exit.RESALE, Exit.RENTAL)
LONGEST_POOL = 4_000
_PARTS = ("exits", "inputs", "units", "repairs", "systems", "rents", "repairs-by", "payoffs", "pool", "by")


@dataclass(frozen=True)
class Worksheet:
    """A worksheet as it is kept. ``own`` are the inputs that the user set, by key; all else comes from the record and the defaults.

    ``units`` and ``systems`` are None as long as the user has not touched them. ``payoffs`` are amounts by the keys of what is paid off.
    ``pool`` are the lines of the comps that the worksheet came from, as text; None for those that the property's comps begin with.
    ``by`` is how the page tells what comes and goes; what is kept is of a year, whatever it says.
    """

    exits: tuple[Exit, ...] = USUAL_EXITS
    own: Mapping[str, float] = field(default_factory=dict)
    units: tuple[RentedUnit, ...] | None = None
    repairs: tuple[Repair, ...] = ()
    systems: tuple[BuildingSystem, ...] | None = None
    rents: Rents = Rents.TODAY
    repairs_by: RepairsBy = RepairsBy.RATE
    payoffs: Mapping[str, float] = field(default_factory=dict)
    pool: str | None = None
    by: Period = Period.YEAR

    def building(self, recorded: Building) -> Building:
        """Return the building: what is on record of it, and in its place what the user changed."""
        return Building(
            recorded.units if self.units is None else self.units, self.repairs, recorded.systems if self.systems is None else self.systems
        )

    def to_json(self) -> dict[str, Any]:
        """Return what the worksheet keeps, as JSON has it."""
        found: dict[str, Any] = {
            "exits": [str(one) for one in self.exits], "inputs": dict(self.own), "rents": str(self.rents),
            "repairs-by": str(self.repairs_by), "repairs": [one.to_json() for one in self.repairs],
        }  # fmt: skip
        if self.units is not None:
            found["units"] = [one.to_json() for one in self.units]
        if self.payoffs:
            found["payoffs"] = dict(self.payoffs)
        if self.systems is not None:
            found["systems"] = [one.to_json() for one in self.systems]
        if self.pool is not None:
            found["pool"] = self.pool
        if self.by is not Period.YEAR:
            found["by"] = str(self.by)
        return found


def worksheet_from_json(said: object) -> Worksheet:
    """Read a worksheet. Raises InputError, which says what can't be read and what could."""
    if not isinstance(said, Mapping):
        raise InputError(f"a worksheet is an object with {', '.join(_PARTS)}")
    unknown = [str(name) for name in said if name not in _PARTS]
    if unknown:
        raise InputError(f"a worksheet has no “{unknown[0][:40]}”; it has {', '.join(_PARTS)}")
    inputs = said.get("inputs", {})
    if not isinstance(inputs, Mapping):
        raise InputError("inputs are an object: each input's key with its value")
    payoffs = said.get("payoffs", {})
    if not isinstance(payoffs, Mapping) or len(payoffs) > MOST_ROWS:
        raise InputError(f"payoffs are an object: what is paid off with its amount, {MOST_ROWS} at most")
    return Worksheet(
        exits=_exits(said.get("exits", [str(one) for one in USUAL_EXITS])),
        own={str(key): checked(input_named(key), value) for key, value in inputs.items() if value is not None},
        units=read_rows(RentedUnit, said["units"]) if said.get("units") is not None else None,
        repairs=read_rows(Repair, said.get("repairs") or []),
        systems=read_rows(BuildingSystem, said["systems"]) if said.get("systems") is not None else None,
        rents=_one_of(Rents, said.get("rents", "today"), "rents"),
        repairs_by=_one_of(RepairsBy, said.get("repairs-by", "rate"), "repairs-by"),
        payoffs={str(key)[:40]: checked(PAYOFF, value) for key, value in payoffs.items() if value is not None},
        pool=str(said["pool"])[:LONGEST_POOL] if said.get("pool") is not None else None,
        by=_one_of(Period, said.get("by", "year"), "by"),
    )


def _one_of(kind: Any, value: object, what: str) -> Any:
    try:
        return kind(value)
    except ValueError:
        raise InputError(f"{what} is one of {', '.join(kind)}, not {str(value)[:30]}") from None


def _exits(said: object) -> tuple[Exit, ...]:
    if not isinstance(said, list):
        raise InputError(f"exits are a list, of {', '.join(Exit)}")
    found = tuple(dict.fromkeys(_one_of(Exit, one, "an exit") for one in said))
    if not found:
        raise InputError(f"a worksheet has at least one exit: {', '.join(Exit)}")
    return found
