"""Who may take contact data out, and the note that is kept of it and of who looked at it."""

from __future__ import annotations

from typing import Any

from jaded_ledger.accounts.models import ContactExport, ContactView
from jaded_ledger.accounts.roles import require_changer
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel


def require_contacts(scope: Scope) -> None:
    """Raise PermissionDenied for a reader."""
    require_changer(scope, "it sees contact data but takes none out")


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


def log_view(scope: Scope, parcel: Parcel, count: int) -> ContactView:
    """Record that a user had contact data shown on a page."""
    return ContactView.objects.create(team=scope.team, user=scope.user, seen_at=now(), parcel=parcel, count=count)
