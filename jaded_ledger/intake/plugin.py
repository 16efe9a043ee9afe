"""What taking in records adds to the program."""

from __future__ import annotations

from jaded_ledger.accounts.roles import Act
from jaded_ledger.intake.acts import ACTS
from jaded_ledger.intake.waiting_uploads import TAKE_IN, under_way
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import NavigationPlace
from jaded_ledger.records.jobs import Waiting


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("records", "Records", "archive", "intake:records", 90)]


@hookimpl
def pages() -> dict[str, str]:
    return {"records": "intake:records"}


@hookimpl
def waiting_rows() -> list[Waiting]:
    return [Waiting(TAKE_IN, "upload_id", under_way)]
