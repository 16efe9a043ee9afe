"""Parcels as GeoJSON (RFC 7946). One without an outline has the geometry null, as the standard has it."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date
from typing import Any

from django.contrib.gis.db.models.functions import AsGeoJSON

from jaded_ledger.find.results import Plain
from jaded_ledger.records.models import ParcelShape

_DIGITS = 7
"""Of degrees: a centimeter."""


def json_value(value: Plain) -> Any:
    """Return a value as JSON has it."""
    return value.isoformat() if isinstance(value, date) else value


def outlines_of(ids: Sequence[int]) -> dict[int, str]:
    """Return some parcels' outlines as GeoJSON."""
    shapes = ParcelShape.objects.filter(superseded_at=None, parcel__in=ids)
    return dict(shapes.values_list("parcel", AsGeoJSON("outline", precision=_DIGITS)))


def feature(pk: int, outline: str | None, properties: Mapping[str, Any]) -> str:
    """Return a parcel with what is told of it."""
    text = json.dumps(properties, ensure_ascii=False)
    return f'{{"type": "Feature", "id": {pk}, "geometry": {outline or "null"}, "properties": {text}}}'


def collection(features: Iterable[str]) -> Iterator[str]:
    """Yield a file of features as it grows."""
    yield '{"type": "FeatureCollection", "features": ['
    separator = "\n"
    for one in features:
        yield separator + one
        separator = ",\n"
    yield "\n]}\n"
