"""Owners merged and split by hand. Whatever is decided stays on record and can be undone."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.db import transaction
from django.db.models import Count, Q, QuerySet

from jaded_ledger.core.words import word_line
from jaded_ledger.records.bulk import among_ids, wait_for_turn
from jaded_ledger.records.clock import now, today
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import Contact, Owner, OwnerDecision, OwnerSpelling, RollEntry

Ids = list[int]


class OwnersError(ValueError):
    """What was asked of owners can't be done; the message says why."""


def spelling_of(entry: RollEntry) -> tuple[str, str]:
    """Return the words of the owner's name, and where, as a row of the roll records them."""
    assert entry.owner_name is not None  # only of rows that name an owner
    address = entry.mailing_address.address if entry.mailing_address else None
    return word_line(entry.owner_name.mailing_name).strip(), OwnerSpelling.at_of(address, entry.parcel_id)


def _entries(owner: Owner) -> QuerySet[RollEntry]:
    """Return all rows that name an owner, the earlier ones among them."""
    return RollEntry.objects.filter(owner=owner, owner_name__isnull=False).select_related("owner_name", "mailing_address")


def _move(spellings: Iterable[OwnerSpelling], before: Owner, after: Owner) -> set[int]:
    """Have some spellings be another owner's, with the rows that spell so; return the parcels of both owners."""
    affected = set(RollEntry.objects.filter(owner__in=[before, after], superseded_at=None).values_list("parcel_id", flat=True))
    moved = {(spelling.name_key, spelling.at) for spelling in spellings}
    ids = [entry.pk for entry in _entries(before) if spelling_of(entry) in moved]
    RollEntry.objects.filter(id__in=among_ids(ids)).update(owner=after)
    for spelling in spellings:
        spelling.owner, spelling.because = after, OwnerSpelling.Because.BY_HAND
        spelling.save(update_fields=["owner", "because"])
    return affected


def _move_contacts(before: Owner, after: Owner) -> None:
    """Have one owner's telephone numbers and addresses be another's; what the other has already stays its own."""
    has = set(after.contacts.filter(superseded_at=None).values_list("county_id", "kind", "value"))
    for contact in Contact.objects.filter(owner=before, superseded_at=None):
        if (contact.county_id, contact.kind, contact.value) in has:
            contact.superseded_at, contact.valid_until = max(now(), contact.recorded_at), max(today(), contact.valid_from)
        else:
            contact.owner, contact.natural_key = after, f"{after.pk}|{contact.kind}|{contact.value}"
        contact.save()


def merge(keep: Owner, other: Owner, team: object = None, by: object = None) -> OwnerDecision:
    """Have two owners be one; what was the other's is then the first one's. Raises OwnersError."""
    if keep == other:
        raise OwnersError("That is the same owner already.")
    with transaction.atomic():
        wait_for_turn()
        spellings = list(other.spellings.all())
        if not spellings:
            raise OwnersError("That owner was merged into another one already.")
        decision = _decided(OwnerDecision.Kind.MERGE, keep, other, spellings, team, by)
        affected = _move(spellings, other, keep)
        _move_contacts(other, keep)
        derive(affected)
    return decision


def split(owner: Owner, spelling_ids: Iterable[int], team: object = None, by: object = None) -> OwnerDecision:
    """Have some of an owner's spellings be an owner of their own. Telephone numbers stay where they are. Raises OwnersError."""
    with transaction.atomic():
        wait_for_turn()
        spellings = list(owner.spellings.filter(pk__in=spelling_ids))
        if not spellings:
            raise OwnersError("Choose the spellings that are somebody else’s.")
        if len(spellings) == owner.spellings.count():
            raise OwnersError("Leave the owner at least one spelling.")
        moved = {(spelling.name_key, spelling.at) for spelling in spellings}
        entry = next((entry for entry in _entries(owner) if spelling_of(entry) in moved), None)
        if entry is None:
            raise OwnersError("Nothing on record is spelled so any more.")
        assert entry.owner_name is not None  # it is spelled as one of the owner's
        other = Owner.objects.create(name=entry.owner_name, address=entry.mailing_address)
        decision = _decided(OwnerDecision.Kind.SPLIT, owner, other, spellings, team, by)
        derive(_move(spellings, owner, other))
    return decision


def _decided(kind: OwnerDecision.Kind, owner: Owner, other: Owner, spellings: list[OwnerSpelling], team: Any, by: Any) -> OwnerDecision:
    decision = OwnerDecision.objects.create(kind=kind, owner=owner, other=other, made_at=now(), team=team, made_by=by)
    decision.spellings.set(spellings)
    return decision


def undo(decision: OwnerDecision) -> None:
    """Take a decision back: the spellings are again whose they were. Raises OwnersError."""
    if decision.undone_at is not None:
        raise OwnersError("That was undone already.")
    before, after = decision.owner, decision.other
    if decision.kind == OwnerDecision.Kind.SPLIT:
        before, after = after, before
    with transaction.atomic():
        wait_for_turn()
        spellings = list(decision.spellings.filter(owner=before))
        if len(spellings) < decision.spellings.count():
            raise OwnersError("Some of these spellings were decided on again since; undo that first.")
        affected = _move(spellings, before, after)
        decision.undone_at = now()
        decision.save(update_fields=["undone_at"])
        derive(affected)


def perhaps_the_same(owner: Owner, most: int = 8) -> QuerySet[Owner]:
    """Return other owners who may be this one: of the same name elsewhere, or of another name at the same address."""
    mine = owner.spellings.all()
    # Whoever has no address is told by a parcel, and no two parcels are one place.
    same = Q(spellings__name_key__in=mine.values("name_key")) | Q(spellings__at__in=mine.exclude(at__startswith="parcel ").values("at"))
    found = Owner.objects.filter(same).exclude(pk=owner.pk).annotate(parcels=Count("facts", distinct=True)).filter(parcels__gt=0)
    return found.select_related("name", "address").order_by("-parcels", "pk")[:most]
