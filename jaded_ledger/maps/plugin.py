"""What maps add to the program."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from jaded_ledger.find.answer import Answer
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.maps.labels import LABELS
from jaded_ledger.maps.most_matches import KINDS
from jaded_ledger.maps.tiles import CLOSEST, PARCELS_FROM
from jaded_ledger.maps.traits import TEAM_TRAITS
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Face

_LAYERS = (
    ("road", "roads"), ("highway", "highways"), ("rail", "rail"), ("water", "water"), ("flood-zone", "flood zones"), ("park", "parks"),
    ("neighborhood", "neighborhoods"), ("school_district", "school districts"),
)  # fmt: skip


def _context(answer: Answer) -> dict[str, Any]:
    return {"labels": LABELS, "layers": _LAYERS, "area_kinds": KINDS, "closest": CLOSEST, "parcels_from": PARCELS_FROM}


@hookimpl
def faces() -> list[Face]:
    return [Face("map", "Map", "maps/face.html", _context, 30)]


@hookimpl
def team_traits() -> Sequence[TeamTrait]:
    return TEAM_TRAITS
