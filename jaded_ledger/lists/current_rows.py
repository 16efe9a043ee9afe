"""What a team keeps of parcels, as it stands."""

from __future__ import annotations

from django.db.models import F, QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.lists.models import Membership, StageEntry, Tagging


def memberships(scope: Scope) -> QuerySet[Membership]:
    """Return what is on a team's lists."""
    return Membership.objects.filter(list__team=scope.team, list__deleted=None, removed=None)


def taggings(scope: Scope) -> QuerySet[Tagging]:
    """Return the tags that a team's parcels have."""
    return Tagging.objects.filter(tag__team=scope.team, removed=None)


def stage_entries(scope: Scope) -> QuerySet[StageEntry]:
    """Return the stages at which a team's parcels are."""
    return StageEntry.objects.filter(team=scope.team, superseded=None, stage__isnull=False)


def stage_history(scope: Scope) -> QuerySet[StageEntry]:
    """Return the stages at which a team's parcels are and were; what was undone never was."""
    return StageEntry.objects.filter(team=scope.team).exclude(superseded__isnull=False, superseded=F("added"))
