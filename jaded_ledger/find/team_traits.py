"""Traits whose values each team has of its own. The app that keeps the values declares them (``plugins.hookspecs.team_traits``)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from itertools import chain
from typing import Any

from django.db.models import Q, QuerySet
from django.db.models.expressions import BaseExpression

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Search, Value
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.facts.explanations.entries import Entry
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.plugins import hooks
from jaded_ledger.records.models import Parcel, ParcelFacts


@dataclass(frozen=True)
class NamedThing:
    """Something a team names: its id, its name, and whether it is still there; what was deleted keeps its name."""

    pk: int
    name: str
    is_current: bool = True


@dataclass(frozen=True)
class TeamTrait:
    """A trait of a team's own, with all that Find needs of it."""

    trait: Trait
    condition: Callable[[tuple[Value, ...], Scope], Q] | None
    """The condition that one of some values holds: true, false or unknown for a parcel. None: the value is compared as a column's is."""
    value: Callable[[Scope], BaseExpression]
    """Its value for a parcel, for columns, sorting and files."""
    explain: Callable[[Parcel, Findings, Scope], Iterator[Entry]]
    """How a parcel's value came about, line by line."""
    among: Callable[[tuple[Value, ...], Scope], QuerySet[Any]] | None = None
    """The ids of the parcels of which one of some values holds, for figures that few parcels have: rows are then looked up from them."""
    event: Callable[[Scope], BaseExpression] | None = None
    """Whether there was such an event at all, for a trait that names one."""
    things: Callable[[Team], Sequence[NamedThing]] | None = None
    """For a set of things that the team names: all of them, so that a search can be kept by their ids (``find.named_things``)."""
    of_search: Callable[[Search, Scope], BaseExpression | None] | None = None
    """Its value where that rests on what a search asks; it gives None for a search that asks nothing of it."""
    explain_in: Callable[[Parcel, Search, Scope], Iterator[Entry]] | None = None
    """How such a value came about."""
    unknown: Q | None = None
    """The condition that its value is not known, where that is quicker told than from the value."""
    counts: Callable[[QuerySet[ParcelFacts], Scope], Counter[str]] | None = None
    """For a set: how many of some parcels have each member, where that is quicker told than from their values."""
    not_computed: Callable[[Scope], Q] | None = None
    """Of which parcels it has not been computed, for one that is computed only where somebody asks."""
    settings: Callable[[Scope], Hashable] = field(default=lambda scope: None)
    """What the value depends on beside the team and the day."""

    @property
    def columns(self) -> Mapping[str, Callable[[Scope], BaseExpression]]:
        """What is computed for a parcel, by the name under which queries know it."""
        return {self.trait.fact: self.value} | ({self.trait.event: self.event} if self.event else {})


@cache
def team_traits() -> Mapping[str, TeamTrait]:
    """Return the declared traits by key."""
    return {declared.trait.key: declared for declared in chain.from_iterable(hooks.team_traits())}
