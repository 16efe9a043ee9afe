"""Which column of a file fills which of ours. Written by hand as JSON, made on the mapping page, remembered for a source."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, field
from decimal import Decimal, InvalidOperation
from typing import Any

from jaded_ledger.intake.cells import plain_word
from jaded_ledger.intake.columns import SEVERAL
from jaded_ledger.intake.drafts import COUNTY, ROW
from jaded_ledger.intake.filing import Filing
from jaded_ledger.intake.readers import REFUSED_AS, REFUSED_BECAUSE

_DAY_FIRST = re.compile(r"^\s*(\d{1,2})[/.-](\d{1,2})[/.-](\d{4})\b")
OWN = ""
"""Where a column goes that is kept under its own name."""


class MappingError(ValueError):
    """A mapping that can't be used; the message says where and what to do."""


@dataclass(frozen=True)
class ColumnMap:
    """How a file's columns become ours.

    ``columns``: the file's column → ours, ``""`` to keep it under its own name, None to leave it out. One that is not
    named is ours if it is called like one of ours, and else kept. Two that go to the same are joined.
    ``fixed``: our column → what stands there in every row that says nothing else.
    ``words``: our column → the file's word → ours.
    ``times``: our column → what its figures are multiplied by, for a file that counts in thousands.
    ``day_first``: our columns whose dates the file writes as 24/11/2026.
    """

    columns: Mapping[str, str | None] = field(default_factory=dict)
    fixed: Mapping[str, str] = field(default_factory=dict)
    words: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    times: Mapping[str, str] = field(default_factory=dict)
    day_first: tuple[str, ...] = ()

    def as_json(self) -> dict[str, Any]:
        return {name: value for name, value in asdict(self).items() if value}

    def target(self, name: str) -> str | None:
        """Return where a file's column goes."""
        if name in (REFUSED_AS, REFUSED_BECAUSE):
            return None
        return self.columns.get(name, name)

    def filled(self, names: Iterable[str]) -> set[str]:
        """Return which columns have something after mapping a file with these columns."""
        return {target for name in names if (target := self.target(name))} | self.fixed.keys()


def column_map_from(said: object, kind: Filing) -> ColumnMap:
    """Return a mapping written as JSON. Raises MappingError."""
    if not isinstance(said, dict):
        raise MappingError('a mapping is an object such as {"columns": {"PIN": "parcel_number"}}')
    ours = {*kind.columns, COUNTY}

    def of(part: str) -> dict[str, Any]:
        found = said.get(part, {})
        if not isinstance(found, dict):
            raise MappingError(f"{part} is not an object")
        return found

    for column in [*(one for one in of("columns").values() if one), *of("fixed"), *of("words"), *of("times")]:
        if not isinstance(column, str) or column not in ours:
            raise MappingError(f"a {kind.name} file has no column {column!r}; it has {', '.join(kind.columns)}, {COUNTY}")
    words = {}
    for column, table in of("words").items():
        if not isinstance(table, dict):
            raise MappingError(f"words of {column} are not an object of the file's words and ours")
        words[column] = {plain_word(str(theirs)): str(word) for theirs, word in table.items()}
    for column, factor in of("times").items():
        if _factor(factor) is None:
            raise MappingError(f"times of {column} is {factor!r}, which is not a number above 0")
    day_first = said.get("day_first", [])
    if not isinstance(day_first, list) or any(not isinstance(one, str) or one not in ours for one in day_first):
        raise MappingError(f"day_first is not a list of columns of a {kind.name} file")
    return ColumnMap(
        {str(name): None if target is None else str(target) for name, target in of("columns").items()},
        {column: str(value) for column, value in of("fixed").items()},
        words,
        {column: str(factor) for column, factor in of("times").items()},
        tuple(day_first),
    )


def _factor(text: object) -> Decimal | None:
    try:
        factor = Decimal(str(text))
    except InvalidOperation:
        return None
    return factor if factor.is_finite() and 0 < factor <= 1_000_000 else None


class Translator:
    """A mapping at work on a file of one kind."""

    def __init__(self, kind: Filing, column_map: ColumnMap) -> None:
        self._map = column_map
        self._lists = {column.name for column in kind.described if column.is_list}
        self._ours = frozenset(kind.columns)
        self._times = {column: factor for column, text in column_map.times.items() if (factor := _factor(text))}
        self._is_plain = not (column_map.fixed or column_map.words or self._times or column_map.day_first)
        self._plans: dict[tuple[str, ...], list[tuple[str, str]]] = {}
        self._as_it_is: set[tuple[str, ...]] = set()

    def _plan(self, names: tuple[str, ...]) -> list[tuple[str, str]]:
        if names not in self._plans:
            plan = []
            for name in names:
                target = self._map.target(name)
                if target == OWN:
                    # Kept, but not as the column of ours that happens to be called like it.
                    target = f"{name} (as filed)" if name in self._ours else name
                if target is not None:
                    plan.append((name, target))
            self._plans[names] = plan
            if self._is_plain and all(name == target for name, target in plan) and len(plan) == len(names):
                self._as_it_is.add(names)
        return self._plans[names]

    def cells(self, filed: Mapping[str, Any], row: int) -> dict[str, Any]:
        """Return a row's cells by our columns' names. ``row`` is its number in the file."""
        names = tuple(filed)
        plan = self._plan(names)
        if names in self._as_it_is:
            return dict(filed)
        found: dict[str, Any] = {}
        for name, target in plan:
            cell = filed[name]
            before = found.get(target)
            if before and cell:
                cell = f"{before}{SEVERAL if target in self._lists else ' '}{cell}"
            found[target] = cell or before or cell
        for column, value in self._map.fixed.items():
            found[column] = found.get(column) or value.replace(ROW, str(row))
        for column, words in self._map.words.items():
            if isinstance(cell := found.get(column), str):
                found[column] = words.get(plain_word(cell), cell)
        for column, factor in self._times.items():
            found[column] = _multiplied(str(found.get(column) or ""), factor)
        for column in self._map.day_first:
            found[column] = month_first(str(found.get(column) or ""))
        return found

    def filed_as(self, column: str, filed: Mapping[str, Any]) -> str:
        """Return what the file calls a column of ours."""
        return next((name for name, target in self._plan(tuple(filed)) if target == column), column)


def month_first(cell: str) -> str:
    """Return a date that puts the day first with the month first.

    >>> month_first("24.11.2026"), month_first("2026-11-24")
    ('11/24/2026', '2026-11-24')
    """
    return _DAY_FIRST.sub(r"\2/\1/\3", cell)


def _multiplied(cell: str, factor: Decimal) -> str:
    try:
        return f"{Decimal(cell.strip().removeprefix('$').replace(',', '')) * factor:f}"
    except InvalidOperation:
        # The reader of the column says what is wrong with it.
        return cell
