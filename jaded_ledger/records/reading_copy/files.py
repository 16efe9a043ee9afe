"""Where the copies are, and which of them are of the facts as they stand."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from pathlib import Path

from django.conf import settings
from django.db import connection

from jaded_ledger.records.models import CountyFactsVersion

_SUFFIX = ".duckdb"


def folder() -> Path:
    """Return the folder of this database's copies."""
    return Path(settings.READING_COPIES) / str(connection.settings_dict["NAME"])


def file_of(county: int, version: str) -> Path:
    """Return the file that holds a county's facts as they are in a version."""
    return folder() / f"{county}-{version}{_SUFFIX}"


def versions(counties: Collection[int]) -> Mapping[int, str]:
    """Return the versions of counties' facts as they stand."""
    rows = CountyFactsVersion.objects.filter(county__in=counties).values_list("county_id", "version")
    return {county: version.hex for county, version in rows}


def missing() -> list[int]:
    """Return the counties of whose facts, as they stand, there is no copy."""
    rows = CountyFactsVersion.objects.values_list("county_id", "version")
    return [county for county, version in rows if not file_of(county, version.hex).exists()]


def outdated(county: int, version: str) -> list[Path]:
    """Return what is in the folder of a county's other versions, unfinished files among it."""
    current = file_of(county, version)
    return [path for path in folder().glob(f"{county}-*") if path != current]
