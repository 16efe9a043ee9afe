"""What files that users ask for add to the program."""

from __future__ import annotations

from jaded_ledger.made_files.services import MAKE, under_way
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import InnerPlace
from jaded_ledger.records.jobs import Waiting


@hookimpl
def pages() -> dict[str, str]:
    return {"files": "made_files:files"}


@hookimpl
def inner_places() -> list[InnerPlace]:
    return [InnerPlace("outreach", "files", "Files", "made_files:files", 70)]


@hookimpl
def waiting_rows() -> list[Waiting]:
    return [Waiting(MAKE, "file_id", under_way)]
