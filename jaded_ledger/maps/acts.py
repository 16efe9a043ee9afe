"""What of the map not everybody may do."""

from __future__ import annotations

from jaded_ledger.accounts.roles import STAFF, Act

AREAS = Act("areas", "draw, change and remove areas", "it changes no areas")
BACKGROUND = Act("background", "bring the map’s background", "The map’s background is brought by staff.", frozenset({STAFF}))
ACTS = (
    AREAS,
    BACKGROUND,
)
