"""Areas from files: GeoJSON (RFC 7946) and zipped Shapefiles."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import islice
from pathlib import Path

from django.db import transaction

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.intake.limits import UnreadableFileError
from jaded_ledger.intake.readers import read
from jaded_ledger.maps.areas import free_name, keep_area, outline_of
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.maps.outlines import polygons_of

MOST = 500
"""Areas of one file. More are a layer of the county's, and belong to its records."""
_CALLED = ("name", "title", "label", "area", "id")
"""What the field of a name may be called, the likeliest first (common practice)."""


@dataclass
class Brought:
    """What came of a file: the names of areas that were kept, and what was wrong with others, by their place in the file."""

    kept: list[str] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)
    mended: int = 0


@transaction.atomic
def bring_areas(path: Path, stem: str, scope: Scope) -> Brought:
    """Keep the polygons of a file as areas. ``stem`` names those that have no name. Raises AreaError for a file that can't be read."""
    brought = Brought()
    try:
        # Count them first: repairing one outline can take a second.
        rows = list(islice(read(path), MOST + 1))
        if len(rows) > MOST:
            raise AreaError(f"the file has more than {MOST} areas; bring a county's own layers as records")
        for number, row in enumerate(rows, start=1):
            cells = {key.casefold(): value for key, value in row.cells.items()}
            named = next((cells[key] for key in _CALLED if str(cells.get(key) or "").strip()), "") or f"{stem} {number}"
            try:
                if row.fault:
                    raise AreaError(row.fault)
                outline = outline_of(polygons_of(cells.get("geometry", "")))
                brought.kept.append(keep_area(scope, free_name(scope.team, " ".join(str(named).split())[:70]), outline).name)
                brought.mended += bool(outline.note)
            except AreaError as error:
                brought.refused.append(f"{number}: {error}")
    except UnreadableFileError as error:
        raise AreaError(error.of("the file")) from None
    if not brought.kept and not brought.refused:
        raise AreaError("the file holds no areas")
    return brought
