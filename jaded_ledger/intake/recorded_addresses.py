"""Addresses as a file's columns give them: on one line, and as read."""

from __future__ import annotations

from dataclasses import dataclass

from jaded_ledger.core.mail.addresses import Address, standardize


@dataclass(frozen=True)
class ReadAddress:
    """An address as recorded, on one line, and as read."""

    text: str
    address: Address


def joined_address(line: str, unit: str, city: str, state: str, zip_code: str) -> ReadAddress | None:
    """Return an address put together from its columns; None where it has no first line."""
    if not line:
        return None
    text = ", ".join(filter(None, (line, unit, city, f"{state} {zip_code}".strip())))
    return ReadAddress(text, standardize(line, unit, city, state, zip_code))
