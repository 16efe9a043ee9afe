"""Many rows in at once, with COPY: several times faster than the same rows as INSERT statements.

See docs/decisions/0003-copy-for-bulk-rows.md.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any

from django.contrib.gis.geos import GEOSGeometry
from django.contrib.postgres.fields import ArrayField
from django.db import connection, models
from django.db.models.expressions import RawSQL
from psycopg.types.json import Jsonb

_ONE_AT_A_TIME = 0x1ED6E2
"""The number of the lock that those who record or derive wait for: two that store the same new text would wait for each other."""


def wait_for_turn() -> None:
    """Wait, within a transaction, until nobody else records or derives."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_ONE_AT_A_TIME])


def _as_is(value: Any) -> Any:
    return value


def _shape(value: GEOSGeometry | None) -> str | None:
    return None if value is None else value.hexewkb.decode()


def _json(value: Any) -> Any:
    # Most rows have nothing further to say; nothing is soon written.
    return "{}" if value == {} else Jsonb(value)


def _codes(value: list[int] | None) -> str | None:
    return None if value is None else f"{{{','.join(map(str, value))}}}"


def _adapter(field: models.Field) -> Callable[[Any], Any]:
    if isinstance(field, models.JSONField):
        return _json
    if isinstance(field, ArrayField) and isinstance(field.base_field, models.SmallIntegerField):
        return _codes
    return _shape if hasattr(field, "geom_type") else _as_is


def stored_fields(model: type[models.Model]) -> list[models.Field]:
    """Return a model's columns that are not computed by the database."""
    return [field for field in model._meta.concrete_fields if not field.generated]


def allot_ids(model: type[models.Model], count: int) -> list[int]:
    """Return so many new ids from the table's own sequence."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT nextval(pg_get_serial_sequence(%s, 'id')) FROM generate_series(1, %s)", [model._meta.db_table, count])
        return [pk for (pk,) in cursor.fetchall()]


def copy_rows(model: type[models.Model], rows: Sequence[Mapping[str, Any]], table: str = "") -> None:
    """Insert rows given by attribute name, ids among them. The database checks every constraint, as ever.

    ``table`` names another table of the same columns.
    """
    if not rows:
        return
    fields = [field for field in stored_fields(model) if field.attname in rows[0]]
    names = ", ".join(connection.ops.quote_name(str(field.column)) for field in fields)
    readers = [(field.attname, _adapter(field)) for field in fields]
    into = connection.ops.quote_name(table or model._meta.db_table)
    with connection.wrap_database_errors, connection.cursor() as cursor, cursor.copy(f"COPY {into} ({names}) FROM STDIN") as copy:
        plain = all(adapt is _as_is for _, adapt in readers)
        for row in rows:
            copy.write_row([row[name] for name, _ in readers] if plain else [adapt(row[name]) for name, adapt in readers])


_MANY = 5_000
"""So many rows written may change what PostgreSQL should know of a table."""
_SHARE = 0.1
"""And do if they are at least such a share of it: counting a wide table anew takes seconds."""


def analyse(model: type[models.Model], written: int) -> None:
    """Have PostgreSQL count a table anew after many rows were written: within a transaction it knows nothing of them."""
    if written < _MANY:
        return
    with connection.cursor() as cursor:
        cursor.execute("SELECT reltuples FROM pg_class WHERE oid = %s::regclass", [model._meta.db_table])
        if written >= _SHARE * cursor.fetchone()[0]:
            cursor.execute(f"ANALYZE {connection.ops.quote_name(model._meta.db_table)}")


def among(values: Iterable[str]) -> RawSQL:
    """Return texts as one parameter to look up by: thousands of them take long to write out."""
    return RawSQL("SELECT unnest(%s::text[])", [list(values)])


def among_ids(ids: Iterable[int]) -> RawSQL:
    """Return ids as one parameter to look up by."""
    return RawSQL("SELECT unnest(%s::bigint[])", [list(ids)])


def broken_rules(model: type[models.Model], rows: Sequence[Mapping[str, Any]]) -> dict[int, models.CheckConstraint]:
    """Return, by id, the first rule of the table that a row breaks."""
    table = model._meta.db_table
    trial = f"trial_{table}"[:60]
    broken: dict[int, models.CheckConstraint] = {}
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE TEMPORARY TABLE {trial} (LIKE {table} INCLUDING DEFAULTS)")
        copy_rows(model, rows, table=trial)
        for constraint in model._meta.constraints:
            if isinstance(constraint, models.CheckConstraint):
                cursor.execute(
                    "SELECT pg_get_expr(conbin, conrelid) FROM pg_constraint WHERE conname = %s AND conrelid = %s::regclass",
                    [constraint.name, table],
                )
                (rule,) = cursor.fetchone()
                cursor.execute(f"SELECT id FROM {trial} WHERE NOT ({rule})")  # noqa: S608 - both are our own
                for (pk,) in cursor.fetchall():
                    broken.setdefault(pk, constraint)
        cursor.execute(f"DROP TABLE {trial}")
    return broken


def grouped(rows: Iterable[tuple[Any, ...]], made: Any) -> dict[Any, list[Any]]:
    """Return rows by their first column, each made of the others."""
    found: dict[Any, list[Any]] = defaultdict(list)
    for first, *rest in rows:
        found[first].append(made(*rest))
    return found


def batched(items: Sequence[Any], size: int) -> Iterator[Sequence[Any]]:
    """Yield a sequence in pieces of a size."""
    for start in range(0, len(items), size):
        yield items[start : start + size]
