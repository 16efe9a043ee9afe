"""Cells that a spreadsheet would run as a formula, made harmless in a file and read back unchanged."""

from __future__ import annotations

import re

_RISKY = re.compile(r"(?!\+[0-9]+\Z)'*[=+\-@\t\r]")
"""What begins a formula (OWASP, CSV Injection), and texts that already wear the guard. A plus and digits alone are a phone number."""


def guarded(text: str) -> str:
    """Return a text with an apostrophe before what would be run.

    >>> guarded("=1+1"), guarded("OSTROM HELEN"), guarded("'=x"), guarded("+14145550113")
    ("'=1+1", 'OSTROM HELEN', "''=x", '+14145550113')
    """
    return f"'{text}" if _RISKY.match(text) else text


def unguarded(text: str) -> str:
    """Return the text that was guarded.

    >>> unguarded(guarded("=1+1")), unguarded("'tis")
    ('=1+1', "'tis")
    """
    return text[1:] if text.startswith("'") and _RISKY.match(text) else text
