"""The matches of a search as GeoJSON (RFC 7946): a feature for each parcel, with the columns that the table shows."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date
from itertools import islice
from typing import Any

from django.contrib.gis.db.models.functions import AsGeoJSON

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.results import IDENTITY, Plain, value_of, with_values_alone
from jaded_ledger.records.models import ParcelFacts, ParcelShape

_AT_ONCE = 2_000
_DIGITS = 7
"""Of degrees: a centimeter."""


def json_value(value: Plain) -> Any:
    """Return a value as JSON has it."""
    return value.isoformat() if isinstance(value, date) else value


def _properties(facts: ParcelFacts, traits: Sequence[Trait]) -> dict[str, Any]:
    return {trait.key: json_value(value_of(facts, trait)) for trait in traits}


def outlines_of(ids: Sequence[int]) -> dict[int, str]:
    """Return some parcels' outlines as GeoJSON."""
    shapes = ParcelShape.objects.filter(superseded_at=None, parcel__in=ids)
    return dict(shapes.values_list("parcel", AsGeoJSON("outline", precision=_DIGITS)))


def features_of(answer: Answer) -> Iterator[str]:
    """Yield the file piece by piece. A parcel without an outline is in it with the geometry null, as the standard has it."""
    traits = [CATALOGUE["county"], *IDENTITY, *(CATALOGUE[key] for key in answer.columns)]
    parcels = with_values_alone(answer.ordered, traits)

    def features() -> Iterator[str]:
        found = parcels.iterator(chunk_size=_AT_ONCE)
        while chunk := list(islice(found, _AT_ONCE)):
            outlines = outlines_of([facts.pk for facts in chunk])
            for facts in chunk:
                yield feature(facts.pk, outlines.get(facts.pk), _properties(facts, traits))

    return collection(features())


def feature(pk: int, outline: str | None, properties: Mapping[str, Any]) -> str:
    """Return a parcel with what is told of it."""
    told = json.dumps(properties, ensure_ascii=False)
    return f'{{"type": "Feature", "id": {pk}, "geometry": {outline or "null"}, "properties": {told}}}'


def collection(features: Iterable[str]) -> Iterator[str]:
    """Yield a file of features as it grows."""
    yield '{"type": "FeatureCollection", "features": ['
    separator = "\n"
    for one in features:
        yield separator + one
        separator = ",\n"
    yield "\n]}\n"
