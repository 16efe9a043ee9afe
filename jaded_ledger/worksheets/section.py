"""A property's worksheets and files on its page."""

from __future__ import annotations

from typing import Any

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.records.models import Parcel
from jaded_ledger.worksheets.acts import FILES
from jaded_ledger.worksheets.files import files_of
from jaded_ledger.worksheets.models.files import FileKind
from jaded_ledger.worksheets.services import worksheets_of

_SHOWN = 6


def section_context(parcel: Parcel, scope: Scope) -> dict[str, Any]:
    """Return a property's worksheets and files."""
    worksheets, files = list(worksheets_of(scope).filter(parcel=parcel)[:_SHOWN]), list(files_of(scope).filter(parcel=parcel))
    return {
        "parcel": parcel, "worksheets": worksheets, "files": files, "count": len(worksheets) + len(files),
        "may_change": may(scope, FILES), "file_kinds": FileKind.choices,
    }  # fmt: skip
