"""Outlines that cross themselves made valid (OGC Simple Features), by the structure method: what their rings enclose, less their holes.

An outline of a few hundred corners that crosses itself often takes GEOS minutes, so it is a program as well: it reads an outline as
well-known binary and writes the valid one.
"""

from __future__ import annotations

from jaded_ledger.core.bounded_programs import be_program

MOST_BYTES = 2 * 1024**3
"""Of memory, for the program."""


def mend(outline: bytes) -> bytes:
    """Return a valid outline, both as well-known binary. Parts without an area are left out."""
    import shapely  # type: ignore[import-untyped]

    valid = shapely.make_valid(shapely.from_wkb(outline), method="structure", keep_collapsed=False)
    return bytes(shapely.to_wkb(valid))


if __name__ == "__main__":
    be_program(mend, MOST_BYTES)
