"""Upper-case records in the case people read, leaving abbreviations alone."""

from __future__ import annotations

import re

_KEPT = frozenset(["LLC", "LLP", "LLLP", "LP", "II", "III", "IV", "NA", "PO", "RR", "HC", "USA", "HUD", "NE", "NW", "SE", "SW", "C/O"])
_SMALL = frozenset({"OF", "THE", "AND"})
_STATE_AND_ZIP = re.compile(r"[A-Z]{2}(?: \d{5}(?:-\d{4})?)?")
_DOTTED = re.compile(r"(?:[A-Z]\.)+[A-Z]?")
_WORD = re.compile(r"[^\s,;()/-]+(?:/[A-Z])?")


def in_reading_case(text: str) -> str:
    """Return a text that is all capitals in title case; any other is left as it was recorded.

    >>> in_reading_case("OSTROM HELEN M & PETER"), in_reading_case("ESTATE OF ARVID KELM"), in_reading_case("N 18TH ST")
    ('Ostrom Helen M & Peter', 'Estate of Arvid Kelm', 'N 18th St')
    """
    if "," in text:
        return ", ".join(in_reading_case(part.strip()) for part in text.split(","))
    if text != text.upper() or _STATE_AND_ZIP.fullmatch(text):
        return text

    def word(match: re.Match[str]) -> str:
        found = match[0]
        if found in _KEPT or _DOTTED.fullmatch(found) or (any(c.isdigit() for c in found) and not re.fullmatch(r"\d+(ST|ND|RD|TH)", found)):
            return found
        if found in _SMALL and match.start() > 0:
            return found.lower()
        return found[0] + found[1:].lower()

    return _WORD.sub(word, text)
