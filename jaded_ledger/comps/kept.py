"""Comps that are kept as they were, with their day."""

from __future__ import annotations

from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.acts import COMPS
from jaded_ledger.comps.comps_page import shown
from jaded_ledger.comps.models import KeptComps
from jaded_ledger.comps.trust_here import trust_here
from jaded_ledger.comps.trust_panel import panel_of
from jaded_ledger.comps.valuation import Valuation
from jaded_ledger.records.clock import now


def kept_of(scope: Scope) -> QuerySet[KeptComps]:
    """Return the comps that a team keeps, the latest first."""
    return KeptComps.objects.filter(team=scope.team, deleted_at=None).select_related("parcel", "parcel__county", "kept_by")


def keep(scope: Scope, found: Valuation) -> KeptComps:
    """Keep a valuation as it is shown. Raises PermissionDenied."""
    require(scope, COMPS)
    content = shown(found) | {"trust": panel_of(trust_here(found.subject, scope, found.asked))}
    return KeptComps.objects.create(
        team=scope.team, parcel=found.subject.parcel, kept_by=scope.user, kept_at=now(), lines=content["lines_text"], of_set=found.of_set,
        value=round(found.range.value) if found.range else None, content=content,
    )  # fmt: skip
