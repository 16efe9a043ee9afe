"""Papers of court cases as PDF, in folders named by their case."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

import pypdfium2

from jaded_ledger.intake.batches import CountyIntake, SourceLine
from jaded_ledger.intake.columns import Column, extra
from jaded_ledger.intake.drafts import Draft
from jaded_ledger.intake.filing import Filing
from jaded_ledger.intake.stored_once import stored_once
from jaded_ledger.records.models import CasePaper, StoredPaper


class Papers(Filing):
    """Papers, each told by its case, its day and its title."""

    needs_parcel = False

    def __init__(self) -> None:
        super().__init__("case-papers", "papers of court cases as PDF, in folders named by case", CasePaper)

    @property
    def described(self) -> tuple[Column, ...]:
        return (*self._columns, extra("paper", "a PDF", is_required=True))

    def read(self, county_intake: CountyIntake, line: SourceLine) -> Draft:
        content = line.cells["paper"]
        try:
            document = pypdfium2.PdfDocument(content)
            pages = len(document)
            document.close()
        except (pypdfium2.PdfiumError, ValueError):
            raise line.refuse("paper", "is not a PDF, or can't be opened") from None
        draft = super().read(county_intake, line)
        draft.values["paper_id"] = (hashlib.sha256(content).hexdigest(), pages, content)
        return draft

    def look_up(self, county_intake: CountyIntake, drafts: Sequence[Draft], parcels: dict[str, int]) -> None:
        super().look_up(county_intake, drafts, parcels)
        known = stored_once(StoredPaper, ("sha256", "pages", "content"), (draft.values["paper_id"] for draft in drafts))
        for draft in drafts:
            draft.values["paper_id"] = known[draft.values["paper_id"][0]]
