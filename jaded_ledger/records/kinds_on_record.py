"""Of which kinds a parcel has rows: of most it has none, and one statement tells of which."""

from __future__ import annotations

from functools import lru_cache

from django.db import connection
from django.db.models import Model

Kinds = tuple[type[Model], ...]


@lru_cache(8)
def _statement(kinds: Kinds) -> str:
    """Return the statement that asks of each kind. It says the same of each parcel, and takes longer to write than to answer."""
    name = connection.ops.quote_name
    asked = []
    for kind in kinds:
        several = next((field.remote_field.through for field in kind._meta.many_to_many if field.name == "parcels"), None)
        table = (several or kind)._meta.db_table
        asked.append(f"EXISTS (SELECT FROM {name(table)} WHERE parcel_id = %(parcel)s)")
    return f"SELECT ARRAY[{', '.join(asked)}]"


def kinds_on_record(parcel_id: int, kinds: Kinds) -> frozenset[type[Model]]:
    """Return those kinds of which a parcel has a row, be it one that was corrected or ended."""
    with connection.cursor() as cursor:
        cursor.execute(_statement(kinds), {"parcel": parcel_id})
        (found,) = cursor.fetchone()
    return frozenset(kind for kind, has in zip(kinds, found, strict=True) if has)
