"""What can't be done with an area, and how a page says so."""

from __future__ import annotations


class AreaError(ValueError):
    """An area that can't be kept as it is; the message says why and what to do."""
