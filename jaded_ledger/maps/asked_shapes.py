"""What a search asks of the map, as shapes to draw: the areas that it includes or excludes, and its rings."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.ring_notation import span_text
from jaded_ledger.core.criteria.search import Criterion, Members, Ring, Search, Value
from jaded_ledger.maps.centers import center_of
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.maps.named_areas import area_named
from jaded_ledger.maps.outlines import circle
from jaded_ledger.records.clock import day_of

_DIGITS = 7
"""Of degrees: a centimeter."""


def geojson_of(geometry: Any) -> dict[str, Any]:
    """Return a geometry as GeoJSON has it, to the centimeter."""
    found: dict[str, Any] = json.loads(geometry.json)
    found["coordinates"] = _rounded(found["coordinates"])
    return found


def _rounded(coordinates: Any) -> Any:
    return [_rounded(one) for one in coordinates] if isinstance(coordinates, list) else round(coordinates, _DIGITS)


def _feature(geometry: Any, **properties: Any) -> dict[str, Any]:
    return {"type": "Feature", "geometry": geojson_of(geometry), "properties": properties}


def _areas(values: tuple[Value, ...], use: str, scope: Scope) -> Iterator[dict[str, Any]]:
    for value in values:
        for name in value.items if isinstance(value, Members) else ():
            area = area_named(name, scope.team)
            yield _feature(area.geometry, id=area.pk, name=area.name, use=use)


def _rings(values: tuple[Value, ...], use: str, scope: Scope) -> Iterator[dict[str, Any]]:
    for value in values:
        if isinstance(value, Ring):
            center = center_of(value, scope)
            for end in filter(None, value.meters):
                yield _feature(circle(center, end), name=f"{span_text(value)} {value.unit}", use=use)
            yield _feature(center, name=value.at, use="center")


def _of_criterion(criterion: Criterion, scope: Scope) -> Iterator[dict[str, Any]]:
    shapes = {"in-area": _areas, "within": _rings}.get(criterion.trait)
    if shapes and criterion.is_applied:
        yield from shapes(criterion.accepts, "in", scope)
        yield from shapes(criterion.refuses, "out", scope)


def asked_shapes(search: Search, scope: Scope) -> list[dict[str, Any]]:
    """Return what a search asks of the map as features of GeoJSON (RFC 7946): ``use`` is *in*, *out*, or *center* of a ring.

    Raises CriteriaError for an area or a center that is not there.
    """
    applied = [line for line in search.lines if line.is_applied]
    return [shape for line in applied for criterion in line.members() for shape in _of_criterion(criterion, scope)]


def features_of_areas(areas: list[DrawnArea]) -> dict[str, Any]:
    """Return areas as a collection of features."""
    return {
        "type": "FeatureCollection",
        "features": [_feature(area.geometry, name=area.name, made=day_of(area.made_at).isoformat()) for area in areas],
    }
