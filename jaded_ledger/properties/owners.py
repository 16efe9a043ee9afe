"""Who the owner is: under which spellings it is on record, who else may be the same, and what was decided by hand."""

from __future__ import annotations

from dataclasses import dataclass

from django.core.exceptions import PermissionDenied
from django.db.models import Q, QuerySet

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.properties.acts import OWNERS
from jaded_ledger.records.models import Owner, OwnerDecision, OwnerSpelling, ParcelFacts
from jaded_ledger.records.owners import OwnersError, perhaps_the_same


@dataclass(frozen=True)
class Decided:
    """A decision as somebody sees it: whether they may undo it, and whether it is their team's own, so that it says by whom."""

    decision: OwnerDecision
    may_undo: bool
    is_own: bool


@dataclass(frozen=True)
class Identity:
    """An owner as it is on record."""

    owner: Owner
    spellings: tuple[OwnerSpelling, ...]
    perhaps: tuple[Owner, ...]
    decisions: tuple[Decided, ...]
    may_decide: bool

    @property
    def name(self) -> str:
        return in_reading_case(self.owner.name.text)


def decisions_on(owner: Owner) -> QuerySet[OwnerDecision]:
    """Return what was decided by hand about an owner, the newest first."""
    return OwnerDecision.objects.filter(Q(owner=owner) | Q(other=owner)).select_related("other__name", "owner__name", "made_by")


def may_undo(decision: OwnerDecision, scope: Scope) -> bool:
    """Return whether somebody may take a decision back: its team may, and staff, who keep the records of all teams."""
    if decision.undone_at is not None or not may(scope, OWNERS):
        return False
    return scope.user is None or scope.user.is_staff or decision.team_id == scope.team.pk


def require_undoer(decision: OwnerDecision, scope: Scope) -> None:
    """Raise PermissionDenied for somebody of another team, and OwnersError for what was undone."""
    if decision.undone_at is not None:
        raise OwnersError("That was undone already.")
    if not may_undo(decision, scope):
        raise PermissionDenied("Another team decided that. It can take it back, or whoever runs this installation can.")


def identity_of(facts: ParcelFacts, scope: Scope) -> Identity | None:
    """Return who a parcel's owner is; None where the roll names nobody."""
    if facts.owner_id is None:
        return None
    owner = Owner.objects.select_related("name", "address").get(pk=facts.owner_id)
    return Identity(
        owner,
        tuple(owner.spellings.order_by("id")),
        tuple(perhaps_the_same(owner)),
        tuple(
            Decided(decision, may_undo(decision, scope), is_own=decision.team_id == scope.team.pk) for decision in decisions_on(owner)[:20]
        ),
        may(scope, OWNERS),
    )
