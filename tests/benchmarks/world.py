"""A large world for the benchmarks: the demo, recorded many times over, each copy north of the one before, where that ends.

Files of a million parcels take hours to be taken in; copies of recorded rows have the same shape at a tenth of the time.
Numbers, natural keys, addresses and geometry differ from copy to copy, so that nothing of one copy is found for another.
"""

from __future__ import annotations

import time

from django.apps import apps
from django.core.management import call_command
from django.db import connection, models

from jaded_ledger.demo.world import PARCELS
from jaded_ledger.records.bulk import stored_fields
from jaded_ledger.records.fill_rates import measure_fill
from jaded_ledger.records.models import (
    Area,
    AreaEntry,
    AreaFigures,
    Contact,
    County,
    CountyColumn,
    CountyFactsVersion,
    Coverage,
    FillRate,
    OwnerDecision,
    Parcel,
    ParcelFacts,
    Photograph,
    Project,
    RecordedName,
    RecordedText,
    Remarks,
    SourceFile,
    StoredImage,
    StoredPaper,
    Street,
    TaxRate,
    World,
)
from jaded_ledger.records.reading_copy.writing import write_copy
from jaded_ledger.records.versions import put_up_version

_SHARED = (
    Area, AreaEntry, AreaFigures, Contact, County, CountyColumn, CountyFactsVersion, Coverage, FillRate, OwnerDecision, Photograph,
    Project, RecordedName, RecordedText, Remarks, SourceFile, StoredImage, StoredPaper, Street, TaxRate, World,
)  # fmt: skip
"""What all copies have in common."""
_SUFFIXED = {
    "natural_key", "number_key", "number", "document_number", "loan_number", "lien_number", "case_number", "listing_id",
    "resource_record_id", "parcel_number", "text", "folded", "words", "street", "at",
}  # fmt: skip
_OFFSET = 10_000_000
_DEGREES = 0.11
"""How far north of each other copies lie: they join, so that a circle meets as many parcels as it would in one large county."""


def _cloned() -> list[type[models.Model]]:
    """Return the tables that are copied, those that others point at first."""
    left = [model for model in apps.get_app_config("records").get_models(include_auto_created=False) if model not in _SHARED]
    found: list[type[models.Model]] = []
    while left:
        for model in left:
            targets = {field.related_model for field in model._meta.concrete_fields if field.related_model}
            if not (targets & set(left)) - {model}:
                found.append(model)
                left.remove(model)
                break
    return found


def _expression(model: type[models.Model], field: models.Field, copied: set[type[models.Model]]) -> str:
    name = connection.ops.quote_name(field.column)
    if field.related_model in copied or (field.primary_key and not field.related_model):
        return f"{name} + %(n)s * {_OFFSET}"
    if hasattr(field, "geom_type"):
        kind = field.db_type(connection)
        return f"ST_Translate({name}::geometry, 0, %(n)s * {_DEGREES})::{kind}"
    if model is ParcelFacts and field.name == "latitude":
        return f"{name} + %(n)s * {_DEGREES}"
    if field.name in _SUFFIXED and isinstance(field, models.CharField | models.TextField):
        # A number that is blank stays so: nothing is found by it.
        return f"CASE WHEN {name} = '' THEN '' ELSE {name} || '~' || %(n)s::text END"
    return name


def _multiply(copies: int) -> None:
    cloned = _cloned()
    copied = set(cloned)
    with connection.cursor() as cursor:
        # What the copies point at was copied before them; asking for each row again would take most of the time.
        cursor.execute("SET session_replication_role = replica")
        for model in cloned:
            table = connection.ops.quote_name(model._meta.db_table)
            fields = stored_fields(model)
            columns = ", ".join(connection.ops.quote_name(field.column) for field in fields)
            values = ", ".join(_expression(model, field, copied) for field in fields)
            key = connection.ops.quote_name(model._meta.pk.column)
            started = time.perf_counter()
            for number in range(1, copies):
                statement = f"INSERT INTO {table} ({columns}) SELECT {values} FROM {table} WHERE {key} < {_OFFSET}"
                cursor.execute(statement, {"n": number})
            cursor.execute(f"ANALYZE {table}")
            print(f"  {model._meta.verbose_name_plural}: {time.perf_counter() - started:,.0f} s", flush=True)


def load(parcels: int) -> None:
    """Have at least so many parcels on record, with their facts, which are copied like all else; what is there already is kept."""
    call_command("migrate", verbosity=0)
    if not Parcel.objects.exists():
        call_command("demo")
    if Parcel.objects.count() < parcels:
        _multiply(-(-parcels // PARCELS))
        for county in County.objects.order_by("name"):
            measure_fill(county)
        put_up_version(County.objects.values_list("pk", flat=True))
    with connection.cursor() as cursor:
        cursor.execute("SET session_replication_role = DEFAULT")
        cursor.execute("VACUUM ANALYZE")
    for county in County.objects.order_by("name"):
        started = time.perf_counter()
        if path := write_copy(county):
            print(f"  reading copy of {county}: {path.stat().st_size / 1e6:,.0f} MB, {time.perf_counter() - started:,.0f} s", flush=True)
