"""Parcel outlines: the file that says which parcels there are."""

from __future__ import annotations

from collections.abc import Sequence

from django.db.models import Model

from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.intake.batches import Line, Refused, Taking
from jaded_ledger.intake.cells import text_of
from jaded_ledger.intake.columns import extra
from jaded_ledger.intake.filing import Draft, Filing
from jaded_ledger.records.bulk import allot_ids, among, among_ids, copy_rows
from jaded_ledger.records.models import Parcel, ParcelFacts, ParcelSale, ParcelShape, RollEntry

PARENT = "parent_parcel_number"


class Shapes(Filing):
    """Outlines. A parcel that is new is made; a unit names the parcel it stands on."""

    extras = (extra(PARENT, "the parcel number that a unit stands on"),)

    def __init__(self) -> None:
        super().__init__("parcels", "parcel outlines", ParcelShape, naming=lambda field: "geometry" if field == "outline" else field)

    @property
    def filled(self) -> tuple[type[Model], ...]:
        return (self.model, Parcel)

    def read(self, taking: Taking, line: Line) -> Draft:
        draft = super().read(taking, line)
        draft.texts[PARENT] = ""
        if parent := text_of(line.text(PARENT)):
            try:
                draft.texts[PARENT] = taking.county.mask.key(parent)
            except ParcelNumberError as error:
                raise line.refuse(PARENT, str(error)) from None
        return draft

    def admit(self, taking: Taking, drafts: list[Draft]) -> tuple[list[Draft], dict[str, int], Refused]:
        """Make the parcels that are new; refuse a unit whose ground is nowhere."""
        parcels = self.find_parcels(taking, drafts)
        named = {draft.texts[PARENT] for draft in drafts} - {""}
        grounds = parcels | dict(Parcel.objects.filter(county=taking.county, number_key__in=among(named)).values_list("number_key", "id"))
        known = {"", *grounds, *(draft.keys[0] for draft in drafts)}
        refused = [(one.line, one.line.refuse(PARENT, "is not on record")) for one in drafts if one.texts[PARENT] not in known]
        drafts = [draft for draft in drafts if draft.texts[PARENT] in known]
        fresh = self._made(taking, sorted({draft.keys[0] for draft in drafts} - parcels.keys()))
        self._adopt(drafts, parcels | fresh, grounds | fresh)
        return drafts, parcels | fresh, refused

    def _made(self, taking: Taking, keys: list[str]) -> dict[str, int]:
        ids = allot_ids(Parcel, len(keys))
        mask, county = taking.county.mask, taking.county.pk
        copy_rows(
            Parcel,
            [
                {"id": pk, "county_id": county, "number_key": key, "number": mask.format(key), "parent_id": None, "retired_on": None}
                for pk, key in zip(ids, keys, strict=True)
            ],
        )
        return dict(zip(keys, ids, strict=True))

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

    def take(self, taking: Taking, drafts: list[Draft]) -> Refused:
        refused = super().take(taking, drafts)
        # A parcel that came back has no facts, even if its outline is as it was.
        returned = list(Parcel.objects.filter(id__in=among_ids(taking.seen), retired_on__isnull=False).values_list("id", flat=True))
        Parcel.objects.filter(id__in=returned).update(retired_on=None)
        taking.touched |= set(returned)
        return refused

    def on_record(self, taking: Taking) -> int:
        return Parcel.objects.filter(county=taking.county, retired_on=None).count()

    def retire(self, taking: Taking) -> None:
        """A complete file of parcels retires those it no longer holds."""
        held = (
            Parcel.objects.filter(county=taking.county, retired_on=None)
            .exclude(number_key__in=among(taking.spared))
            .values_list("id", flat=True)
        )
        gone = [pk for pk in held.iterator() if pk not in taking.seen]
        Parcel.objects.filter(id__in=gone).update(retired_on=taking.as_of)
        # Their owners have fewer parcels from now on.
        owners = ParcelFacts.objects.filter(parcel_id__in=among_ids(gone)).values("owner")
        taking.touched |= set(RollEntry.objects.filter(owner__in=owners, superseded_at=None).values_list("parcel_id", flat=True))
        ParcelFacts.objects.filter(parcel_id__in=among_ids(gone)).delete()
        ParcelSale.objects.filter(parcel_id__in=among_ids(gone)).delete()
        taking.file.gone += len(gone)
        taking.touched.difference_update(gone)
