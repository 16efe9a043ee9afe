"""The note that is kept of who had contact data shown."""

from __future__ import annotations

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.properties.models import ContactView
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel


def log_view(scope: Scope, parcel: Parcel, count: int) -> ContactView:
    """Record that a user had contact data shown on a page."""
    assert scope.user is not None
    return ContactView.objects.create(team=scope.team, user=scope.user, seen_at=now(), parcel=parcel, count=count)
