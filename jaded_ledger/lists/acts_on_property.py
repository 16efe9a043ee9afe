"""What of lists is done to one property on its page: put on a list, tagged, given a stage."""

from __future__ import annotations

from django.db import transaction
from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.words import folded
from jaded_ledger.lists.acts import LISTS
from jaded_ledger.lists.counts import lists_of
from jaded_ledger.lists.current_rows import stage_entries
from jaded_ledger.lists.messages import ListError
from jaded_ledger.lists.models import Activity, Tag
from jaded_ledger.lists.services import add, make_list, set_stage, tag
from jaded_ledger.lists.stages import stages_of
from jaded_ledger.plugins.entries import ActField, Done, PropertyAct
from jaded_ledger.records.models import Parcel


def _done(said: str, otherwise: str, activity: Activity | None) -> Done:
    return Done(said, reverse("lists:undo", args=[activity.pk])) if activity else Done(otherwise)


def _list_field(parcel: Parcel, scope: Scope) -> ActField:
    names = tuple(one.name for one in lists_of(scope.team))
    last = Activity.objects.filter(team=scope.team, user=scope.user, verb=Activity.Verb.ADD).order_by("-pk").values_list("about", flat=True)
    used = next((name for name in last[:1] if name in names), "")
    return ActField(names, used, hint="list, or a new name")


@transaction.atomic
def _add(parcel: Parcel, scope: Scope, typed: str) -> Done:
    if not typed.strip():
        raise ListError("type the name of a list, or a new one")
    found = lists_of(scope.team).filter(folded=folded(typed)).first()
    to = found or make_list(scope, typed)
    activity = add(scope, to, [parcel.pk])
    said = f"Added to “{to.name}”." if found else f"Added to the new list “{to.name}”."
    return _done(said, f"Already on “{to.name}”.", activity)


def _tag_field(parcel: Parcel, scope: Scope) -> ActField:
    return ActField(tuple(Tag.objects.filter(team=scope.team).order_by("folded").values_list("name", flat=True)[:200]))


def _tag(parcel: Parcel, scope: Scope, typed: str) -> Done:
    return _done(f"Tagged “{' '.join(typed.split())}”.", "It already has that tag.", tag(scope, typed, [parcel.pk]))


def _stage_field(parcel: Parcel, scope: Scope) -> ActField:
    set_now = stage_entries(scope).filter(parcel=parcel).values_list("stage__name", flat=True).first() or ""
    return ActField(("", *(one.name for one in stages_of(scope.team))), set_now, is_choice=True)


def _set_stage(parcel: Parcel, scope: Scope, typed: str) -> Done:
    said = f"Stage set to “{typed}”." if typed.strip() else "Stage removed."
    return _done(said, "The stage is unchanged.", set_stage(scope, typed, [parcel.pk]))


ACTS_ON_PROPERTY = (
    PropertyAct("keep", "list", "k", 10, _add, LISTS, (ListError,), _list_field),
    PropertyAct("tag", "tag", "t", 20, _tag, LISTS, (ListError,), _tag_field),
    PropertyAct("stage", "stage", "s", 30, _set_stage, LISTS, (ListError,), _stage_field),
)
