"""Edits of a worksheet: each field of its page is called by what it sets, as in "input:price", "unit:2:rent" or "system:roof:year"."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import TypeVar

from jaded_ledger.core.deals.expressions import FigureUnit
from jaded_ledger.core.deals.inputs import BARE, INPUTS, PAYOFF, Exit, InputError, checked, input_named, read_number
from jaded_ledger.core.deals.roll import MOST_ROWS, Bid, Building, BuildingSystem, Legality, Making, RentedUnit, Repair, SystemKind
from jaded_ledger.core.deals.worksheet import Period, Rents, RepairsBy, Worksheet

Choice = TypeVar("Choice", Rents, RepairsBy, Exit, Period)
Row = TypeVar("Row", RentedUnit, Repair, BuildingSystem, Bid)
Item = TypeVar("Item")
_CHOICES = {"true": True, "false": False, "": None}
MOST_BIDS = 6


def edited(worksheet: Worksheet, recorded: Building, field: str, typed: str, *, is_listed: bool = False) -> Worksheet:
    """Return a worksheet with one of its fields set as it was typed; a blank takes the user's own value back. Raises InputError.

    ``is_listed`` says whether an asking price is known, so that a discount from it can be taken.
    """
    what, _, rest = field.partition(":")
    of, _, name = rest.partition(":")
    match what:
        case "input" if of in _PRICED or (of == "price" and _SIGNED.match(typed)):
            return replace(worksheet, own=_discounted(worksheet.own, typed, is_listed=is_listed))
        case "input":
            return replace(worksheet, own=_set(worksheet.own, of, typed, Period.MONTH if name == Period.MONTH else Period.YEAR))
        case "unit":
            return replace(worksheet, units=_with(_units(worksheet, recorded), of, lambda unit: _with_field(RentedUnit, unit, name, typed)))
        case "repair":
            return replace(worksheet, repairs=_with(worksheet.repairs, of, lambda repair: _edited_repair(repair, name, typed)))
        case "system":
            return _edited_system(worksheet, recorded, of, name, typed)
        case "payoff":
            return replace(worksheet, payoffs=_payoffs(worksheet, rest, typed))
        case "rents":
            return replace(worksheet, rents=_choice(Rents, typed))
        case "by":
            return replace(worksheet, by=_choice(Period, typed))
        case "repairs-by":
            return replace(worksheet, repairs_by=_choice(RepairsBy, typed))
    raise InputError("that field can't be told; reload the page")


def acted(worksheet: Worksheet, recorded: Building, act: str) -> Worksheet:
    """Return a worksheet with something added or taken away: "add-exit:rental", "add-unit", "remove-repair:2". Raises InputError."""
    what, _, of = act.partition(":")
    units = _units(worksheet, recorded)
    match what:
        case "add-exit":
            return replace(worksheet, exits=tuple(dict.fromkeys((*worksheet.exits, _choice(Exit, of)))))
        case "remove-exit":
            left = tuple(one for one in worksheet.exits if one != of)
            if not left:
                raise InputError("a worksheet has at least one exit; add another before this one goes")
            return replace(worksheet, exits=left)
        case "add-unit":
            return replace(worksheet, units=_added(units, RentedUnit(name=f"unit {len(units) + 1}")))
        case "remove-unit":
            return replace(worksheet, units=_without(units, of))
        case "add-repair":
            return replace(worksheet, repairs=_added(worksheet.repairs, Repair()), repairs_by=RepairsBy.ITEMS)
        case "remove-repair":
            return replace(worksheet, repairs=_without(worksheet.repairs, of))
        case "as-recorded":
            return replace(worksheet, units=None, systems=None, own={}, payoffs={})
        case "bare":
            return replace(worksheet, own={**dict.fromkeys(BARE, 0.0), **worksheet.own})
        case "usual-pool":
            return replace(worksheet, pool=None)
    raise InputError("that can't be done here; reload the page")


def _set(own: Mapping[str, float], key: str, typed: str, by: Period) -> dict[str, float]:
    found = dict(own)
    one = input_named(key)
    for gone in (key, *(_PRICED if key == "price" else ())):
        found.pop(gone, None)
    if typed.strip():
        found[key] = checked(one, read_number(typed, one.label) * (by.parts if one.unit is FigureUnit.MONEY_A_YEAR else 1))
    return found


_PRICED = ("discount", "discount-rate")
"""What tells the price from what is asked."""
_SIGNED = re.compile(r"\s*[-−+]")


def _discounted(own: Mapping[str, float], typed: str, *, is_listed: bool) -> dict[str, float]:
    """Set the price by its discount from asking: "-25k", "-12 %", "25,000"; with a plus above it. Raises InputError."""
    found = {key: value for key, value in own.items() if key != "price" and key not in _PRICED}
    said = typed.strip()
    if not said:
        return found
    if not is_listed:
        raise InputError("no asking price is on record to take a discount from; type the price itself")
    key = "discount-rate" if said.endswith("%") else "discount"
    amount = read_number(said.lstrip("-−+ "), INPUTS[key].label)
    found[key] = checked(INPUTS[key], -amount if said.startswith("+") else amount)
    return found


def _payoffs(worksheet: Worksheet, key: str, typed: str) -> dict[str, float]:
    found = {one: amount for one, amount in worksheet.payoffs.items() if one != key}
    if typed.strip():
        found[key[:40]] = checked(PAYOFF, read_number(typed, PAYOFF.label))
    return found


def _choice(kind: type[Choice], typed: str) -> Choice:
    try:
        return kind(typed)
    except ValueError:
        raise InputError(f"choose one of {', '.join(kind)}") from None


def _units(worksheet: Worksheet, recorded: Building) -> tuple[RentedUnit, ...]:
    return recorded.units if worksheet.units is None else worksheet.units


def _place(rows: tuple[object, ...], place: str) -> int:
    """Return which row is meant, from 0. Raises InputError where it is gone, as when another window took it away."""
    if not place.isdecimal() or not 1 <= int(place) <= len(rows):
        raise InputError("that row is no longer there; the page shows what is")
    return int(place) - 1


def _with(rows: tuple[Item, ...], place: str, changed: Callable[[Item], Item]) -> tuple[Item, ...]:
    at = _place(rows, place)
    return (*rows[:at], changed(rows[at]), *rows[at + 1 :])


def _without(rows: tuple[Item, ...], place: str) -> tuple[Item, ...]:
    at = _place(rows, place)
    return (*rows[:at], *rows[at + 1 :])


def _added(rows: tuple[Item, ...], row: Item) -> tuple[Item, ...]:
    if len(rows) >= MOST_ROWS:
        raise InputError(f"there is room for {MOST_ROWS}; these are as many")
    return (*rows, row)


def _with_field(kind: type[Row], row: Row, name: str, typed: str) -> Row:
    """Return a row with one field as it was typed, read as the row's JSON is."""
    return kind.from_json({**row.to_json(), name: _read(name, typed)}) if typed.strip() or name == "name" else _blank(kind, row, name)


