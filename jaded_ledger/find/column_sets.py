"""Sets of columns under a name: a user's own and the team's."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction
from django.db.models import Q, QuerySet
from django.http import Http404

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.acts import TEAM_COLUMNS
from jaded_ledger.find.models import ColumnSet


class ColumnSetError(ValueError):
    """A set that can't be kept; the message says why."""


def column_sets(scope: Scope) -> QuerySet[ColumnSet]:
    """Return the sets that somebody can choose: their own and the team's, by name."""
    own = Q(user=scope.user) if scope.user else Q(pk__in=[])
    return ColumnSet.objects.filter(own | Q(user=None), team=scope.team)


def columns_of_set(key: str, scope: Scope) -> tuple[str, ...] | None:
    """Return the columns of a set, by its number; None for ``usual``. Raises Http404."""
    if key == "usual":
        return None
    return tuple(key for key in _set_of(key, scope).columns if key in CATALOGUE)


def _set_of(key: str, scope: Scope) -> ColumnSet:
    pk = whole_number(key)
    found = None if pk is None else column_sets(scope).filter(pk=pk).first()
    if found is None:
        raise Http404("there is no such set of columns")
    return found


@transaction.atomic
def keep_set(scope: Scope, name: str, columns: Sequence[str], *, of_team: bool, is_default: bool) -> ColumnSet:
    """Keep columns under a name, in place of what it held. Raises ColumnSetError, and PermissionDenied for a reader of the team's."""
    if of_team:
        require(scope, TEAM_COLUMNS)
    name = " ".join(name.split())
    if not name:
        raise ColumnSetError("Give the columns a name.")
    longest = ColumnSet._meta.get_field("name").max_length
    if len(name) > (longest or 0):
        raise ColumnSetError(f"The name has {len(name)} characters; {longest} fit.")
    if not columns:
        raise ColumnSetError("Show at least one column, then keep them.")
    user = None if of_team else scope.user
    if is_default:
        ColumnSet.objects.filter(team=scope.team, user=user).update(is_default=False)
    kept, _ = ColumnSet.objects.update_or_create(
        team=scope.team, user=user, name=name, defaults={"columns": list(columns), "is_default": is_default}
    )
    return kept


def remove_set(scope: Scope, key: str) -> ColumnSet:
    """Remove a set and return what it was. Raises Http404, and PermissionDenied where a reader's would be the team's."""
    found = _set_of(key, scope)
    if found.user is None:
        require(scope, TEAM_COLUMNS)
    found.delete()
    return found
