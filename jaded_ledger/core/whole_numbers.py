"""Whole numbers as somebody types them or a form sends them."""

from __future__ import annotations

LONGEST = 18
"""How many digits are read: no more than every integer column of ours, and every reader of integers, can take."""


def whole_number(text: str | None) -> int | None:
    """Return the number that a text of plain digits is; None for any other text, and for more than ``LONGEST`` digits.

    >>> whole_number("42"), whole_number("-1"), whole_number(""), whole_number("9" * 5000)
    (42, None, None, None)
    """
    return int(text) if text and len(text) <= LONGEST and text.isascii() and text.isdecimal() else None
