"""Deleting a row of a team's, and undoing it: one way and one address for every model that can be undeleted."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import chain
from typing import Any

from django.contrib import messages
from django.db import IntegrityError, models, transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import Act, require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.plugins import hooks
from jaded_ledger.records.clock import now


class Deletable(models.Model):
    """A row of a team's that is deleted by noting when, so that it can be undeleted; its app adds a ``Deletion`` for it."""

    deleted_at = models.DateTimeField(null=True)

    class Meta:
        abstract = True


class DeletionError(Exception):
    """A row can't be deleted or undeleted now; the message says why."""


def _allows(scope: Scope, row: Any) -> str:
    return ""


def _changes_nothing(scope: Scope, row: Any) -> None:
    return


@dataclass(frozen=True)
class Deletion:
    """How the rows of a model are deleted.

    ``act`` is None where ``refused`` alone tells who may. ``page`` returns the address that is shown once a row is undeleted or stays
    deleted, ``name`` what a row is called, ``rows`` those that somebody sees, deleted ones among them: all of the team's where it is None.
    ``refused`` and ``return_refused`` return a sentence where a row can't be deleted or undeleted, and blank where it can; they raise
    PermissionDenied. ``changed`` is called within the transaction of either.
    """

    model: type[Any]
    act: Act | None
    page: Callable[[Any], str]
    name: Callable[[Any], str] = str
    rows: Callable[[Scope], models.QuerySet[Any]] | None = None
    refused: Callable[[Scope, Any], str] = _allows
    return_refused: Callable[[Scope, Any], str] = _allows
    changed: Callable[[Scope, Any], None] = _changes_nothing

    @property
    def key(self) -> str:
        """The model's name within an address."""
        return str(self.model._meta.label_lower)

    def seen(self, scope: Scope) -> models.QuerySet[Any]:
        """Return the rows that somebody may know of."""
        return self.rows(scope) if self.rows else self.model._default_manager.filter(team=scope.team)


def deletions() -> dict[str, Deletion]:
    given: Iterable[Iterable[Deletion]] = hooks.deletions()
    return {one.key: one for one in chain.from_iterable(given)}


@transaction.atomic
def delete(scope: Scope, row: Deletable) -> None:
    """Delete a row of the team's; one that is deleted stays so. Raises DeletionError and PermissionDenied."""
    _note(scope, row, is_deleted=True)


@transaction.atomic
def undelete(scope: Scope, row: Deletable) -> None:
    """Undelete a row of the team's. Raises DeletionError, as where another has taken its name, and PermissionDenied."""
    _note(scope, row, is_deleted=False)


def _note(scope: Scope, row: Deletable, *, is_deleted: bool) -> None:
    deletion = deletions()[row._meta.label_lower]
    if deletion.act:
        require(scope, deletion.act)
    # Of two who delete and undelete at once the second sees what the first did.
    Team.objects.select_for_update().get(pk=scope.team.pk)
    found = deletion.seen(scope).select_for_update(of=("self",)).get(pk=row.pk)
    if (found.deleted_at is not None) == is_deleted:
        return
    if refused := (deletion.refused if is_deleted else deletion.return_refused)(scope, found):
        raise DeletionError(refused)
    found.deleted_at = now() if is_deleted else None
    try:
        with transaction.atomic():
            found.save(update_fields=["deleted_at"])
    except IntegrityError:
        raise DeletionError(f"Another has the name “{deletion.name(found)}” now. Rename that one first.") from None
    row.deleted_at = found.deleted_at
    deletion.changed(scope, found)


def undo_address(row: Deletable) -> str:
    """Return the address that undeletes a row when something is sent to it."""
    return reverse("accounts:undelete", args=[row._meta.label_lower, row.pk])


def delete_and_say(request: HttpRequest, scope: Scope, row: Deletable) -> bool:
    """Delete a row and say so on the page that follows, with Undo; where it can't be deleted say why, and return False."""
    try:
        delete(scope, row)
    except DeletionError as error:
        messages.error(request, str(error))
        return False
    messages.success(request, f"“{deletions()[row._meta.label_lower].name(row)}” deleted.", extra_tags=undo_address(row))
    return True


@require_POST
def undelete_view(request: HttpRequest, key: str, pk: int) -> HttpResponse:
    """Undelete a row of the team's, and show where it is."""
    scope = scope_of(request)
    deletion = deletions().get(key)
    if deletion is None:
        raise Http404(key)
    row = get_object_or_404(deletion.seen(scope), pk=pk)
    try:
        undelete(scope, row)
        messages.success(request, f"“{deletion.name(row)}” restored.")
    except DeletionError as error:
        messages.error(request, str(error))
    return redirect(deletion.page(row))