def _blank(kind: type[Row], row: Row, name: str) -> Row:
    return kind.from_json({key: value for key, value in row.to_json().items() if key != name})


def _read(name: str, typed: str) -> object:
    match name:
        case "name" | "what" | "by":
            return typed
        case "legality":
            return Legality(typed) if typed in set(Legality) else typed
        case "making":
            return Making(typed) if typed in set(Making) else typed
        case "second-exit" | "is-replaced":
            return _CHOICES.get(typed, typed)
    return read_number(typed, name.replace("-", " "))


def _edited_repair(repair: Repair, name: str, typed: str) -> Repair:
    what, _, rest = name.partition(":")
    if what != "bid":
        return _with_field(Repair, repair, name, typed)
    place, _, part = rest.partition(":")
    bids = repair.bids
    if place == str(len(bids) + 1) and len(bids) < MOST_BIDS:
        bids = (*bids, Bid())
    changed = _with(bids, place, lambda bid: _with_field(Bid, bid, part, typed))
    return replace(repair, bids=changed)


def _edited_system(worksheet: Worksheet, recorded: Building, kind: str, name: str, typed: str) -> Worksheet:
    systems = recorded.systems if worksheet.systems is None else worksheet.systems
    if kind not in set(SystemKind):
        raise InputError("that system can't be told; reload the page")
    changed = tuple(_with_field(BuildingSystem, one, name, typed) if one.kind == kind else one for one in systems)
    return replace(worksheet, systems=changed)
