"""Many rows in at once, with COPY: several times faster than the same rows as INSERT statements.

See docs/decisions/0003-copy-for-bulk-rows.md.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any

from django.contrib.gis.geos import GEOSGeometry
from django.db import connection, models
from psycopg.types.json import Jsonb


def _adapted(value: Any) -> Any:
    if isinstance(value, GEOSGeometry):
        return value.hexewkb.decode()
    if isinstance(value, list | dict):
        return Jsonb(value)
    return value


def _written(model: type[models.Model]) -> list[tuple[str, str, Callable[[Any], Any]]]:
    """Return column, attribute and adapter for each column that is not computed by the database."""
    wanting = (models.JSONField,)
    return [
        (field.column, field.attname, _adapted if isinstance(field, wanting) or hasattr(field, "geom_type") else lambda v: v)
        for field in model._meta.concrete_fields
        if not field.generated
    ]


def allot_ids(objects: Sequence[models.Model]) -> None:
    """Give new objects their ids from the table's own sequence."""
    table = objects[0]._meta.db_table
    with connection.cursor() as cursor:
        cursor.execute("SELECT nextval(pg_get_serial_sequence(%s, 'id')) FROM generate_series(1, %s)", [table, len(objects)])
        for one, (pk,) in zip(objects, cursor.fetchall(), strict=True):
            one.pk = pk


def copy_in(objects: Iterable[models.Model]) -> None:
    """Insert new objects of one model, giving each its id. The database checks every constraint, as ever."""
    rows = list(objects)
    if not rows:
        return
    model = type(rows[0])
    if model._meta.pk.attname == "id":
        allot_ids(rows)
    columns = _written(model)
    names = ", ".join(connection.ops.quote_name(column) for column, _, _ in columns)
    with (
        connection.cursor() as cursor,
        cursor.copy(f"COPY {connection.ops.quote_name(model._meta.db_table)} ({names}) FROM STDIN") as copy,
    ):
        for row in rows:
            copy.write_row([adapt(getattr(row, attribute)) for _, attribute, adapt in columns])
        for row in rows:
            row._state.adding = False
