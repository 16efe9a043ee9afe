"""What can be done to lists, tags and stages, many rows at once: each act is noted, and can be undone for thirty days.

An act locks what it changes (the list, the tag, the team's stages), so that two who act at once wait for each other and lose nothing.
Doing the same twice changes nothing the second time.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from datetime import timedelta
from functools import partial
from typing import Any

from django.db import transaction
from django.db.models import Q

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.words import folded
from jaded_ledger.lists.acts import LISTS
from jaded_ledger.lists.messages import ListError, named
from jaded_ledger.lists.models import Activity, Membership, ParcelList, Stage, StageEntry, Tag, Tagging
from jaded_ledger.lists.stages import stages_of
from jaded_ledger.records.bulk import allot_ids, among_ids, analyse, copy_rows
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import ParcelFacts

UNDONE_WITHIN = timedelta(days=30)


def _put(model: type[Membership | Tagging | StageEntry], rows: Sequence[dict[str, Any]]) -> None:
    copy_rows(model, rows)
    analyse(model, len(rows))


def _note(scope: Scope, verb: Activity.Verb, about: str, rows: int, search: str = "") -> Activity:
    activity = Activity.objects.create(team=scope.team, user=scope.user, at=now(), verb=verb, about=about, rows=rows, search=search)
    scope.team.put_up_version()
    return activity


@transaction.atomic
def make_list(scope: Scope, name: str, **values: object) -> ParcelList:
    """Make a list. Raises ListError for a name that is taken, and PermissionDenied."""
    require(scope, LISTS)
    kept, key = named(name, 80, "list")
    Team.objects.select_for_update().get(pk=scope.team.pk)
    if ParcelList.objects.filter(team=scope.team, folded=key, deleted=None).exists():
        raise ListError(f"there is a list “{kept}” already; add to it, or choose another name")
    made = _note(scope, Activity.Verb.MAKE, kept, 0)
    return ParcelList.objects.create(team=scope.team, name=kept, folded=key, made=made, **values)


@transaction.atomic
def describe(scope: Scope, which: ParcelList, name: str, **values: object) -> None:
    """Change what a list is called and what is said of it. Raises ListError for a name that is taken."""
    require(scope, LISTS)
    kept, key = named(name, 80, "list")
    Team.objects.select_for_update().get(pk=scope.team.pk)
    found = _locked(scope, which)
    if ParcelList.objects.filter(team=scope.team, folded=key, deleted=None).exclude(pk=found.pk).exists():
        raise ListError(f"there is another list “{kept}”; choose another name")
    ParcelList.objects.filter(pk=found.pk).update(name=kept, folded=key, **values)
    scope.team.put_up_version()


def _locked(scope: Scope, found: ParcelList) -> ParcelList:
    """Return a list of the team's, locked until the transaction ends. Raises ListError when it is gone."""
    try:
        return ParcelList.objects.select_for_update().get(pk=found.pk, team=scope.team, deleted=None)
    except ParcelList.DoesNotExist:
        raise ListError(f"the list “{found.name}” was deleted in the meantime; Activity can bring it back") from None


@transaction.atomic
def add(scope: Scope, to: ParcelList, parcel_ids: Iterable[int], search: str = "") -> Activity | None:
    """Add parcels to a list, each with how it stands now; those on it stay as they are. Return the act, or None if none is new."""
    require(scope, LISTS)
    found = _locked(scope, to)
    there = set(Membership.objects.filter(list=found, removed=None).values_list("parcel_id", flat=True))
    wanted = [pk for pk in dict.fromkeys(parcel_ids) if pk not in there]
    facts = ParcelFacts.objects.filter(parcel_id__in=among_ids(wanted)).values_list(
        "parcel_id", "owner_id", "owner_name_id", "owned_since", "estimated_value", "status", "tax_due"
    )
    rows = list(facts)
    if not rows:
        return None
    activity = _note(scope, Activity.Verb.ADD, found.name, len(rows), search)
    names = ("parcel_id", "owner_id", "owner_name_id", "owned_since", "value", "status", "tax_due")
    ids = allot_ids(Membership, len(rows))
    _put(
        Membership,
        [
            dict(zip(names, row, strict=True))
            | {"id": pk, "list_id": found.pk, "added_id": activity.pk, "removed_id": None, "added_on": scope.today}
            for pk, row in zip(ids, rows, strict=True)
        ],
    )
    return activity


