"""What the team did with a property, in all apps."""

from __future__ import annotations

from itertools import chain

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins import hooks
from jaded_ledger.plugins.entries import Happening
from jaded_ledger.records.models import Parcel


def happenings_of(parcel: Parcel, scope: Scope) -> list[Happening]:
    """Return what was done with a property, the newest first."""
    return sorted(chain.from_iterable(hooks.happened(parcel=parcel, scope=scope)), key=lambda happening: happening.at, reverse=True)
