"""Rows of lists that have gone stale: the property has passed to somebody else since it was added."""

from __future__ import annotations

from functools import reduce
from operator import or_

from django.db.models import ExpressionWrapper, F, Func, JSONField, Q, QuerySet, Value
from django.db.models.fields import BooleanField
from django.db.models.functions import Coalesce

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Criterion, Members, Presence, Search
from jaded_ledger.core.stacking.combining import ANY_ROW
from jaded_ledger.core.words import folded
from jaded_ledger.lists.kept import memberships
from jaded_ledger.lists.models import Membership, ParcelList


class _Words(Func):
    """The words of a JSON array as an array of text."""

    template = "ARRAY(SELECT jsonb_array_elements_text(%(expressions)s))"


class _ShareAny(Func):
    """Whether a JSON array of words has one of an array of text."""

    function = "jsonb_exists_any"
    output_field = BooleanField()


def _told_apart(rows: QuerySet[Membership]) -> QuerySet[Membership]:
    """Return some memberships with whether each is stale. The rule is ``core.ownership.passing.has_passed``."""
    now = "parcel__facts"
    empty = Value([], output_field=JSONField())
    is_named = (
        Q(owner_name__isnull=False)
        & Q(**{f"{now}__owner_name__isnull": False})
        & ~Q(owner_name__surnames=empty)
        & ~Q(**{f"{now}__owner_name__surnames": empty})
    )
    rows = rows.alias(
        is_named=_known(is_named), shares=Coalesce(_ShareAny(F("owner_name__surnames"), _Words(F(f"{now}__owner_name__surnames"))), False)
    )
    is_kin = Q(is_named=True, shares=True)
    is_other_name = Q(is_named=True, shares=False) & (Q(owner_name__lt=F(f"{now}__owner_name")) | Q(owner_name__gt=F(f"{now}__owner_name")))
    began_anew = Q(**{f"{now}__owned_since__gt": F("owned_since")})
    first_known = Q(owned_since=None) & Q(**{f"{now}__owned_since__gt": F("added_on")}) & ~is_kin
    return rows.alias(is_stale=_known(began_anew | first_known | is_other_name))


def _known(condition: Q) -> Coalesce:
    """Return a condition of which what can't be told counts as false."""
    return Coalesce(ExpressionWrapper(condition, output_field=BooleanField()), False)


def stale_memberships(rows: QuerySet[Membership]) -> QuerySet[Membership]:
    """Return those of some memberships that are stale."""
    return _told_apart(rows).filter(is_stale=True)


def fresh_memberships(rows: QuerySet[Membership]) -> QuerySet[Membership]:
    """Return those of some memberships that are not stale."""
    return _told_apart(rows).filter(is_stale=False)


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
