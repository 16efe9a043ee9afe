"""A phone number that somebody types and others will read."""

from __future__ import annotations

import re

from jaded_ledger.core.phone_numbers import national

_DIGITS = 10


def phone_as_printed(text: str) -> str:
    """Return a phone number as it is printed, (414) 555-0113; blank for none. Raises ValueError, which says how to write it."""
    said = " ".join(text.split())
    if not said:
        return ""
    digits = re.sub(r"\D", "", said, flags=re.ASCII)
    digits = digits[1:] if len(digits) == _DIGITS + 1 and digits.startswith("1") else digits
    if len(digits) != _DIGITS:
        raise ValueError(f"“{said[:40]}” is not a phone number of ten digits; write it as 414 555 0113")
    return national(f"+1{digits}")
