"""Recorded deeds: transfers of title, each covering one parcel or many."""

from __future__ import annotations

from collections.abc import Sequence

from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.core.market.sales import DeedType
from jaded_ledger.intake import texts
from jaded_ledger.intake.batches import Line, Taking, digest_of
from jaded_ledger.intake.cells import Cells, RefusedRowError
from jaded_ledger.records.bulk import copy_in
from jaded_ledger.records.models import Parcel, Transfer, TransferParcel

COLUMNS = ("document_number", "recorded", "dated", "deed", "price", "grantor", "grantee", "parcel_number")
SEVERAL = ";"
"""What stands between the numbers of a document that covers several parcels."""


def _read(taking: Taking, cells: Cells) -> tuple[str, dict[str, object], list[str]]:
    recorded_on, sold_on = cells.day("recorded"), cells.day("dated")
    if recorded_on is None:
        raise cells.refuse("recorded", "is blank and must not be")
    for column, day in (("recorded", recorded_on), ("dated", sold_on)):
        if day and day > taking.as_of:
            raise cells.refuse(column, f"lies after {taking.as_of}, the day the file speaks of")
    try:
        deed = DeedType(cells.required("deed").casefold().replace(" ", "-"))
    except ValueError:
        raise cells.refuse("deed", f"is none of {', '.join(DeedType)}") from None
    try:
        keys = sorted({taking.county.mask.key(one) for one in cells.required("parcel_number").split(SEVERAL)})
    except ParcelNumberError as error:
        raise cells.refuse("parcel_number", str(error)) from None
    values = {
        "document_number": cells.text("document_number")[:40],
        "deed": deed.value,
        "recorded_on": recorded_on,
        "sold_on": sold_on or recorded_on,
        "price": cells.number("price"),
    }
    natural = values["document_number"] or "|".join((str(recorded_on), cells.text("grantor"), cells.text("grantee"), *keys))
    return natural, values, keys


def take(taking: Taking, lines: Sequence[Line]) -> list[tuple[Line, RefusedRowError]]:
    """Store a batch of deeds."""
    refused: list[tuple[Line, RefusedRowError]] = []
    read = {}
    for line in lines:
        try:
            natural, values, keys = _read(taking, line.cells)
            if natural in read:
                raise line.cells.refuse("document_number", "stands in this file more than once")
            read[natural] = (line, values, keys)
        except RefusedRowError as reason:
            refused.append((line, reason))
    wanted = {key for _, _, keys in read.values() for key in keys}
    parcels = dict(Parcel.objects.filter(county=taking.county, number_key__in=wanted).values_list("number_key", "id"))
    for natural in [natural for natural, (_, _, keys) in read.items() if not parcels.keys() >= set(keys)]:
        line = read.pop(natural)[0]
        refused.append((line, line.cells.refuse("parcel_number", "is not on record; take in the parcels first")))
    names = texts.name_ids(line.cells.text(party) for line, _, _ in read.values() for party in ("grantor", "grantee"))
    rows = []
    for natural, (line, values, keys) in read.items():
        grantor, grantee = (names.get(line.cells.text(party)) for party in ("grantor", "grantee"))
        digest = digest_of(values, grantor and grantor.text, grantee and grantee.text, keys)
        rows.append(
            (
                natural,
                Transfer(
                    county=taking.county, natural_key=natural, grantor=grantor, grantee=grantee,
                    **values, **taking.provenance(line, digest),
                ),
            )
        )  # fmt: skip
    stored = taking.supersede(Transfer, rows, "natural_key")
    covered = [
        TransferParcel(transfer=transfer, parcel_id=parcels[key])
        for natural, transfer in rows
        if natural in stored
        for key in read[natural][2]
    ]
    copy_in(covered)
    taking.touched |= {one.parcel_id for one in covered}
    return refused
