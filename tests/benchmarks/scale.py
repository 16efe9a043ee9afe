"""What an installation of many counties would need, reckoned from what was measured on one machine: ``bin/bench scale``.

It is a calculation, not a measurement: docs/scale.md has its table, and says what each figure stands on.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

PARCELS_OF_A_COUNTRY = 155_000_000
"""About how many parcels the 3,000 and some counties of the United States have; common knowledge of the trade, from memory."""
COUNTIES_OF_A_COUNTRY = 3_100


@dataclass(frozen=True)
class Measured:
    """What was measured on two cores with 1,000,000 parcels (docs/performance.md)."""

    records_bytes: float = 7_760
    """PostgreSQL's disk for one parcel: its records, facts and indexes."""
    copy_bytes: float = 160
    """The reading copy's disk for one parcel, figures with noise."""
    derived_a_second: float = 850
    """Parcels a second, one process: an intake's own."""
    taken_in_a_second: float = 2_400
    """Rows of files a second, one process."""
    copied_a_second: float = 21_000
    """Parcels a second into a reading copy."""
    follow_a_second: float = 8_000
    """Parcels a second whose facts follow their area's figures."""
    reader_bytes: float = 300e6
    """What DuckDB may use in a process."""
    process_bytes: float = 250e6
    """A web process without it."""
    rows_a_day: float = 0.004
    """Rows of a day's files for each parcel: deeds, loans, listings, cases."""
    affected_a_day: float = 0.03
    """Parcels derived each day, by files and by the day itself."""


@dataclass(frozen=True)
class Scale:
    """What so many counties need."""

    counties: int
    parcels: int
    records_gb: float
    copies_gb: float
    night_hours: float
    """Hours of one worker (two cores) for a day's files, what they derive, and copies of all counties."""
    month_hours: float
    """Hours of one worker in the night in which areas' figures change."""
    workers: int
    """How many workers do the worst night within six hours."""
    readers_gb: float
    """Memory of four web processes."""


NIGHT = 6
PROCESSES = 4


def scale(counties: int, measured: Measured | None = None) -> Scale:
    """Return what an installation of so many average counties needs."""
    one = measured or Measured()
    parcels = round(PARCELS_OF_A_COUNTRY * counties / COUNTIES_OF_A_COUNTRY)
    day = parcels * (one.rows_a_day / one.taken_in_a_second + one.affected_a_day / one.derived_a_second + 1 / one.copied_a_second) / 3600
    month = day + parcels / one.follow_a_second / 3600
    return Scale(
        counties,
        parcels,
        parcels * one.records_bytes / 1e9,
        parcels * one.copy_bytes / 1e9,
        day,
        month,
        max(1, ceil(month / NIGHT)),
        PROCESSES * (one.reader_bytes + one.process_bytes) / 1e9,
    )


_HEAD = ("counties", "parcels", "records", "copies", "a night", "with a new month", "workers for six hours", "readers")


def table() -> str:
    """Return the table of docs/scale.md."""
    rows = [
        (
            f"{one.counties:,}", f"{one.parcels / 1e6:,.1f} m", f"{one.records_gb:,.0f} GB", f"{one.copies_gb:,.1f} GB",
            f"{one.night_hours:,.1f} h", f"{one.month_hours:,.1f} h", str(one.workers), f"{one.readers_gb:.1f} GB",
        )
        for one in map(scale, (1, 10, 100, COUNTIES_OF_A_COUNTRY))
    ]  # fmt: skip
    return "\n".join("| " + " | ".join(row) + " |" for row in (_HEAD, ("---",) * len(_HEAD), *rows))
