"""Rows of lists that have gone stale: the property has passed to somebody else since it was added."""

from __future__ import annotations

from functools import reduce
from operator import or_

from django.db.models import ExpressionWrapper, F, Func, JSONField, OuterRef, Q, QuerySet, Subquery, Value
from django.db.models.fields import BooleanField
from django.db.models.functions import Coalesce

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Criterion, Members, Presence, Search
from jaded_ledger.core.stacking.combining import ANY_ROW
from jaded_ledger.core.words import folded
from jaded_ledger.lists.current_rows import memberships
from jaded_ledger.lists.models import Membership, ParcelList
from jaded_ledger.records.models import RecordedName


class _Words(Func):
    """The words of a JSON array as an array of text."""

    template = "ARRAY(SELECT jsonb_array_elements_text(%(expressions)s))"


class _ShareAny(Func):
    """Whether a JSON array of words has one of an array of text."""

    function = "jsonb_exists_any"
    output_field = BooleanField()


def _surnames(name: str) -> Subquery:
    """Return the surnames of a name. They are looked up only of rows where it comes to them, which is of few."""
    return Subquery(RecordedName.objects.filter(pk=OuterRef(name)).values("surnames")[:1])


def _told_apart(rows: QuerySet[Membership]) -> QuerySet[Membership]:
    """Return some memberships with whether each is stale. The rule is ``core.title.passing.has_passed``.

    What is cheaply told stands first: PostgreSQL goes no further once it is settled.
    """
    since, name = "parcel__facts__owned_since", "parcel__facts__owner_name"
    empty = Value([], output_field=JSONField())
    then, now = _surnames("owner_name"), _surnames(name)
    rows = rows.alias(
        then_names=Coalesce(then, empty), now_names=Coalesce(now, empty), shares=Coalesce(_ShareAny(then, _Words(now)), False)
    )
    is_named = ~Q(then_names=empty) & ~Q(now_names=empty)
    # What is null is told apart by itself: of a comparison with null it would not know, and look up the names after all.
    has_names = Q(owner_name__isnull=False) & Q(**{f"{name}__isnull": False})
    is_other = has_names & (Q(owner_name__lt=F(name)) | Q(owner_name__gt=F(name))) & is_named & Q(shares=False)
    began_anew = Q(**{f"{since}__gt": F("owned_since")})
    is_known_now = Q(owned_since=None) & Q(**{f"{since}__isnull": False})
    first_known = is_known_now & Q(**{f"{since}__gt": F("added_on")}) & ~(is_named & Q(shares=True))
    return rows.alias(is_stale=_known(began_anew | first_known | is_other))


def _known(condition: Q) -> Coalesce:
    """Return a condition of which what can't be told counts as false."""
    return Coalesce(ExpressionWrapper(condition, output_field=BooleanField()), False)


def stale_memberships(rows: QuerySet[Membership]) -> QuerySet[Membership]:
    """Return those of some memberships that are stale."""
    return _told_apart(rows).filter(is_stale=True)  # type: ignore[misc]


def fresh_memberships(rows: QuerySet[Membership]) -> QuerySet[Membership]:
    """Return those of some memberships that are not stale."""
    return _told_apart(rows).filter(is_stale=False)  # type: ignore[misc]


_OF_TYPE = {
    "lists-held": ParcelList.Type.values,
    "list-added": ParcelList.Type.values,
    "reasons-held": [ParcelList.Type.REASON],
    "campaigns-held": [ParcelList.Type.CAMPAIGN],
    "working-sets-held": [ParcelList.Type.WORKING_SET],
}
"""The types of lists of which a question about none by name asks."""


def _lists_asked_for(criterion: Criterion) -> Q:
    """Return the condition on rows of lists that they are of a list that a criterion accepts; of none for one about something else."""
    if criterion.trait in _OF_TYPE and criterion.accepts:
        return Q(list__type__in=_OF_TYPE[criterion.trait])
    if criterion.trait != ANY_ROW:
        return Q(pk__in=[])
    if any(isinstance(value, Presence) for value in criterion.accepts):
        return Q(pk__gt=0)
    return Q(list__folded__in=[folded(name) for value in criterion.accepts if isinstance(value, Members) for name in value.items])


def stale_on(search: Search, scope: Scope) -> dict[int, str]:
    """Return the parcels that are stale on the lists that a search asks for, with the name of such a list."""
    criteria = [criterion for line in search.lines if line.is_applied for criterion in line.members()]
    asked = reduce(or_, map(_lists_asked_for, criteria), Q(pk__in=[]))
    return dict(stale_memberships(memberships(scope).filter(asked)).values_list("parcel_id", "list__name"))
