"""How rows of one kind of file become records of one model.

Read the cells, look up names, areas and parcels for the whole batch, tell each row by its natural key, and hand them
to ``CountyIntake.supersede``. A kind that needs more says so in a subclass.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from django.db import models
from django.db.models import Q

from jaded_ledger.intake import texts
from jaded_ledger.intake.address_book import AddressBook
from jaded_ledger.intake.batches import CheckedRow, CountyIntake, Refused, SourceLine, digest_of
from jaded_ledger.intake.begun_parcels import Door, begin, begin_at, door_of, note_points
from jaded_ledger.intake.cells import RefusedRowError, UnreadableValueError, point_of
from jaded_ledger.intake.drafts import Draft, DraftReader
from jaded_ledger.records.bulk import allot_ids, among, among_ids, copy_rows
from jaded_ledger.records.clock import not_before
from jaded_ledger.records.models import Parcel

_LONGEST_KEY = 600


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


class Filing(DraftReader):
    """One kind of file: what it is called and means, its columns, and the model it fills."""

    @property
    def filled(self) -> tuple[type[models.Model], ...]:
        """The tables that the file's rows are looked up in."""
        return (self.model,)

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
