"""What the records add to the program."""

from __future__ import annotations

from jaded_ledger.plugins import hookimpl
from jaded_ledger.records.jobs import Waiting
from jaded_ledger.records.reading_copy.files import missing
from jaded_ledger.records.reading_copy.writing import WRITE_COPY


@hookimpl
def waiting_rows() -> list[Waiting]:
    return [Waiting(WRITE_COPY, "county", missing)]
