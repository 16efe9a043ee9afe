"""Permission, row limit and log of every export of contact data.

Code that writes owners' names, addresses, phone numbers or email addresses to a file needs an ``Export``, which ``allowed`` returns.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from jaded_ledger.accounts.roles import require, role_label, role_of
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import CONTACTS
from jaded_ledger.contacts.export_limits import limit_of
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.made_files.kinds import MakingError
from jaded_ledger.records.clock import now


class BeyondLimitError(MakingError):
    """More rows than a user's role exports at once; the message says what to do."""


@dataclass(frozen=True)
class Export:
    """An export that a user may make: its form, how many rows, from which search, of which parcels."""

    scope: Scope
    form: ContactExport.Form
    rows: int
    search: str
    parcel_ids: Sequence[int]
    details: Mapping[str, Any] = field(default_factory=dict)

    def note(self) -> ContactExport:
        """Log the export."""
        return ContactExport.objects.create(
            team=self.scope.team, user=self.scope.user, made_at=now(), form=self.form, search=self.search, count=self.rows,
            parcel_ids=list(self.parcel_ids), details=dict(self.details),
        )  # fmt: skip


def require_rows(scope: Scope, rows: int) -> None:
    """Raise PermissionDenied for a role that exports no contact data, and BeyondLimitError for more rows than the role exports at once."""
    require(scope, CONTACTS)
    most = limit_of(scope)
    if most is not None and rows > most:
        role = role_label(str(role_of(scope))).lower()
        raise BeyondLimitError(
            f"your role ({role}) exports at most {most:,} rows at once, and this export has {rows:,}; "
            "select fewer, or ask your team’s owner"
        )


def allowed(
    scope: Scope, form: ContactExport.Form, *, rows: int, search: str, parcel_ids: Sequence[int], details: Mapping[str, Any]
) -> Export:
    """Return an export that a user may make. Raises as ``require_rows`` does."""
    require_rows(scope, rows)
    return Export(scope, form, rows, search, parcel_ids, details)
