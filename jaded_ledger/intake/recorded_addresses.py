"""Addresses as a file's columns give them: on one line, and as read."""

from __future__ import annotations

import re
from dataclasses import dataclass

from jaded_ledger.core.mail.addresses import Address, standardize


@dataclass(frozen=True)
class ReadAddress:
    """An address as recorded, on one line, and as read."""

    text: str
    address: Address


def city_of(text: str) -> str:
    """Return a city's name as people write it.

    >>> city_of("NORTH_FALLS")
    'NORTH FALLS'
    """
    return " ".join(text.replace("_", " ").split())


def zip_of(text: str) -> str:
    """Return a ZIP Code without a letter that some files put before it, so that a spreadsheet keeps its zeros.

    >>> zip_of("z53391"), zip_of("53391-1204"), zip_of("5339")
    ('53391', '53391-1204', '5339')
    """
    found = re.fullmatch(r"\s*[A-Za-z]?(\d{5}(?:-?\d{4})?)\s*", text)
    return found[1] if found else text


def joined_address(line: str, unit: str, city: str, state: str, zip_code: str) -> ReadAddress | None:
    """Return an address put together from its columns; None where it has no first line."""
    if not line:
        return None
    city, zip_code = city_of(city), zip_of(zip_code)
    text = ", ".join(filter(None, (line, unit, city, f"{state} {zip_code}".strip())))
    return ReadAddress(text, standardize(line, unit, city, state, zip_code))
