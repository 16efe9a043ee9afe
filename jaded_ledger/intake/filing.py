"""How rows of one kind of file become records of one model.

Read the cells, look up names, areas and parcels for the whole batch, tell each row by its natural key, and hand them
to ``CountyIntake.supersede``. A kind that needs more says so in a subclass.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from django.db import models
from django.db.models import Q

from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.intake import texts
from jaded_ledger.intake.address_book import AddressBook
from jaded_ledger.intake.batches import CheckedRow, CountyIntake, Refused, SourceLine, digest_of
from jaded_ledger.intake.begun_parcels import Door, begin, begin_at, door_of, note_points
from jaded_ledger.intake.cells import RefusedRowError, UnreadableValueError, is_month, point_of, text_of
from jaded_ledger.intake.columns import SEVERAL, Column, columns_of, extra, parcel_column
from jaded_ledger.intake.recorded_addresses import ReadAddress, joined_address
from jaded_ledger.records.bulk import allot_ids, among, among_ids, copy_rows
from jaded_ledger.records.clock import not_before
from jaded_ledger.records.models import Area, Filed, Parcel, RecordedName

_LONGEST_KEY = 600
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


def _fields_of(condition: Q) -> set[str]:
    """Return the names of the fields that a condition is about."""
    found: set[str] = set()
    for part in condition.children:
        match part:
            case Q():
                found |= _fields_of(part)
            case (name, _):
                found.add(str(name).partition("__")[0])
    return found


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


class Filing:
    """One kind of file: what it is called and means, its columns, and the model it fills."""

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
    def filled(self) -> tuple[type[models.Model], ...]:
        """The tables that the file's rows are looked up in."""
        return (self.model,)

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

    def on_record(self, county_intake: CountyIntake) -> int:
        """Return how many current rows the county has of the kind."""
        return self.model._default_manager.filter(county=county_intake.county, superseded_at=None).count()

    def retire(self, county_intake: CountyIntake) -> None:
        """A complete file ends what it no longer holds; the earlier rows stay readable, and so does what a refused row speaks of."""
        gone = self.model._default_manager.filter(county=county_intake.county, superseded_at=None).exclude(
            Q(source_file=county_intake.file) | Q(natural_key__in=among(county_intake.spared))
        )
        ended = [pk for pk in gone.values_list("pk", flat=True).iterator() if pk not in county_intake.held]
        county_intake.file.gone += self.model._default_manager.filter(pk__in=among_ids(ended)).update(
            superseded_at=not_before("recorded_at"), valid_until=county_intake.as_of
        )

    # One row

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

    def _spare(self, row: CheckedRow, values: dict[str, Any], rule: models.CheckConstraint) -> bool:
        """Leave unknown the last value by which a row breaks a rule, if it can do without it and says one."""
        for field_ in reversed(self.model._meta.concrete_fields):
            column = self._by_field.get(field_.attname)
            if column is None or field_.name not in _fields_of(Q(rule.condition)) or values[column.field] in (None, ""):
                continue
            is_told_by = str(values[column.field]) in row.key.split("|")
            if not is_told_by and self._can_do_without(column):
                row.doubts.append(row.line.refuse(column.name, str(rule.violation_error_message)))
                values[column.field] = self.stand_ins.get(column.field, column.blank)
                values["doubts"] = row.said_of_doubts
                return True
        return False

    # A batch of rows

    def find_parcels(self, county_intake: CountyIntake, drafts: Iterable[Draft]) -> dict[str, int]:
        """Return the parcels' ids by number key."""
        keys = {key for draft in drafts for key in draft.keys}
        return dict(Parcel.objects.filter(county=county_intake.county, number_key__in=among(keys)).values_list("number_key", "id"))

    def area_kind(self, draft: Draft, attribute: str) -> str:
        """Return what kind of area a column names: the one it is called after."""
        return attribute.removesuffix("_id")

    def look_up(self, county_intake: CountyIntake, drafts: Sequence[Draft], parcels: dict[str, int]) -> None:
        """Put ids in the place of names, areas and parcels."""
        if self._names:
            stored = texts.names(draft.texts[attribute] for draft in drafts for attribute in self._names)
            for draft in drafts:
                for attribute in self._names:
                    name = stored.get(draft.texts[attribute])
                    draft.values[attribute] = name and name.id
        if self._areas:
            places = texts.AreasAndStreets(county_intake.county)
            for draft in drafts:
                for attribute in self._areas:
                    draft.values[attribute] = places.area(self.area_kind(draft, attribute), draft.texts[attribute])
        if self._parcels and not self._many:
            attribute = f"{self._parcels[1]}_id"
            for draft in drafts:
                draft.values[attribute] = parcels.get(draft.keys[0]) if draft.keys else None

    def _part(self, draft: Draft, name: str) -> str:
        if self._parcels and name == self._parcels[1]:
            return "+".join(draft.keys)
        attribute = self._attribute(name)
        value = draft.texts.get(attribute, draft.values.get(attribute))
        return "" if value is None else str(value)

    def natural_key(self, draft: Draft) -> str:
        """Return what the record is recognized by in a later file."""
        parts = [self._part(draft, name) for name in self.model.natural]
        if not parts[0] and self.model.without_number:
            parts = ["", *(self._part(draft, name) for name in self.model.without_number)]
        key = "|".join(parts) if any(parts) else ""
        # A document over a whole subdivision names more parcels than an index takes.
        return key if len(key) <= _LONGEST_KEY else f"{key[: _LONGEST_KEY - 33]}|{digest_of(key)}"

    def admit(self, county_intake: CountyIntake, drafts: list[Draft]) -> tuple[list[Draft], dict[str, int], Refused]:
        """Return the rows whose parcels are on record, or were begun, those parcels, and the rows that are refused."""
        parcels = self.find_parcels(county_intake, drafts)
        if not self._parcels:
            return drafts, parcels, []
        refused = self._find_by_address(county_intake, drafts, parcels)
        lost = {line.number for line, _ in refused}
        drafts = [draft for draft in drafts if draft.line.number not in lost]
        missing = [draft for draft in drafts if not parcels.keys() >= set(draft.keys)]
        if missing and county_intake.begins and self.may_begin:
            parcels |= begin(county_intake, sorted({key for draft in missing for key in draft.keys} - parcels.keys()))
        elif missing and self.needs_parcel:
            reason = "is not on record; take in the parcels first" + (", or have this file begin them" if self.may_begin else "")
            refused += [(draft.line, draft.line.refuse(self._parcels[0], reason)) for draft in missing]
            gone = set(missing)
            drafts = [draft for draft in drafts if draft not in gone]
        else:
            for draft in missing:
                draft.doubts.append(draft.line.refuse(self._parcels[0], "is not on record; the row went in without a parcel"))
        return drafts, parcels, refused

    def _find_by_address(self, county_intake: CountyIntake, drafts: Iterable[Draft], parcels: dict[str, int]) -> Refused:
        """Give rows without a number the parcel at their address, beginning one there where the file may; return those that find none."""
        sought = [draft for draft in drafts if draft.at and not draft.keys]
        if not sought:
            return []
        found = AddressBook(county_intake.county).find(draft.at.address for draft in sought if draft.at)
        lost = [draft for draft in sought if draft.at and not found[draft.at.address].parcel_id]
        begun: dict[Door, tuple[str, int]] = {}
        if self.may_begin and county_intake.begins:
            # What may well be on record is looked at by somebody before it is begun a second time.
            begun = begin_at(county_intake, [draft.at for draft in lost if draft.at and not found[draft.at.address].is_doubtful])
        refused: Refused = []
        for draft in sought:
            assert draft.at is not None
            there = found[draft.at.address]
            key, pk = begun.get(door_of(draft.at.address)) or (there.key, there.parcel_id)
            if pk:
                draft.keys = [key]
                parcels[key] = pk
            elif self.needs_parcel:
                refused.append((draft.line, draft.line.refuse(self.address_columns[0], there.why_not)))
            else:
                # It goes in without its parcel, and is listed on the file's page so that nobody misses it unawares.
                draft.doubts.append(draft.line.refuse(self.address_columns[0], there.why_not))
        return refused

    def key_of_refused(self, county_intake: CountyIntake, line: SourceLine) -> str:
        """Return the natural key of a row that was refused; blank where too little of it can be read."""
        draft = Draft(line, {})

        def read(names: tuple[str, ...]) -> None:
            attributes = {self._attribute(name) for name in names}
            draft.values |= {
                column.field: self._value(county_intake, line, column) for column in self._columns if column.field in attributes
            }
            draft.texts |= {name: draft.values.get(name) or "" for name in (*self._names, *self._areas)}

        try:
            draft.keys = self._parcel_keys(county_intake, line)
            read(self.model.natural)
            if not self._part(draft, self.model.natural[0]):
                read(self.model.without_number)
        except RefusedRowError:
            return ""
        return self.natural_key(draft)

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

    def take(self, county_intake: CountyIntake, drafts: list[Draft]) -> Refused:
        """Store a batch of rows; return those that were refused."""
        refused: Refused = []
        drafts, parcels, not_admitted = self.admit(county_intake, drafts)
        refused += not_admitted
        self._note_points(drafts, parcels)
        self.look_up(county_intake, drafts, parcels)
        rows: dict[str, tuple[CheckedRow, Draft]] = {}
        numberless: defaultdict[str, dict[str, str]] = defaultdict(dict)
        for draft in drafts:
            key = self.natural_key(draft)
            digest = digest_of(*draft.values.values(), *draft.keys)
            if self.model.without_number and not self._part(draft, self.model.natural[0]):
                # Two documents without a number are one only where they say the same in everything.
                alike = numberless[key]
                key = alike.setdefault(digest, f"{key}#{len(alike) + 1}" if alike else key)
            if key in rows:
                column = self._key_column()
                if draft.at and self._parcels and column == self._parcels[0] and not draft.line.text(column):
                    column = self.address_columns[0]
                refused.append((draft.line, draft.line.refuse(column, "stands in this file more than once")))
                continue
            rows[key] = (CheckedRow(draft.line, key, draft.values, digest, draft.doubts), draft)
        stored, not_stored = county_intake.supersede(self.model, [row for row, _ in rows.values()], self._spare)
        self._cover(stored, rows, parcels)
        county_intake.seen |= set(parcels.values())
        return refused + not_stored

    def _note_points(self, drafts: Iterable[Draft], parcels: Mapping[str, int]) -> None:
        """Note where the file says that parcels lie."""
        if not self.point_columns:
            return
        points = {}
        for draft in drafts:
            north, east = (draft.line.text(name).strip() for name in self.point_columns)
            if not (north and east and draft.keys and draft.keys[0] in parcels):
                continue
            try:
                points[parcels[draft.keys[0]]] = point_of(north, east)
            except UnreadableValueError as error:
                draft.doubts.append(draft.line.refuse(self.point_columns[0], str(error)))
        if points:
            note_points(points)

    def _key_column(self) -> str:
        first = self.model.natural[0]
        if self._parcels and first == self._parcels[1]:
            return self._parcels[0]
        return next((column.name for column in self._columns if column.field == first), "")

    def _cover(self, stored: dict[str, int], rows: dict[str, tuple[CheckedRow, Draft]], parcels: dict[str, int]) -> None:
        """Note which parcels each document covers."""
        if not self._many or self._parcels is None:
            return
        through = getattr(self.model, self._parcels[1]).through
        document = next(one.attname for one in through._meta.concrete_fields if one.related_model is self.model)
        covered = [
            {document: pk, "parcel_id": parcels[key]} for natural, pk in stored.items() for key in rows[natural][1].keys if key in parcels
        ]
        if covered:
            for row, pk in zip(covered, allot_ids(through, len(covered)), strict=True):
                row["id"] = pk
            copy_rows(through, covered)
