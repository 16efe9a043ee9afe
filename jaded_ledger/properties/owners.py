"""Who the owner is: under which spellings it is on record, who else may be the same, and what was decided by hand."""

from __future__ import annotations

from dataclasses import dataclass

from django.core.exceptions import PermissionDenied

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.records.models import Owner, OwnerDecision, OwnerSpelling, ParcelFacts
from jaded_ledger.records.owners import perhaps_the_same


@dataclass(frozen=True)
class Identity:
    """An owner as it is on record."""

    owner: Owner
    spellings: tuple[OwnerSpelling, ...]
    perhaps: tuple[Owner, ...]
    decisions: tuple[OwnerDecision, ...]
    may_decide: bool

    @property
    def name(self) -> str:
        return in_reading_case(self.owner.name.text)


def may_decide(scope: Scope) -> bool:
    """Return whether somebody may say who is who."""
    return scope.user is None or scope.user.role != User.Role.READER


def require_decider(scope: Scope) -> None:
    """Raise PermissionDenied for somebody who may not say who is who."""
    if not may_decide(scope):
        raise PermissionDenied("Your role is reader: it merges and splits no owners. Ask your team's owner.")


def identity_of(facts: ParcelFacts, scope: Scope) -> Identity | None:
    """Return who a parcel's owner is; None where the roll names nobody."""
    if facts.owner_id is None:
        return None
    owner = Owner.objects.select_related("name", "address").get(pk=facts.owner_id)
    decisions = OwnerDecision.objects.filter(owner=owner) | OwnerDecision.objects.filter(other=owner)
    return Identity(
        owner,
        tuple(owner.spellings.order_by("id")),
        tuple(perhaps_the_same(owner)),
        tuple(decisions.select_related("other__name", "owner__name", "made_by").distinct()[:20]),
        may_decide(scope),
    )
