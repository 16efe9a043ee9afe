"""The columns of a kind of file, read off the model that it fills: a field is declared once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from django.contrib.gis.db.models import GeometryField, MultiPolygonField
from django.contrib.postgres.fields import ArrayField
from django.db import models

from jaded_ledger.intake import cells
from jaded_ledger.intake.cells import UnreadableValueError, plain_word
from jaded_ledger.records.models import Area, Filed, Parcel, RecordedName
from jaded_ledger.records.models.filed import own_fields

SEVERAL = ";"
"""What stands between several values in one cell."""
_LARGEST: dict[type[models.Field], int] = {models.PositiveSmallIntegerField: 32_767, models.PositiveIntegerField: 2_147_483_647}
_REMEMBERED = 50_000


def memoized(read: Callable[[str], Any]) -> Callable[[str], Any]:
    """Read each distinct cell once: days, words and names repeat from row to row."""
    known: dict[str, Any] = {}

    def look_up(raw: str) -> Any:
        if raw in known:
            return known[raw]
        value = read(raw)
        if len(known) < _REMEMBERED:
            known[raw] = value
        return value

    return look_up


@dataclass(frozen=True)
class Column:
    """A column of a file: which field it fills, what reads a cell, what a blank one means, and in words what it takes."""

    name: str
    field: str
    read: Callable[[str], Any]
    blank: Any
    is_required: bool
    is_day: bool = False
    takes: str = ""
    words: tuple[str, ...] = ()
    """The vocabulary, where it has one."""
    is_list: bool = False


def extra(name: str, takes: str, *, is_required: bool = False, is_list: bool = False, words: tuple[str, ...] = ()) -> Column:
    """Return a column that a kind reads by itself, beside those that fill a field of its model."""
    return Column(name, "", cells.text_of, "", is_required, takes=takes, is_list=is_list, words=words)


def _text(field: models.Field) -> Callable[[str], str]:
    longest = field.max_length

    def read(raw: str) -> str:
        text = cells.text_of(raw)
        if longest and len(text) > longest:
            raise UnreadableValueError(f"is longer than {longest} characters")
        return text

    return read


def _word(field: models.Field) -> Callable[[str], str]:
    choices = dict(field.flatchoices)
    words = {plain_word(value): value for value in choices}
    said = ", ".join(choices)
    return memoized(lambda raw: cells.word_of(raw, words, said))


def _whole(field: models.Field, *, is_size: bool) -> Callable[[str], int | None]:
    largest = _LARGEST[type(field)]

    def read(raw: str) -> int | None:
        # Counties write sizes with decimals, and 0 for what was never measured.
        number = max(1, round(cells.number_of(raw))) if is_size and cells.number_of(raw) else cells.whole_of(raw)
        if number > largest:
            raise UnreadableValueError(f"is larger than {largest:,}")
        return None if is_size and not number else number

    return memoized(read)


def _measure(*, is_size: bool) -> Callable[[str], float | None]:
    def read(raw: str) -> float | None:
        number = round(float(cells.number_of(raw)), 2)
        return None if is_size and not number else number

    return memoized(read)


def _amount(field: models.DecimalField) -> Callable[[str], Decimal]:
    beyond, step = Decimal(10) ** (field.max_digits - field.decimal_places), Decimal(1).scaleb(-field.decimal_places)

    def read(raw: str) -> Decimal:
        number = cells.number_of(raw).quantize(step, ROUND_HALF_UP)
        if number >= beyond:
            raise UnreadableValueError(f"is {beyond:,} or more")
        return number

    return memoized(read)


def _list(field: ArrayField) -> Callable[[str], list[Any]]:
    one = reader_of(field.base_field)
    return lambda raw: [one(part.strip()) for part in raw.split(SEVERAL) if part.strip()]


def reader_of(field: models.Field, *, is_size: bool = False) -> Callable[[str], Any]:
    """Return what reads a cell for a field."""
    match field:
        case ArrayField():
            return _list(field)
        case MultiPolygonField():
            return cells.outline_of
        case GeometryField():
            return cells.shape_of
        case models.CharField() if field.choices:
            return _word(field)
        case models.TextField():
            return cells.prose_of
        case models.CharField():
            return _text(field)
        case models.DateField():
            return memoized(cells.day_of)
        case models.DecimalField():
            return _amount(field)
        case models.BooleanField():
            return memoized(cells.flag_of)
        case models.FloatField():
            return _measure(is_size=is_size)
        case models.ForeignKey() if field.related_model in (RecordedName, Area):
            return cells.name_of
    return _whole(field, is_size=is_size)


def takes_of(field: models.Field) -> str:
    """Return in words what a field's column takes."""
    match field:
        case ArrayField():
            return f"several, with {SEVERAL} between: {takes_of(field.base_field)}"
        case MultiPolygonField():
            return "an outline (GeoJSON)"
        case GeometryField():
            return "a shape (GeoJSON)"
        case models.CharField() if field.choices:
            return f"one of {', '.join(value for value, _ in field.choices)}"
        case models.TextField() | models.CharField():
            return "text"
        case models.DateField():
            return "a date"
        case models.DecimalField():
            return "an amount"
        case models.BooleanField():
            return "yes or no"
        case models.ForeignKey() if field.related_model is Area:
            return "a place"
        case models.ForeignKey():
            return "a name"
    return "a number" if isinstance(field, models.FloatField) else "a whole number"


def columns_of(model: type[Filed], naming: Callable[[str], str] = str) -> list[Column]:
    """Return the columns that fill a model. Its parcels have a column of their own."""
    columns = []
    for field in own_fields(model):
        is_link = isinstance(field, models.ForeignKey)
        if field.name in model.carried or (is_link and field.related_model not in (RecordedName, Area)):
            continue
        is_text = isinstance(field, models.CharField | models.TextField)
        has_blank = field.null or field.has_default() or (is_text and field.blank)
        blank = field.get_default() if field.has_default() else "" if is_text else None
        columns.append(
            Column(
                name=naming(field.name),
                field=field.attname,
                read=reader_of(field, is_size=field.name in model.sizes),
                blank=blank,
                is_required=not has_blank,
                is_day=isinstance(field, models.DateField) and field.name not in model.ahead,
                takes=takes_of(field),
                words=tuple(value for value, _ in field.choices or ()),
                is_list=isinstance(field, ArrayField),
            )
        )
    return columns


def parcel_column(model: type[Filed], naming: Callable[[str], str]) -> tuple[str, str] | None:
    """Return the name of a model's column of parcel numbers, and the field it fills; None without one."""
    for field in (*model._meta.concrete_fields, *model._meta.many_to_many):
        if field.related_model is Parcel:
            return naming("parcel_number"), field.name
    return None
