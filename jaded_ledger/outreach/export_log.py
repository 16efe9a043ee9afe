"""The note that is kept of every file of contact data."""

from __future__ import annotations

from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.outreach.models import ContactExport
from jaded_ledger.records.clock import now


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
