"""How the cells of a file's rows are read: the columns of its kind, and each row as a draft of the record that it becomes."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from django.db import models

from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.intake.batches import CountyIntake, Refused, SourceLine
from jaded_ledger.intake.cells import RefusedRowError, UnreadableValueError, is_month, text_of
from jaded_ledger.intake.columns import SEVERAL, Column, columns_of, extra, parcel_column
from jaded_ledger.intake.recorded_addresses import ReadAddress, joined_address
from jaded_ledger.records.models import Area, Filed, RecordedName

_NUMBERS_KEPT = 200_000
COUNTY = "county"
"""The column that says to which county a row belongs, in a file of several."""
NUMBER = "parcel_number"
ROW = "{row}"
"""What stands, as the value of a column, for the number of the row in its file."""
ADDRESS_COLUMNS = ("address", "unit", "city", "zip")
_ADDRESS = (
    extra("address", "the property's address, where the file has no parcel numbers"),
    extra("unit", "the unit of that address"),
    extra("city", "the city of that address"),
    extra("zip", "the ZIP code of that address"),
)


@dataclass(eq=False)
class Draft:
    """A row whose cells have been read: values by attribute, the texts still to be looked up, parcel-number keys."""

    line: SourceLine
    values: dict[str, Any]
    keys: list[str] = field(default_factory=list)
    texts: dict[str, str] = field(default_factory=dict)
    doubts: list[RefusedRowError] = field(default_factory=list)
    """Values that can't be so and that the row can do without: they are left unknown."""
    at: ReadAddress | None = None
    """The property's address, by which the parcel is found where the row has no number."""