@transaction.atomic
def remove(scope: Scope, off: ParcelList, parcel_ids: Iterable[int], verb: Activity.Verb = Activity.Verb.REMOVE) -> Activity | None:
    """Take parcels off a list. Return the act, or None if none of them was on it."""
    require(scope, LISTS)
    found = _locked(scope, off)
    there = Membership.objects.filter(list=found, removed=None, parcel_id__in=among_ids(parcel_ids))
    ids = list(there.values_list("pk", flat=True))
    if not ids:
        return None
    activity = _note(scope, verb, found.name, len(ids))
    Membership.objects.filter(pk__in=among_ids(ids)).update(removed=activity)
    return activity


@transaction.atomic
def delete_list(scope: Scope, which: ParcelList) -> Activity:
    """Delete a list; undoing brings it back with all that is on it. Raises ListError."""
    require(scope, LISTS)
    found = _locked(scope, which)
    rows = Membership.objects.filter(list=found, removed=None).count()
    activity = _note(scope, Activity.Verb.DELETE, found.name, rows)
    ParcelList.objects.filter(pk=found.pk).update(deleted=activity)
    return activity


@transaction.atomic
def tag(scope: Scope, name: str, parcel_ids: Iterable[int]) -> Activity | None:
    """Put a tag on parcels; those that have it keep its day. Return the act, or None if nothing was new. Raises ListError."""
    require(scope, LISTS)
    kept, key = named(name, 40, "tag")
    Team.objects.select_for_update().get(pk=scope.team.pk)
    found, _ = Tag.objects.get_or_create(team=scope.team, folded=key, defaults={"name": kept})
    there = set(Tagging.objects.filter(tag=found, removed=None).values_list("parcel_id", flat=True))
    wanted = _on_record(pk for pk in dict.fromkeys(parcel_ids) if pk not in there)
    if not wanted:
        return None
    activity = _note(scope, Activity.Verb.TAG, found.name, len(wanted))
    ids = allot_ids(Tagging, len(wanted))
    _put(
        Tagging,
        [
            {"id": pk, "tag_id": found.pk, "parcel_id": parcel, "tagged_on": scope.today, "added_id": activity.pk, "removed_id": None}
            for pk, parcel in zip(ids, wanted, strict=True)
        ],
    )
    return activity


def _on_record(parcel_ids: Iterable[int]) -> list[int]:
    return list(ParcelFacts.objects.filter(parcel_id__in=among_ids(parcel_ids)).order_by("parcel_id").values_list("parcel_id", flat=True))


@transaction.atomic
def untag(scope: Scope, name: str, parcel_ids: Iterable[int]) -> Activity | None:
    """Take a tag off parcels. Return the act, or None if none of them had it."""
    require(scope, LISTS)
    Team.objects.select_for_update().get(pk=scope.team.pk)
    there = Tagging.objects.filter(tag__team=scope.team, tag__folded=folded(name), removed=None, parcel_id__in=among_ids(parcel_ids))
    ids = list(there.values_list("pk", flat=True))
    if not ids:
        return None
    activity = _note(scope, Activity.Verb.UNTAG, " ".join(name.split()), len(ids))
    Tagging.objects.filter(pk__in=among_ids(ids)).update(removed=activity)
    return activity


@transaction.atomic
def set_stage(scope: Scope, name: str, parcel_ids: Iterable[int]) -> Activity | None:
    """Set the stage of parcels, or with a blank name take it off; those that have it keep its day. Raises ListError."""
    require(scope, LISTS)
    Team.objects.select_for_update().get(pk=scope.team.pk)
    stages = {stage.folded: stage for stage in stages_of(scope.team)}
    stage = stages.get(folded(name))
    if name.strip() and stage is None:
        raise ListError(f"“{name}” is none of your team's stages ({', '.join(one.name for one in stages.values())})")
    wanted = _on_record(dict.fromkeys(parcel_ids))
    current = dict(
        StageEntry.objects.filter(team=scope.team, superseded=None, parcel_id__in=among_ids(wanted)).values_list("parcel_id", "stage_id")
    )
    changed = [pk for pk in wanted if current.get(pk) != (stage and stage.pk)]
    if not changed:
        return None
    activity = _note(scope, Activity.Verb.STAGE, stage.name if stage else "no stage", len(changed))
    StageEntry.objects.filter(team=scope.team, superseded=None, parcel_id__in=among_ids(changed)).update(superseded=activity)
    ids = allot_ids(StageEntry, len(changed))
    _put(
        StageEntry,
        [
            {
                "id": pk, "stage_id": stage and stage.pk, "team_id": scope.team.pk, "parcel_id": parcel, "since": scope.today,
                "added_id": activity.pk, "superseded_id": None,
            }
            for pk, parcel in zip(ids, changed, strict=True)
        ],
    )  # fmt: skip
    return activity


