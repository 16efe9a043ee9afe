"""Parcel outlines: the file that says which parcels there are."""

from __future__ import annotations

from collections.abc import Sequence

from django.db.models import Model

from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.intake.batches import CountyIntake, Refused, SourceLine
from jaded_ledger.intake.begun_parcels import begin
from jaded_ledger.intake.cells import text_of
from jaded_ledger.intake.columns import extra
from jaded_ledger.intake.drafts import Draft
from jaded_ledger.intake.filing import Filing
from jaded_ledger.records.bulk import among, among_ids
from jaded_ledger.records.models import Parcel, ParcelFacts, ParcelSale, ParcelShape, RollEntry

PARENT = "parent_parcel_number"


class Shapes(Filing):
    """Outlines. A parcel that is new is made; a unit names the parcel it stands on."""

    extras = (extra(PARENT, "the parcel number that a unit stands on"),)
    address_columns = ()

    def __init__(self) -> None:
        super().__init__("parcels", "parcel outlines", ParcelShape, naming=lambda field: "geometry" if field == "outline" else field)

    @property
    def filled(self) -> tuple[type[Model], ...]:
        return (self.model, Parcel)

    def read(self, county_intake: CountyIntake, line: SourceLine) -> Draft:
        draft = super().read(county_intake, line)
        draft.texts[PARENT] = ""
        if parent := text_of(line.text(PARENT)):
            try:
                draft.texts[PARENT] = county_intake.county.mask.key(parent)
            except ParcelNumberError as error:
                raise line.refuse(PARENT, str(error)) from None
        return draft

    def admit(self, county_intake: CountyIntake, drafts: list[Draft]) -> tuple[list[Draft], dict[str, int], Refused]:
        """Make the parcels that are new; refuse a unit whose ground is nowhere."""
        parcels = self.find_parcels(county_intake, drafts)
        named = {draft.texts[PARENT] for draft in drafts} - {""}
        grounds = parcels | dict(
            Parcel.objects.filter(county=county_intake.county, number_key__in=among(named)).values_list("number_key", "id")
        )
        known = {"", *grounds, *(draft.keys[0] for draft in drafts)}
        refused = [(one.line, one.line.refuse(PARENT, "is not on record")) for one in drafts if one.texts[PARENT] not in known]
        drafts = [draft for draft in drafts if draft.texts[PARENT] in known]
        fresh = begin(county_intake, sorted({draft.keys[0] for draft in drafts} - parcels.keys()))
        self._adopt(drafts, parcels | fresh, grounds | fresh)
        return drafts, parcels | fresh, refused

    def _adopt(self, drafts: Sequence[Draft], parcels: dict[str, int], grounds: dict[str, int]) -> None:
        """Note on which ground a unit stands."""
        before = dict(Parcel.objects.filter(id__in=among_ids(parcels.values())).values_list("id", "parent_id"))
        adopted: dict[int | None, list[int]] = {}
        for draft in drafts:
            pk, ground = parcels[draft.keys[0]], grounds.get(draft.texts[PARENT])
            if before[pk] != ground:
                adopted.setdefault(ground, []).append(pk)
        for ground, units in adopted.items():
            Parcel.objects.filter(id__in=units).update(parent_id=ground)

    def take(self, county_intake: CountyIntake, drafts: list[Draft]) -> Refused:
        refused = super().take(county_intake, drafts)
        # A parcel that came back has no facts, even if its outline is as it was.
        returned = list(Parcel.objects.filter(id__in=among_ids(county_intake.seen), retired_on__isnull=False).values_list("id", flat=True))
        Parcel.objects.filter(id__in=returned).update(retired_on=None)
        county_intake.affected |= set(returned)
        return refused

    def on_record(self, county_intake: CountyIntake) -> int:
        return Parcel.objects.filter(county=county_intake.county, retired_on=None).count()

    def retire(self, county_intake: CountyIntake) -> None:
        """A complete file of parcels retires those it no longer holds."""
        held = (
            Parcel.objects.filter(county=county_intake.county, retired_on=None)
            .exclude(number_key__in=among(county_intake.spared))
            .values_list("id", flat=True)
        )
        gone = [pk for pk in held.iterator() if pk not in county_intake.seen]
        Parcel.objects.filter(id__in=gone).update(retired_on=county_intake.as_of)
        # Their owners have fewer parcels from now on.
        owners = ParcelFacts.objects.filter(parcel_id__in=among_ids(gone)).values("owner")
        county_intake.affected |= set(RollEntry.objects.filter(owner__in=owners, superseded_at=None).values_list("parcel_id", flat=True))
        ParcelFacts.objects.filter(parcel_id__in=among_ids(gone)).delete()
        ParcelSale.objects.filter(parcel_id__in=among_ids(gone)).delete()
        county_intake.file.gone += len(gone)
        county_intake.affected.difference_update(gone)
