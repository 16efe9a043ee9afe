"""The stages of a team's work on a property: which there are, in which order, and what they are called."""

from __future__ import annotations

from dataclasses import dataclass

from django.db import transaction
from django.db.models import Count

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.words import folded
from jaded_ledger.lists.acts import LISTS
from jaded_ledger.lists.current_rows import stage_entries
from jaded_ledger.lists.messages import ListError, named
from jaded_ledger.lists.models import Stage

STAGES = ("to look at", "comping", "offer out", "under contract", "closed", "passed")
"""The stages of a team that has named none of its own."""
MOST_STAGES = 30
_LONGEST = 40


@dataclass(frozen=True)
class StageCount:
    """A stage and how many parcels are at it."""

    stage: Stage
    count: int


def stages_of(team: Team) -> list[Stage]:
    """Return a team's stages in their order; the shipped ones are given to a team that has none."""
    every = list(Stage.objects.filter(team=team))
    if not every:
        Stage.objects.bulk_create(
            [Stage(team=team, name=name, folded=folded(name), order=place) for place, name in enumerate(STAGES)], ignore_conflicts=True
        )
        every = list(Stage.objects.filter(team=team))
    return [stage for stage in every if not stage.is_out]


def stage_counts(scope: Scope) -> list[StageCount]:
    """Return a team's stages with how many parcels are at each."""
    counts = dict(stage_entries(scope).order_by().values("stage").annotate(count=Count("pk")).values_list("stage", "count"))
    return [StageCount(stage, counts.get(stage.pk, 0)) for stage in stages_of(scope.team)]


def _locked(scope: Scope) -> list[Stage]:
    require(scope, LISTS)
    Team.objects.select_for_update().get(pk=scope.team.pk)
    return stages_of(scope.team)


def _in_order(scope: Scope, stages: list[Stage]) -> None:
    for place, stage in enumerate(stages):
        stage.order = place
    Stage.objects.bulk_update(stages, ["order"])
    scope.team.put_up_version()


def _one_of(stages: list[Stage], pk: int) -> Stage:
    found = next((stage for stage in stages if stage.pk == pk), None)
    if found is None:
        raise ListError("that stage was taken away in the meantime")
    return found


def _free(stages: list[Stage], name: str, *, but: int | None = None) -> tuple[str, str]:
    kept, key = named(name, _LONGEST, "stage")
    if any(stage.folded == key and stage.pk != but for stage in stages):
        raise ListError(f"there is a stage “{kept}” already; choose another name")
    return kept, key


@transaction.atomic
def add_stage(scope: Scope, name: str) -> Stage:
    """Add a stage after the others; one that was given up is taken up again. Raises ListError and PermissionDenied."""
    stages = _locked(scope)
    kept, key = _free(stages, name)
    if len(stages) >= MOST_STAGES:
        raise ListError(f"there are {MOST_STAGES} stages, and no more can be had; take one away first")
    stage, _ = Stage.objects.update_or_create(team=scope.team, folded=key, defaults={"name": kept, "order": len(stages), "is_out": False})
    _in_order(scope, [*stages, stage])
    return stage


@transaction.atomic
def rename_stage(scope: Scope, pk: int, name: str) -> None:
    """Call a stage something else, in its history too. Raises ListError and PermissionDenied."""
    stages = _locked(scope)
    stage = _one_of(stages, pk)
    kept, key = _free(stages, name, but=pk)
    if Stage.objects.filter(team=scope.team, folded=key, is_out=True).exists():
        raise ListError(f"“{kept}” is a stage that was taken away, and stands in the history of parcels; add it again instead")
    stage.name, stage.folded = kept, key
    stage.save(update_fields=["name", "folded"])
    scope.team.put_up_version()


@transaction.atomic
def move_stage(scope: Scope, pk: int, by: int) -> None:
    """Put a stage before the one in front of it (``by`` -1), or behind the one after it (1). Raises ListError and PermissionDenied."""
    stages = _locked(scope)
    place = stages.index(_one_of(stages, pk))
    stages.insert(max(0, place + by), stages.pop(place))
    _in_order(scope, stages)


@transaction.atomic
def give_up_stage(scope: Scope, pk: int) -> None:
    """Take a stage away at which no parcel is; the history of those that were keeps it. Raises ListError and PermissionDenied."""
    stages = _locked(scope)
    stage = _one_of(stages, pk)
    count = stage_entries(scope).filter(stage=stage).count()
    if count:
        raise ListError(f"{count:,} parcels are at “{stage.name}”; give them another stage first (open them in Find, then Keep)")
    if len(stages) == 1:
        raise ListError("it is the only stage; add another first")
    stage.is_out = True
    stage.save(update_fields=["is_out"])
    _in_order(scope, [one for one in stages if one.pk != pk])
