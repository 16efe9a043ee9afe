"""Warnings: why a comp may not tell of the subject, each from a fact on record."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from enum import StrEnum

from jaded_ledger.core.comps.sales import House

OLD = 180
"""Days after which a sale is old; common practice."""
ROADS = {"local": 0, "collector": 1, "arterial": 2, "highway": 3}
"""Road classes by how busy they are (Federal Highway Administration, Highway Functional Classification, 2013)."""


class Warned(StrEnum):
    """What a warning is of."""

    SIZE_STEP = "across a size step"
    BUSIER = "busier road"
    QUIETER = "quieter road"
    BARRIER = "across a barrier"
    ON_WATER = "on the water"
    OFF_WATER = "not on the water"
    OLD = "old sale"
    DISTRESSED = "distressed sale"
    STORIES = "stories differ"
    CONDITION = "condition differs"
    RESALE = "resale after repair"


@dataclass(frozen=True)
class Warning:
    """A warning, with what it stands on in words."""

    what: Warned
    why: str

    def __str__(self) -> str:
        return f"{self.what}: {self.why}" if self.why else str(self.what)


@dataclass(frozen=True)
class Circumstances:
    """What is known of a comp's sale beside what it was: the barriers between it and the subject, by name, and how it was sold.

    ``distress`` is blank for an ordinary sale. ``bought_for`` is the price of the sale before, if that was lower and less than two years
    before.
    """

    barriers: Collection[str] = ()
    distress: str = ""
    bought_for: float | None = None
    grade: str = ""


def road_rank(road_class: str) -> int | None:
    """Return how busy a road is by the words of its class; None where they don't tell.

    >>> road_rank("Minor Arterial"), road_rank("LOCAL"), road_rank("")
    (2, 0, None)
    """
    words = road_class.casefold()
    return max((rank for word, rank in ROADS.items() if word in words), default=None)


def _differ(subject: House, comp: House, trait: str) -> bool:
    return subject.knows(trait) and comp.knows(trait) and subject.value(trait) != comp.value(trait)


def warnings_of(
    subject: House,
    comp: House,
    about: Circumstances,
    *,
    size_step: float | None = None,
    roads: Mapping[float, str] | None = None,
    subject_grade: str = "",
    is_repaired: bool = False,
) -> list[Warning]:
    """Return what warns of a comp.

    ``size_step`` is the living area at which dollars a square foot break, and ``roads`` tells road classes by their codes. A comp that
    sold after repair (``is_repaired``) is in another condition on purpose.
    """
    found = []
    own, other = subject.value("living_area"), comp.value("living_area")
    if size_step is not None and not math.isnan(own + other) and (own < size_step) != (other < size_step):
        found.append(Warning(Warned.SIZE_STEP, f"$/sq ft breaks at {size_step:,.0f} sq ft here"))
    found += _of_road(subject, comp, roads or {})
    found += [Warning(Warned.BARRIER, name) for name in sorted(about.barriers)]
    if _differ(subject, comp, "waterfront"):
        found.append(Warning(Warned.ON_WATER if comp.value("waterfront") else Warned.OFF_WATER, ""))
    age = (subject.day - comp.day).days
    if age > OLD:
        found.append(Warning(Warned.OLD, f"{age:,} days"))
    if about.distress:
        found.append(Warning(Warned.DISTRESSED, about.distress))
    if _differ(subject, comp, "stories"):
        found.append(Warning(Warned.STORIES, f"{comp.value('stories'):g} against {subject.value('stories'):g}"))
    differs = _differ(subject, comp, "condition") or (about.grade and subject_grade and about.grade != subject_grade)
    if differs and not is_repaired:
        found.append(Warning(Warned.CONDITION, f"graded {about.grade}" if about.grade and subject_grade else "as recorded"))
    if about.bought_for is not None:
        found.append(Warning(Warned.RESALE, f"bought for ${about.bought_for:,.0f} within two years before"))
    return found


def _of_road(subject: House, comp: House, roads: Mapping[float, str]) -> list[Warning]:
    own, other = (roads.get(house.value("road_class"), "") for house in (subject, comp))
    ranks = road_rank(own), road_rank(other)
    if ranks[0] is None or ranks[1] is None or ranks[0] == ranks[1]:
        return []
    return [Warning(Warned.BUSIER if ranks[1] > ranks[0] else Warned.QUIETER, f"{other.lower()} against {own.lower()}")]
