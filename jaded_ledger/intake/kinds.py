"""The kinds of file that can be taken in, with their columns."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from jaded_ledger.intake import deeds, roll, shapes
from jaded_ledger.intake.batches import Line, Taking
from jaded_ledger.intake.cells import RefusedRowError

Refused = list[tuple[Line, RefusedRowError]]


@dataclass(frozen=True)
class Kind:
    """A kind of file: its columns, which must be there, and what takes in a batch of its rows.

    ``take`` returns the rows it refused. ``retires`` says whether a complete file retires the parcels it no longer holds.
    """

    name: str
    meaning: str
    columns: tuple[str, ...]
    required: tuple[str, ...]
    take: Callable[[Taking, Sequence[Line]], Refused]
    retires: bool = False


KINDS = {
    kind.name: kind
    for kind in (
        Kind("parcels", "parcel outlines", shapes.COLUMNS, ("parcel_number", "geometry"), shapes.take, retires=True),
        Kind("roll", "assessment roll", roll.COLUMNS, ("parcel_number",), roll.take),
        Kind("deeds", "recorded deeds", deeds.COLUMNS, ("recorded", "deed", "parcel_number"), deeds.take),
    )
}
