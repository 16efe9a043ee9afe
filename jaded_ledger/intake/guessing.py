"""A first guess of what a file is and how its columns map, from its headers and from what stands under them."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from functools import lru_cache
from typing import Any

from jaded_ledger.core.criteria.parcel_numbers import Mask, ParcelNumberError
from jaded_ledger.intake.cells import UnreadableValueError
from jaded_ledger.intake.columns import Column
from jaded_ledger.intake.counties import county_key
from jaded_ledger.intake.drafts import COUNTY, NUMBER, ROW
from jaded_ledger.intake.filing import Filing
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.layouts import Form
from jaded_ledger.intake.mapping import OWN, ColumnMap, month_first
from jaded_ledger.intake.reso import reso_name
from jaded_ledger.intake.synonyms import SYNONYMS
from jaded_ledger.intake.units import is_day_first, with_units

_LOOKED_AT = 200
"""So many cells of a column tell what it holds."""
_ALIKE = 0.84
_READABLE = 0.5
_BY_DATA_ALONE = 0.95
_FEW_WORDS = 20
_BY_WORDS = {"class": ("type", "kind", "style", "buildingtype", "housetype", "hometype", "bldgtype")}
"""Headers that say little, and whose column is proposed for one of ours where its words are of our vocabulary."""


def plain(name: str) -> str:
    """Return a header as it is compared: letters and digits alone."""
    return re.sub(r"[^a-z0-9]", "", name.casefold())


def _field_of(column: str) -> str:
    """Return a column's name in lower case with underscores, whatever its own form is.

    >>> _field_of("ListAgentMlsId"), _field_of("lot_sqft")
    ('list_agent_mls_id', 'lot_sqft')
    """
    return re.sub(r"(?<=[a-z])(?=[A-Z])", "_", column).casefold()


@lru_cache(maxsize=5_000)
def _names_of(column: str) -> tuple[str, ...]:
    return tuple(plain(name) for name in SYNONYMS.get(_field_of(column), ()))


@lru_cache(maxsize=20_000)
def likeness(header: str, column: str) -> float:
    """Return from 0 to 1 how much a header says that it is a column: 1 for its own name, less for others it goes by."""
    said, own = plain(header), plain(column)
    if not said:
        return 0.0
    if said == own:
        return 1.0
    others = _names_of(column)
    if said in others:
        return 0.95 - 0.001 * others.index(said)
    # Long enough to be a slip of the hand or a cut name, and not just another word.
    matchers = [SequenceMatcher(None, said, name) for name in (own, *others) if len(name) > 5 and len(said) > 5]
    # The bounds cost a hundredth of the ratio itself, and most names are plainly others.
    alike = max((one.ratio() for one in matchers if one.real_quick_ratio() >= _ALIKE and one.quick_ratio() >= _ALIKE), default=0.0)
    return alike * 0.9 if alike >= _ALIKE else 0.0


def readable(column: Column, cells: Iterable[Any], mask: Mask | None) -> float | None:
    """Return the share of cells that a column can read; None where all are blank."""
    said = [str(cell).strip() for cell in cells if cell not in (None, "") and str(cell).strip()][:_LOOKED_AT]
    if not said:
        return None
    good = 0
    for cell in said:
        try:
            if "parcel number" in column.takes and mask:
                mask.key(cell)
            else:
                column.read(cell)
            good += 1
        except (UnreadableValueError, ParcelNumberError):
            continue
    return good / len(said)


def guess(
    kind: Filing,
    header: Sequence[str],
    sample: Sequence[Mapping[str, Any]],
    mask: Mask | None,
    counties: Collection[str] = (),
    *,
    begins: bool = False,
) -> ColumnMap:
    """Return the likeliest mapping; columns that look like nothing of ours are kept under their own names.

    ``mask`` is the form of the county's parcel numbers, ``counties`` are the names that a column of counties can hold. Where
    the file ``begins`` the county's parcels and tells neither number nor address, a row's own number is its parcel's.
    """
    of_county = Column(COUNTY, "", _one_of(set(map(county_key, counties))), "", is_required=False)
    cells = {name: [row.get(name) for row in sample] for name in header}
    described = {column.name: column for column in kind.described}
    scores = []
    for name in header:
        for column in (*described.values(), of_county):
            alike = likeness(name, column.name)
            if not alike:
                continue
            # A column that bears our own name is meant, whatever stands in it; a word of theirs can be translated, a figure that is
            # none can't.
            is_meant = alike == 1.0 and column is not of_county
            share = None if is_meant or column.words else readable(column, _as_written(column, cells[name]), mask)
            if share is not None and share < _READABLE:
                continue
            scores.append((alike, column.is_required, column.name, name))
    taken: dict[str, str] = {}
    for _, _, target, name in sorted(scores, key=lambda score: (-score[0], not score[1])):
        if target not in taken.values() and name not in taken:
            taken[name] = target
    for name, target in _by_data(kind, header, cells, taken, mask):
        taken[name] = target
    taken = {name: target for name, target in taken.items() if target != "street" or _is_street(cells[name], set(taken.values()))}
    for names, target in _years_and_months(described, header, taken):
        taken |= dict.fromkeys(names, target)
    # Another file of a county whose parcels were numbered by their rows is of the same rows.
    by_rows = kind.may_begin and (begins or (mask is not None and mask.is_free)) and not _tells_parcel(kind, set(taken.values()))
    fixed = {NUMBER: ROW} if by_rows else {}
    return with_units(kind.name, described, ColumnMap({name: taken.get(name, OWN) for name in header}, fixed), cells)


def _is_street(cells: Iterable[Any], filled: Collection[str]) -> bool:
    """Return whether what is called a street is that of an address, and not what paves it."""
    return "house_number" in filled or any(re.match(r"\d", str(cell or "").strip()) for cell in cells)


def _tells_parcel(kind: Filing, filled: Collection[str]) -> bool:
    """Return whether a file says of which parcel a row is: by its number, in our words or the feed's, or by its address."""
    return bool({NUMBER, reso_name(NUMBER), *kind.address_columns[:1]} & set(filled)) or {"street", "house_number"} <= set(filled)


