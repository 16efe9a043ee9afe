"""Parcel outlines: the file that says which parcels there are."""

from __future__ import annotations

from collections.abc import Sequence

from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.intake.batches import Line, Taking, digest_of
from jaded_ledger.intake.cells import RefusedRowError
from jaded_ledger.records.bulk import copy_in
from jaded_ledger.records.models import Parcel, ParcelShape

COLUMNS = ("parcel_number", "parent_parcel_number", "geometry")


def take(taking: Taking, lines: Sequence[Line]) -> list[tuple[Line, RefusedRowError]]:
    """Store a batch of outlines, and the parcels that are new with them."""
    refused: list[tuple[Line, RefusedRowError]] = []
    read = {}
    mask = taking.county.mask
    for line in lines:
        cells = line.cells
        try:
            number, parent = cells.required("parcel_number"), cells.text("parent_parcel_number")
            try:
                key, parent_key = mask.key(number), mask.key(parent) if parent else ""
            except ParcelNumberError as error:
                raise cells.refuse("parcel_number", str(error)) from None
            if key in read:
                raise cells.refuse("parcel_number", "stands in this file more than once")
            read[key] = (line, parent_key, cells.outline("geometry"))
        except RefusedRowError as reason:
            refused.append((line, reason))
    wanted = set(read) | {parent for _, parent, _ in read.values() if parent}
    known = {parcel.number_key: parcel for parcel in Parcel.objects.filter(county=taking.county, number_key__in=wanted)}
    fresh = [Parcel(county=taking.county, number_key=key, number=mask.format(key)) for key in read if key not in known]
    copy_in(fresh)
    known |= {parcel.number_key: parcel for parcel in fresh}
    rows, returned, adopted = [], [], []
    for key, (line, parent_key, outline) in read.items():
        parcel = known[key]
        if parent_key and parent_key not in known:
            refused.append((line, line.cells.refuse("parent_parcel_number", "is not on record")))
            continue
        parent = known[parent_key] if parent_key else None
        if parcel.parent_id != (parent.pk if parent else None):
            parcel.parent = parent
            adopted.append(parcel)
        if parcel.retired_on:
            parcel.retired_on = None
            returned.append(parcel)
        taking.seen.add(parcel.pk)
        rows.append(
            (
                parcel.pk,
                ParcelShape(
                    parcel=parcel,
                    outline=outline,
                    **taking.provenance(line, digest_of(line.cells.raw["geometry"], parent_key)),
                ),
            )
        )
    Parcel.objects.bulk_update(adopted, ["parent"], batch_size=2000)
    Parcel.objects.bulk_update(returned, ["retired_on"], batch_size=2000)
    taking.touched |= taking.supersede(ParcelShape, rows, "parcel_id")
    # A parcel that came back has no facts, even if its outline is as it was.
    taking.touched |= {parcel.pk for parcel in returned}
    return refused
