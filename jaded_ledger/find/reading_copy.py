"""A search as the reading copy is asked: by the same conditions, compiled once, what only PostgreSQL can tell put in as sets of ids.

``answered`` is the one way to it. Where the copy is not of the facts as they stand, or a condition can't go there, PostgreSQL answers:
the same, only later. See docs/decisions/0051-a-reading-copy-in-columns.md.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from dataclasses import replace
from functools import cache
from typing import Any, TypeVar, cast

import duckdb
import numpy as np
from django.db import connections
from django.db.models import BooleanField, Case, Expression, F, Func, Model, Q, QuerySet, When
from django.db.models.constants import LOOKUP_SEP
from django.db.models.expressions import ExpressionWrapper, NegatedExpression

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.id_sets import ids_of
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.reading_copy.backend.base import DatabaseWrapper
from jaded_ledger.records.reading_copy.columns import JoinedColumn, facts_columns, joined_columns
from jaded_ledger.records.reading_copy.files import versions
from jaded_ledger.records.reading_copy.opened import OPENED, NoCopyError
from jaded_ledger.records.reading_copy.writing import TABLE
from jaded_ledger.records.trait_columns import column_of

ALIAS = "reading_copy"
Answered = TypeVar("Answered")
log = logging.getLogger(__name__)
_LOOKUPS = frozenset({"exact", "in", "gt", "gte", "lt", "lte", "isnull", "overlap", "len"})
_PLACE, _WHERE = "place", "longitude"
"""Where a parcel lies is asked in PostgreSQL, through its index; it is known where this column is."""


class NotInCopyError(Exception):
    """A condition that the copy can't be asked."""


class _Joined(Expression):
    """A column of what the facts point at. The copy has it for each county, so that a row may be there twice."""

    def __init__(self, column: JoinedColumn) -> None:
        super().__init__(output_field=column.field)
        self.column = column

    def as_sql(self, compiler: Any, connection: Any) -> Any:
        column, table = self.column, self.column.model._meta.db_table
        beside = f'beside.id = "{TABLE}"."{column.pointer.column}" AND beside.county_id = "{TABLE}".county_id'
        return f'(SELECT beside."{column.name}" FROM {table} beside WHERE {beside})', []  # noqa: S608 - names of our own


class _Among(Func):
    """Whether a column's value is one of some ids."""

    output_field = BooleanField()
    conditional = True

    def __init__(self, column: str | F, ids: np.ndarray) -> None:
        super().__init__(column)
        self.ids = ids

    def as_sql(self, compiler: Any, connection: Any, **context: Any) -> tuple[str, list[Any]]:  # type: ignore[override]
        column, params = compiler.compile(self.source_expressions[0])
        return f"{column} IN (SELECT id FROM {connection.hold(self.ids)})", list(params)  # noqa: S608 - a name of our own


@cache
def _names() -> frozenset[str]:
    """Return what queries may call a value that the copy has."""
    own = {column.name for column in facts_columns()}
    fields = {field.name for field in ParcelFacts._meta.concrete_fields if field.column in own}
    grown = {column_of(trait) for trait in CATALOGUE if trait.since and not trait.is_own}
    return frozenset({"pk", *own, *fields, *grown, *(column.path for column in joined_columns())})


def _column_in(key: str) -> tuple[str, list[str]]:
    """Return the column that a condition's key names and the lookups after it. Raises NotInCopyError."""
    parts = key.split(LOOKUP_SEP)
    for end in range(len(parts), 0, -1):
        if (name := LOOKUP_SEP.join(parts[:end])) in _names():
            if set(parts[end:]) <= _LOOKUPS:
                return name, parts[end:]
            break
    raise NotInCopyError(key)


def check_in_copy(values: Iterable[str]) -> None:
    """Raise NotInCopyError for a value, as queries call it, that the copy has not."""
    for name in values:
        _column_in(name)


def _asked(condition: Any, compiled: Compiled) -> Any:
    """Return a condition as the copy is asked. Raises NotInCopyError."""
    if isinstance(condition, Q):
        return Q(*(_asked(child, compiled) for child in condition.children), _connector=condition.connector, _negated=condition.negated)
    if isinstance(condition, tuple):
        key, value = condition
        return _compared(key, value, compiled)
    if isinstance(condition, NegatedExpression):
        return NegatedExpression(_asked(condition.expression, compiled))
    if isinstance(condition, ExpressionWrapper):
        return ExpressionWrapper(_asked(condition.expression, compiled), output_field=condition.output_field)
    if isinstance(condition, Case):
        cases = [When(_asked(case.condition, compiled), then=case.result) for case in cast("list[When]", condition.cases)]
        return Case(*cases, default=condition.default, output_field=condition.output_field)
    raise NotInCopyError(type(condition).__name__)


def _compared(key: str, value: Any, compiled: Compiled) -> Any:
    if key.split(LOOKUP_SEP)[0] == _PLACE:
        inside = ids_of(compiled, compiled.opening.filter(**{key: value}).values("pk"))
        # Unknown wherever the place is.
        return Q(_Among("pk", inside)) & Q(**{f"{_WHERE}__isnull": False}) | Q(**{f"{_WHERE}__lt": F(_WHERE)})
    name, lookups = _column_in(key)
    if isinstance(value, QuerySet):
        if lookups != ["in"]:
            raise NotInCopyError(key)
        return _Among(name, ids_of(compiled, value))
    if isinstance(value, F):
        _column_in(value.name)  # type: ignore[attr-defined]
    elif isinstance(value, Expression):
        raise NotInCopyError(key)
    return key, value.pk if isinstance(value, Model) else value


def in_copy(compiled: Compiled) -> Compiled:
    """Return a search such that its querysets ask the copy. Raises NoCopyError and NotInCopyError."""
    counties = [county.pk for county in compiled.counties]
    there = versions(counties)
    if not counties or len(there) < len(counties):
        raise NoCopyError("facts of some county have not been derived")
    schema = OPENED.schema_of(there)
    conditions, narrowed = (
        tuple(None if one is None else _asked(one, compiled) for one in several) for several in (compiled.conditions, compiled.narrowed)
    )
    cast("DatabaseWrapper", connections[ALIAS]).read_from(schema)
    joined = {column.path: _Joined(column) for column in joined_columns()}
    return replace(compiled, opening=compiled.opening.using(ALIAS).alias(**joined), conditions=conditions, narrowed=narrowed)


def answered(compiled: Compiled, ask: Callable[[Compiled], Answered], values: Iterable[str] = ()) -> Answered:
    """Return what ``ask`` finds out about a search: of the copy, or where that can't be asked, of PostgreSQL.

    ``ask`` reads the querysets of the search that it is given to their end; ``values`` are what it asks of them beside the search, as
    queries call it.
    """
    try:
        check_in_copy(values)
        return ask(in_copy(compiled))
    except (NoCopyError, NotInCopyError, duckdb.OutOfMemoryException) as error:
        log.debug("PostgreSQL is asked: %r", error)
    except duckdb.Error as error:
        log.exception("the reading copy could not answer; PostgreSQL is asked")
        if isinstance(error, duckdb.FatalException):
            # After one of these DuckDB answers nothing any more.
            OPENED.close()
    return ask(compiled)