@transaction.atomic
def undo(scope: Scope, activity: Activity) -> int:
    """Undo an act; return how many rows are as they were before it.

    Rows that somebody has changed since keep what was done later. Raises ListError when it is too late, or was undone before.
    """
    require(scope, LISTS)
    Team.objects.select_for_update().get(pk=scope.team.pk)
    act = Activity.objects.select_for_update().get(pk=activity.pk, team=scope.team)
    if act.undone_at is not None:
        raise ListError("that was undone before")
    if act.at < now() - UNDONE_WITHIN:
        raise ListError("that is more than thirty days ago; nothing of it can be undone any more")
    restored = _UNDOING[act.verb](act)
    Activity.objects.filter(pk=act.pk).update(undone_at=now(), undone_by=scope.user)
    scope.team.put_up_version()
    return restored


def _taken_back(rows: type[Membership | Tagging], act: Activity) -> int:
    """Take back the rows that an act added, those that went since apart."""
    gone: int = rows._default_manager.filter(added=act, removed=None).update(removed=act)
    return gone


def _brought_back(rows: type[Membership | Tagging], of: str, act: Activity) -> int:
    """Bring back the rows that an act took away, but for those that were added again since. ``of`` is the column of the list or tag."""
    went = rows._default_manager.filter(removed=act).exclude(added=act)
    there = set(rows._default_manager.filter(removed=None, **{f"{of}__in": went.values(of)}).values_list(of, "parcel_id"))
    ids = [pk for pk, one, parcel in went.values_list("pk", of, "parcel_id") if (one, parcel) not in there]
    back: int = rows._default_manager.filter(pk__in=among_ids(ids)).update(removed=None)
    return back


def _list_again(act: Activity) -> int:
    gone = ParcelList.objects.filter(deleted=act).first()
    if gone is None:
        return 0
    if ParcelList.objects.filter(team=gone.team, folded=gone.folded, deleted=None).exists():
        raise ListError(f"there is another list “{gone.name}” by now; rename that one first")
    ParcelList.objects.filter(pk=gone.pk).update(deleted=None)
    return gone.memberships.filter(removed=None).count()


def _no_list(act: Activity) -> int:
    made = ParcelList.objects.filter(made=act, deleted=None).first()
    if made is None:
        return 0
    rows = made.memberships.filter(removed=None).count()
    ParcelList.objects.filter(pk=made.pk).update(deleted=act)
    return rows


def _stage_before(act: Activity) -> int:
    mine = StageEntry.objects.filter(added=act, superseded=None)
    parcels = list(mine.values_list("parcel_id", flat=True))
    mine.update(superseded=act)
    # What was at a stage that was given up since is at it again, and so it is taken up.
    Stage.objects.filter(entries__superseded=act, is_out=True).update(is_out=False)
    StageEntry.objects.filter(~Q(added=act), superseded=act, team=act.team, parcel_id__in=among_ids(parcels)).update(superseded=None)
    return len(parcels)


_UNDOING: dict[str, Callable[[Activity], int]] = {
    Activity.Verb.MAKE: _no_list,
    Activity.Verb.ADD: partial(_taken_back, Membership),
    Activity.Verb.REMOVE: partial(_brought_back, Membership, "list"),
    Activity.Verb.DROP_STALE: partial(_brought_back, Membership, "list"),
    Activity.Verb.DELETE: _list_again,
    Activity.Verb.TAG: partial(_taken_back, Tagging),
    Activity.Verb.UNTAG: partial(_brought_back, Tagging, "tag"),
    Activity.Verb.STAGE: _stage_before,
}
