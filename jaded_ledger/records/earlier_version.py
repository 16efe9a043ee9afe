"""Databases of the version before migrations were squashed: whether one is complete, and what else changed with it.

See docs/decisions/0030-migrations-squashed.md, which says when all of this goes.
"""

from __future__ import annotations

from django.db import connections, transaction
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder
from psycopg import sql

LAST_ONE_BY_ONE = "c48b14e"
"""The last version that carries the migrations one by one."""
_RENAMED = (("neighbourhood", "neighborhood"), ("storeys", "stories"))
_TABLES = (
    "ALTER TABLE records_parcelfacts RENAME COLUMN neighbourhood_id TO neighborhood_id",
    "ALTER TABLE records_parcelfacts RENAME COLUMN storeys TO stories",
    "ALTER TABLE records_rollentry RENAME COLUMN neighbourhood_id TO neighborhood_id",
    "ALTER TABLE records_building RENAME COLUMN storeys TO stories",
    "ALTER TABLE records_building RENAME CONSTRAINT building_storeys_positive TO building_stories_positive",
)
# What holds a key of a trait or the name of a column, as it stands there: alone, as what a file's own column is mapped to, in a list, and
# in a search.
_HELD = (
    ("records_area", "kind", "varchar", "{}"), ("records_fillrate", "trait", "varchar", "{}"), ("find_selection", "sort", "varchar", "{}"),
    ("find_selection", "columns", "varchar[]", "{}"), ("records_sourcefile", "columns", "jsonb", ': "{}"'),
    ("intake_source", "columns", "jsonb", ': "{}"'), ("intake_upload", "columns", "jsonb", ': "{}"'),
    ("outreach_contactexport", "details", "jsonb", '"{}"'), ("find_longsearch", "text", "text", "{}:"),
    ("find_selection", "search", "text", "{}:"), ("lists_activity", "search", "text", "{}:"),
    ("outreach_contactexport", "search", "text", "{}:"),
)  # fmt: skip
_REPLACE = "UPDATE {table} SET {column} = replace({column}::text, {old}, {new})::{kind} WHERE position({old} IN {column}::text) > 0"


def _done(database: str) -> set[tuple[str, str]]:
    return set(MigrationRecorder(connections[database]).applied_migrations())


def missing_steps(database: str) -> list[str]:
    """Return the steps that a database of an earlier version lacks, of those that this version has squashed."""
    done = _done(database)
    missing = []
    for migration in MigrationLoader(None).disk_migrations.values():
        steps = [step for step in migration.replaces if step not in done]
        was_begun = len(steps) < len(migration.replaces)
        if was_begun and (migration.app_label, migration.name) not in done:
            missing += [f"{label}.{name}" for label, name in steps]
    return missing


def bring_over(database: str) -> bool:
    """Give a database that has every earlier step the names that tables have now; return whether it was one, and had the old names."""
    done = _done(database)
    if ("records", "0013_whose_decision") not in done or ("records", "0001_tables") in done:
        return False
    with transaction.atomic(using=database), connections[database].cursor() as cursor:
        for statement in _TABLES:
            cursor.execute(statement)
        for old, new in _RENAMED:
            for table, column, kind, shape in _HELD:
                names = {"table": sql.Identifier(table), "column": sql.Identifier(column), "kind": sql.SQL(kind)}
                words = {"old": sql.Literal(shape.format(old)), "new": sql.Literal(shape.format(new))}
                cursor.execute(sql.SQL(_REPLACE).format(**names, **words))
    return True
