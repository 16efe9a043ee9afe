"""Names on record for sentences that are read without a database."""

from __future__ import annotations

import re
from collections.abc import Sequence

NAMES = {
    "street": ("Mast Ln", "Lantern St", "Capstan St", "Herring Row", "Cooper Ave"),
    "city": ("Alder Bay", "Corvid Falls"),
    "county": ("Tamarack", "Pike Hollow", "Odell Marsh"),
    "neighborhood": ("Harbour Wards",),
    "municipality": ("Alder Bay", "Corvid"),
    "school-district": ("Alder Bay", "Corvid Falls"),
    "lender": ("Alder Mutual", "Lakeport Savings", "First Beacon", "Tidewater Credit Union"),
    "subdivision": ("Tidewater",),
    "stage": ("comping",),
    "on-list": ("Tax 2026", "Pre-probate mail, fall and winter"),
    "tag": ("hot",),
    "in-area": ("Mill Side", "the lake"),
    "owner-name": ("Okafor", "Quillfeather", "Ostrom", "Harrow Point Rentals LLC"),
}
_BEGUN = ("street", "county")
"""Of these the first word is enough: Mast, Odell."""
_SUFFIXES = {"street": "st", "lane": "ln", "avenue": "ave"}


def _words(text: Sequence[str]) -> list[str]:
    plain = [word.casefold().replace("'", "") for word in text]
    return [_SUFFIXES.get(word, word) for word in plain]


class Lexicon:
    def find(self, trait: str, words: Sequence[str]) -> tuple[str, int] | None:
        typed = _words(words)
        places = [place for place, word in enumerate(typed, 1) if word.isalnum()]
        typed = [word for word in typed if word.isalnum()]
        found: list[tuple[int, str]] = []
        for name in NAMES.get(trait, ()):
            whole = _words(re.findall(r"[\w']+", name))
            for count in range(len(whole), 0, -1):
                if typed[:count] == whole[:count] and (count == len(whole) or trait in _BEGUN):
                    found.append((count, name))
                    break
        if not found:
            return None
        count, name = max(found)
        return name, places[count - 1]
