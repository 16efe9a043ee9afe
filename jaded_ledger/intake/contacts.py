"""Telephone numbers and e-mail addresses of owners, told by a parcel of theirs."""

from __future__ import annotations

from collections.abc import Sequence

import phonenumbers

from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.intake.batches import CountyIntake, Refused, SourceLine
from jaded_ledger.intake.cells import text_of
from jaded_ledger.intake.columns import extra
from jaded_ledger.intake.drafts import Draft
from jaded_ledger.intake.filing import Filing
from jaded_ledger.records.bulk import among
from jaded_ledger.records.models import Contact, RollEntry
from jaded_ledger.records.models.contacts import ContactKind

PARCEL = "parcel_number"


class Contacts(Filing):
    """Contacts. The owner is whoever the roll names for the parcel."""

    extras = (extra(PARCEL, "a parcel number", is_required=True),)

    def __init__(self) -> None:
        super().__init__("contacts", "owners' telephone numbers and e-mail addresses", Contact)

    def read(self, county_intake: CountyIntake, line: SourceLine) -> Draft:
        draft = super().read(county_intake, line)
        try:
            draft.keys = [county_intake.county.mask.key(text_of(line.text(PARCEL)))]
        except ParcelNumberError as error:
            raise line.refuse(PARCEL, str(error)) from None
        if draft.values["kind"] == ContactKind.TELEPHONE:
            draft.values["value"] = self._number(line, draft.values["value"])
        return draft

    def _number(self, line: SourceLine, typed: str) -> str:
        try:
            number = phonenumbers.parse(typed, "US")
        except phonenumbers.NumberParseException:
            raise line.refuse("value", "is not a telephone number") from None
        if not phonenumbers.is_possible_number(number):
            raise line.refuse("value", "is not a telephone number")
        return phonenumbers.format_number(number, phonenumbers.PhoneNumberFormat.E164)

    def admit(self, county_intake: CountyIntake, drafts: list[Draft]) -> tuple[list[Draft], dict[str, int], Refused]:
        owners = dict(
            RollEntry.objects.filter(
                county=county_intake.county, superseded_at=None, natural_key__in=among(key for draft in drafts for key in draft.keys)
            ).values_list("natural_key", "owner_id")
        )
        for draft in drafts:
            draft.values["owner_id"] = owners.get(draft.keys[0])
        known = [draft for draft in drafts if draft.values["owner_id"]]
        refused = [
            (one.line, one.line.refuse(PARCEL, "has no owner on record; take in the roll first"))
            for one in drafts
            if not one.values["owner_id"]
        ]
        return known, {}, refused

    def look_up(self, county_intake: CountyIntake, drafts: Sequence[Draft], parcels: dict[str, int]) -> None:
        """There is nothing more to look up: the owner was found with the parcel."""
