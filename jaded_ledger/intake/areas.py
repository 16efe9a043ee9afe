"""Records that speak of an area: its population and shape, and what is levied in it."""

from __future__ import annotations

from jaded_ledger.intake.batches import CountyIntake, SourceLine
from jaded_ledger.intake.cells import UnreadableValueError, plain_word, word_of
from jaded_ledger.intake.columns import extra
from jaded_ledger.intake.drafts import Draft
from jaded_ledger.intake.filing import Filing
from jaded_ledger.records.models import Area, AreaEntry, TaxRate

_KINDS = {plain_word(kind): kind.value for kind in Area.AreaKind}
AREA_KIND = "area_kind"


class Areas(Filing):
    """Areas; the kind of each stands in its row."""

    def __init__(self) -> None:
        super().__init__("areas", "areas with population and shape", AreaEntry)

    def area_kind(self, draft: Draft, attribute: str) -> str:
        return str(draft.values["kind"])


class TaxRates(Filing):
    """What authorities levy; a blank area is the whole county."""

    extras = (
        extra(AREA_KIND, f"what kind of place the area is: one of {', '.join(Area.AreaKind.values)}", words=tuple(Area.AreaKind.values)),
    )

    def __init__(self) -> None:
        super().__init__("tax-rates", "tax rates by authority and year", TaxRate)

    def read(self, county_intake: CountyIntake, line: SourceLine) -> Draft:
        draft = super().read(county_intake, line)
        if draft.texts["area_id"]:
            try:
                draft.texts[AREA_KIND] = word_of(line.text(AREA_KIND), _KINDS, ", ".join(Area.AreaKind.labels))
            except UnreadableValueError as error:
                raise line.refuse(AREA_KIND, str(error)) from None
        return draft

    def area_kind(self, draft: Draft, attribute: str) -> str:
        return draft.texts.get(AREA_KIND, "")
