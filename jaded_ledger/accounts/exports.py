"""Who may take contact data out, and the note that is kept of it."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import PermissionDenied

from jaded_ledger.accounts.models import ContactExport
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.records.clock import now


def require_contacts(scope: Scope) -> None:
    """Raise PermissionDenied for a reader."""
    if scope.user is not None and not scope.user.may_take_out_contacts:
        raise PermissionDenied("Your role is reader: it sees contact data but takes none out. Ask your team's owner.")


def log_export(
    scope: Scope, form: ContactExport.Form, *, search: str, count: int, parcel_ids: list[int], details: dict[str, Any]
) -> ContactExport:
    """Record one export."""
    return ContactExport.objects.create(
        team=scope.team,
        user=scope.user,
        made_at=now(),
        form=form,
        search=search,
        count=count,
        parcel_ids=parcel_ids,
        details=details,
    )
