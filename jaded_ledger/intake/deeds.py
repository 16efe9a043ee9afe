"""Recorded deeds. A deed is as old as its recording where its own date can't be."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from jaded_ledger.core.title.sales import DeedType
from jaded_ledger.intake.batches import CountyIntake, SourceLine
from jaded_ledger.intake.drafts import Draft
from jaded_ledger.intake.filing import Filing
from jaded_ledger.records.models import Transfer


class Deeds(Filing):
    """Deeds. One without a date of its own, or with an impossible one, is dated as of its recording."""

    stand_ins: Mapping[str, Any] = {"deed": DeedType.OTHER}
    may_begin = True
    or_else: Mapping[str, str] = {**Filing.or_else, "recorded_on": "sold_on"}

    def __init__(self) -> None:
        super().__init__("deeds", "recorded deeds", Transfer)
        # An assessor's file of sales tells when they were, and not when they were recorded.
        blanks = {"sold_on": None, "recorded_on": None, "deed": DeedType.OTHER}
        self._columns = [
            replace(column, is_required=False, blank=blanks[column.field]) if column.field in blanks else column for column in self._columns
        ]

    @property
    def required(self) -> tuple[str, ...]:
        return (*super().required, "recorded_on")

    def read(self, county_intake: CountyIntake, line: SourceLine) -> Draft:
        draft = super().read(county_intake, line)
        # A recording that says a day which can't be is not the same as a file that tells of none.
        if wrong := next((doubt for doubt in draft.doubts if doubt.column == "recorded_on"), None):
            raise wrong
        if "recorded_on" in line.cells and draft.values["recorded_on"] is None:
            raise line.refuse("recorded_on", "is blank and must not be")
        sold_on, recorded_on = draft.values["sold_on"], draft.values["recorded_on"] or draft.values["sold_on"]
        if recorded_on is None:
            raise line.refuse("recorded_on", "is blank and must not be, where the deed has no date of its own")
        draft.values["recorded_on"] = recorded_on
        if sold_on is not None and sold_on > recorded_on:
            draft.doubts.append(line.refuse("sold_on", f"lies after its recording on {recorded_on}"))
            sold_on = None
        draft.values["sold_on"] = sold_on or recorded_on
        return draft