class DraftReader:
    """The columns of one kind of file, and how its rows are read; nothing here asks the database."""

    needs_parcel = True
    """Whether a row whose parcel is not on record is refused."""
    may_begin = False
    """Whether the file may begin parcels that are not on record."""
    or_else: Mapping[str, str] = {NUMBER: "address"}
    """What does in the place of a column that must be there."""
    address_columns: tuple[str, ...] = ADDRESS_COLUMNS
    """The columns of the property's address: its line, unit, city and ZIP code. None where rows are not found by it."""
    point_columns: tuple[str, ...] = ()
    """The columns of latitude and longitude."""
    kept_as_filed: frozenset[str] = frozenset(ADDRESS_COLUMNS)
    """Columns of the address that are kept with the row as the file has them."""
    extras: tuple[Column, ...] = ()
    """Columns beside those that fill a field of the model."""
    stand_ins: Mapping[str, Any] = {}
    """What stands in for a value that can't be so, by field, where the field is never blank."""

    def __init__(self, name: str, meaning: str, model: type[Filed], *, naming: Callable[[str], str] = str) -> None:
        self.name = name
        self.meaning = meaning
        self.model = model
        self._columns = columns_of(model, naming)
        self._parcels = parcel_column(model, naming)
        self._many = self._parcels is not None and isinstance(model._meta.get_field(self._parcels[1]), models.ManyToManyField)
        by_kind = {one.attname: one.related_model for one in model._meta.concrete_fields if one.related_model}
        self._names = [column.field for column in self._columns if by_kind.get(column.field) is RecordedName]
        self._areas = [column.field for column in self._columns if by_kind.get(column.field) is Area]
        self._known = frozenset((*self.columns, COUNTY))

    def _attribute(self, name: str) -> str:
        """Return the attribute of a field of the model's: of a link the id."""
        field_ = self.model._meta.get_field(name)
        assert isinstance(field_, models.Field)
        return field_.attname

    @cached_property
    def _by_field(self) -> dict[str, Column]:
        return {column.field: column for column in self._columns}

    @property
    def described(self) -> tuple[Column, ...]:
        """The columns that the file can have, each with what it takes."""
        parcel: tuple[Column, ...] = ()
        if self._parcels:
            takes = f"parcel numbers, with {SEVERAL} between" if self._many else "a parcel number"
            parcel = (extra(self._parcels[0], takes, is_required=self.needs_parcel, is_list=self._many),)
        found = {column.name: column for column in (*self.extras, *self._columns)}
        is_found_by_it = parcel and self.address_columns == ADDRESS_COLUMNS
        addresses = tuple(one for one in _ADDRESS if one.name not in found) if is_found_by_it else ()
        # The model may keep the number as recorded beside the parcel it leads to.
        return (*parcel, *addresses, *(column for name, column in found.items() if not (parcel and name == parcel[0].name)))

    @property
    def columns(self) -> tuple[str, ...]:
        """The names of the columns that the file can have."""
        return tuple(column.name for column in self.described)

    @property
    def required(self) -> tuple[str, ...]:
        """The names of those that it must have."""
        return tuple(column.name for column in self.described if column.is_required)

    def missing(self, filled: Collection[str]) -> list[str]:
        """Return which of the columns that must be there are not, nor what does in their place."""
        return [name for name in self.required if name not in filled and self.or_else.get(name, "") not in filled]

    def with_stand_in(self, column: str) -> str:
        """Return a required column with what else would do: recorded_on (or sold_on)."""
        instead = self.or_else.get(column, "")
        return f"{column} (or {instead})" if instead else column

    def _address(self, county_intake: CountyIntake, line: SourceLine) -> ReadAddress | None:
        """Return the address by which a row's parcel is found."""
        whole, unit, city, zip_code = (" ".join(line.text(name).split()) for name in self.address_columns)
        return joined_address(whole, unit, city, county_intake.county.state, zip_code)

    def _months(self, line: SourceLine) -> dict[str, str]:
        """Return the days of which the file tells only year and month, as it writes them: the first stands for them."""
        days = ((column.name, str(line.cells.get(column.name) or "")) for column in self._columns if column.is_day)
        return {f"{name} as filed": f"{cell} (no day)" for name, cell in days if cell and is_month(cell)}

    def _value(self, county_intake: CountyIntake, line: SourceLine, column: Column) -> Any:
        raw = line.cells.get(column.name)
        if isinstance(raw, str):
            raw = raw.strip()
        if raw is None or raw == "":
            if column.is_required:
                raise line.refuse(column.name, "is blank and must not be")
            return column.blank
        try:
            value = column.read(raw)
        except UnreadableValueError as error:
            raise line.refuse(column.name, str(error)) from None
        if column.is_day and value > county_intake.as_of:
            raise line.refuse(column.name, f"lies after {county_intake.as_of}, the day the file speaks of")
        return value

    def _parcel_keys(self, county_intake: CountyIntake, line: SourceLine) -> list[str]:
        if not self._parcels:
            return []
        column = self._parcels[0]
        written = line.text(column)
        if (known := county_intake.numbers.get(written)) is not None:
            return known
        cell = text_of(written)
        if not cell:
            if self.needs_parcel and not (self.address_columns and line.text(self.address_columns[0]).strip()):
                raise line.refuse(column, "is blank and must not be")
            return []
        try:
            mask = county_intake.county.mask
            numbers = {mask.key(one): one.strip() for one in (cell.split(SEVERAL) if self._many else [cell])}
            keys = sorted(numbers)
            if mask.is_free:
                county_intake.written |= numbers
        except ParcelNumberError as error:
            if not self.needs_parcel:
                return []
            raise line.refuse(column, str(error)) from None
        if len(county_intake.numbers) < _NUMBERS_KEPT:
            county_intake.numbers[written] = keys
        return keys

    def read(self, county_intake: CountyIntake, line: SourceLine) -> Draft:
        """Read a row's cells. Raises RefusedRowError."""
        cells = line.cells
        values: dict[str, Any] = {}
        doubts: list[RefusedRowError] = []
        for column in self._columns:
            raw = cells.get(column.name)
            # Most cells are blank: they are not worth a call each.
            values[column.field] = self._value_or_doubt(county_intake, line, column) if raw or column.is_required else column.blank
            if isinstance(values[column.field], RefusedRowError):
                doubts.append(values[column.field])
                values[column.field] = self.stand_ins.get(column.field, column.blank)
        draft = Draft(line, values, self._parcel_keys(county_intake, line), doubts=doubts)
        if self._parcels and self.address_columns and not draft.keys:
            draft.at = self._address(county_intake, line)
        values["further"] = {}
        if not cells.keys() <= self._known:
            values["further"] = {
                name: str(value).strip()
                for name, value in cells.items()
                if (name not in self._known or name in self.kept_as_filed) and value not in (None, "")
            }
        if months := self._months(line):
            values["further"] |= months
        for attribute in (*self._names, *self._areas):
            draft.texts[attribute] = values[attribute] or ""
        if doubts:
            self._keep_identity(draft)
        return draft

    def _can_do_without(self, column: Column) -> bool:
        """Return whether a row can do without a column's value: a blank one is unknown, and nothing is told by it."""
        if column.field in self.stand_ins:
            return True
        needed = {self._attribute(name) for name in self.model.needed}
        return not column.is_required and column.blank in (None, "") and column.field not in needed

    def _value_or_doubt(self, county_intake: CountyIntake, line: SourceLine, column: Column) -> Any:
        """Return a cell's value; or what is wrong with it, where the row can do without. Raises RefusedRowError."""
        try:
            return self._value(county_intake, line, column)
        except RefusedRowError as doubt:
            if doubt.value and self._can_do_without(column):
                return doubt
            raise

    def _identity(self, draft: Draft) -> set[str]:
        """Return the fields by which a row is recognized in a later file."""
        names = (
            self.model.natural if self._part(draft, self.model.natural[0]) or not self.model.without_number else self.model.without_number
        )
        return {self._attribute(name) for name in names if not (self._parcels and name == self._parcels[1])}

    def _keep_identity(self, draft: Draft) -> None:
        """Refuse a row that is told by a value that can't be so. Raises RefusedRowError."""
        told_by = {self._by_field[name].name for name in self._identity(draft) if name in self._by_field}
        for doubt in draft.doubts:
            if doubt.column in told_by:
                raise doubt

    def _part(self, draft: Draft, name: str) -> str:
        if self._parcels and name == self._parcels[1]:
            return "+".join(draft.keys)
        attribute = self._attribute(name)
        value = draft.texts.get(attribute, draft.values.get(attribute))
        return "" if value is None else str(value)

    def read_all(self, county_intake: CountyIntake, lines: Iterable[SourceLine]) -> tuple[list[Draft], Refused]:
        """Read a batch of rows without asking the database; return them and those that were refused."""
        drafts: list[Draft] = []
        refused: Refused = []
        for line in lines:
            if line.fault:
                refused.append((line, line.refuse("", line.fault)))
                continue
            try:
                drafts.append(self.read(county_intake, line))
            except RefusedRowError as reason:
                refused.append((line, reason))
        return drafts, refused