_UNITS = {"year": ("year", "yr"), "month": ("month", "mo", "mnth"), "day": ("day", "dy")}
_EVENTS = {"sold": "sold_on", "sale": "sold_on", "sales": "sold_on", "recorded": "recorded_on", "rec": "recorded_on"}
"""What is left of such a header without its year or month, and the day that both make."""


def _years_and_months(described: Mapping[str, Column], header: Sequence[str], taken: Mapping[str, str]) -> Iterable[tuple[list[str], str]]:
    """Yield columns of a year and its month, and of the day where there is one: ``Mo_Sold``, ``Year_Sold`` tell together when."""
    found: dict[str, dict[str, str]] = {}
    for name in header:
        parts = [part for part in re.split(r"[^a-z]+", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name).casefold()) if part]
        units = {unit for unit, words in _UNITS.items() for part in parts if part in words}
        events = [_EVENTS[part] for part in parts if part in _EVENTS]
        if len(units) == 1 and len(events) == 1 and len(parts) == 2:
            found.setdefault(events[0], {})[units.pop()] = name
    for column, names in found.items():
        if {"year", "month"} <= names.keys() and column in described and column not in taken.values():
            yield list(names.values()), column


def _one_of(names: set[str]) -> Callable[[str], str]:
    def read(cell: str) -> str:
        if county_key(cell) not in names:
            raise UnreadableValueError("is no county on record")
        return cell

    return read


def _by_data(
    kind: Filing, header: Sequence[str], cells: Mapping[str, list[Any]], taken: Mapping[str, str], mask: Mask | None
) -> Iterable[tuple[str, str]]:
    """Yield columns that are recognized by what stands under them alone: only what must be there, and only the one that fits."""
    free = [name for name in header if name not in taken]
    for column in kind.described:
        is_number = "parcel number" in column.takes
        if not column.is_required or column.name in taken.values() or not ((is_number and mask) or column.words or column.is_day):
            continue
        fits = [name for name in free if (readable(column, _as_written(column, cells[name]), mask) or 0) >= _BY_DATA_ALONE]
        if len(fits) == 1:
            free.remove(fits[0])
            yield fits[0], column.name
    for column in kind.described:
        if column.name not in _BY_WORDS or column.name in taken.values():
            continue
        fits = [name for name in free if plain(name) in _BY_WORDS[column.name] and _are_words(column, cells[name])]
        if len(fits) == 1:
            yield fits[0], column.name


def _as_written(column: Column, cells: Sequence[Any]) -> Sequence[Any]:
    """Return a column's cells as they will be read: dates that put the day first with the month first."""
    return [month_first(str(cell or "")) for cell in cells] if column.is_day and is_day_first(cells) else cells


def _are_words(column: Column, cells: Iterable[Any]) -> bool:
    """Return whether few words stand in a column again and again, and one of them at least is of our vocabulary; others are asked about."""
    words = {str(cell).strip() for cell in cells if cell not in (None, "")}
    return 0 < len(words) <= _FEW_WORDS and any(readable(column, [word], None) for word in words)


@dataclass(frozen=True)
class Likely:
    """A kind that a file may be, and how sure that is: the share of its columns that are recognized."""

    kind: str
    share: float


def likely_kinds(form: Form, header: Sequence[str]) -> list[Likely]:
    """Return the kinds that a file may be by its headers, the likeliest first."""
    if form in (Form.PICTURES, Form.PAPERS):
        return [Likely("photographs" if form is Form.PICTURES else "case-papers", 1.0)]
    found = []
    for kind in KINDS.values():
        named = {name: max((likeness(name, column) for column in kind.columns), default=0.0) for name in header}
        missing = kind.missing([column for column in kind.columns if any(likeness(name, column) for name in header)])
        # A file that may begin parcels can number them itself.
        missing = [name for name in missing if not (kind.may_begin and name == NUMBER)]
        share = sum(named.values()) / max(1, len(header)) - 0.25 * len(missing)
        if share > 0:
            found.append(Likely(kind.name, share))
    return sorted(found, key=lambda one: (-one.share, list(KINDS).index(one.kind)))
