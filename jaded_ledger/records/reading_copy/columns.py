"""What the reading copy holds: the facts' columns, and tables of what their ids stand for, as far as queries join to it."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from functools import cache

from django.contrib.postgres.fields import ArrayField
from django.db import connection, models
from django.db.models import F, Func
from django.db.models.constants import LOOKUP_SEP
from django.db.models.expressions import BaseExpression

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.records.models import ParcelFacts

_TYPES = {
    "smallint": "SMALLINT", "integer": "INTEGER", "bigint": "BIGINT", "double precision": "DOUBLE", "date": "DATE", "boolean": "BOOLEAN",
    "text": "VARCHAR",
}  # fmt: skip


@dataclass(frozen=True)
class CopiedColumn:
    """A column: its name in the copy, what gives it in PostgreSQL, and its type in DuckDB."""

    name: str
    source: F | BaseExpression
    type: str

    @property
    def is_array(self) -> bool:
        return self.type.endswith("[]")


@dataclass(frozen=True)
class JoinedColumn:
    """A column of what the facts point at, such as ``owner_name__folded``: the pointer, the table and the column there."""

    path: str
    pointer: models.ForeignKey
    name: str
    field: models.Field

    @property
    def model(self) -> type[models.Model]:
        return self.pointer.related_model


def _type(field: models.Field) -> str:
    if isinstance(field, ArrayField):
        return f"{_type(field.base_field)}[]"
    db_type = str(field.db_type(connection))
    return "VARCHAR" if db_type.startswith("varchar") else _TYPES[db_type]


def _copied(field: models.Field) -> CopiedColumn:
    source = Func(F(field.name), function="to_json") if isinstance(field, ArrayField) else F(field.attname)
    return CopiedColumn(str(field.column), source, _type(field))


def _joined(path: str) -> JoinedColumn:
    first, _, rest = path.partition(LOOKUP_SEP)
    pointer = ParcelFacts._meta.get_field(first)
    assert isinstance(pointer, models.ForeignKey)
    model: type[models.Model] = pointer.related_model
    *steps, last = rest.split(LOOKUP_SEP)
    for step in steps:
        model = model._meta.get_field(step).related_model  # type: ignore[assignment]
    return JoinedColumn(path, pointer, rest, model._meta.get_field(last))  # type: ignore[arg-type]


@cache
def facts_columns() -> tuple[CopiedColumn, ...]:
    """Return the facts' own columns that are copied.

    A place is asked in PostgreSQL, through its index, and a county's own columns as the JSON that they are in.
    """
    return tuple(
        _copied(field) for field in ParcelFacts._meta.concrete_fields if not field.generated and not isinstance(field, models.JSONField)
    )


@cache
def joined_columns() -> tuple[JoinedColumn, ...]:
    """Return what is asked of the rows that facts point at: areas' figures, and the texts by which rows are sorted."""
    declared = [trait for trait in CATALOGUE if not trait.is_own and not trait.of_team]
    figures = [trait.fact for trait in declared if LOOKUP_SEP in trait.fact]
    texts = [f"{trait.fact}__folded" for trait in declared if trait.kind in (Kind.NAME, Kind.PLACE) and trait.key != "county"]
    return tuple(map(_joined, dict.fromkeys([*figures, *texts, "owner__name__folded", "county__name"])))


@dataclass(frozen=True)
class Beside:
    """A table beside the facts: the rows of a model that a county's facts point at, by their ids."""

    model: type[models.Model]
    pointers: tuple[str, ...]
    columns: tuple[CopiedColumn, ...]

    @property
    def name(self) -> str:
        return self.model._meta.db_table


@cache
def tables_beside() -> tuple[Beside, ...]:
    """Return the tables that hold the joined columns."""
    by_model: dict[type[models.Model], list[JoinedColumn]] = defaultdict(list)
    for column in joined_columns():
        by_model[column.model].append(column)
    return tuple(
        Beside(
            model,
            tuple(dict.fromkeys(str(column.pointer.column) for column in columns)),
            tuple({column.name: CopiedColumn(column.name, F(column.name), _type(column.field)) for column in columns}.values()),
        )
        for model, columns in by_model.items()
    )
