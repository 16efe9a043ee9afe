"""What accounts add to the program."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from jaded_ledger.accounts.audit import AUDIT, Audited, entries_of
from jaded_ledger.accounts.grades import GRADES
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins import hookimpl


@hookimpl
def acts() -> tuple[Act, ...]:
    return (GRADES, AUDIT)


@hookimpl
def audited(scope: Scope, begins: datetime, ends: datetime) -> Iterable[Audited]:
    return entries_of(scope, begins, ends)


@hookimpl
def pages() -> dict[str, str]:
    return {"you": "accounts:you"}
