"""Patterns over parcel numbers as people write them: separators of any kind, and words for lists, ranges and exceptions."""

from __future__ import annotations

import re

from jaded_ledger.core.criteria.search import Numbers
from jaded_ledger.core.criteria.wrong_value import ValueTextError

_COUNTY_FIRST = re.compile(r"([^\W\d][\w .'-]*)/(.+)")
_THROUGH = re.compile(r"\s*(?:\.\.|\b(?:through|thru|to)\b)\s*", re.IGNORECASE)
_AND = re.compile(r"\s*(?:\||&|\band\b|\bor\b)\s*", re.IGNORECASE)
_EXCEPT = re.compile(r"\s+(?:except(?:ing)?|but not|without)(?:\s+for)?\s+", re.IGNORECASE)
_MOST_LEFT_OUT = 200


def numbers(text: str) -> Numbers:
    """Return a parcel-number pattern with its separators made one kind. Raises ValueTextError.

    >>> numbers("Tamarack/12 034.7..9"), numbers("12-001-014 and 015").pattern
    (Numbers(pattern='12-034-7..9', county='tamarack'), '12-001-014|015')
    >>> numbers("12-001 020 through 028 except 024").pattern
    '12-001-020..023|025..028'
    """
    county, said = "", text.strip()
    if match := _COUNTY_FIRST.fullmatch(said):
        county, said = "-".join(match[1].casefold().split()), match[2]
    first, *exceptions = _EXCEPT.split(said)
    pattern = _pattern(first, text)
    for one in exceptions:
        pattern = _without(pattern, _pattern(one, text), text)
    return Numbers(pattern, county)


def _pattern(said: str, text: str) -> str:
    words = _AND.sub("|", _THROUGH.sub("..", said.strip().upper()))
    pattern = re.sub(r"(?<!\.)\.(?!\.)|[\s/_]+", "-", words)
    pattern = re.sub(r"-{2,}", "-", pattern).strip("-")
    head = pattern.split("|")[0].split("..")[0].rpartition("-")[0]
    if head:
        # A repeated book and page before each lot says nothing new.
        pattern = re.sub(rf"(?<=\||\.){re.escape(head)}-", "", pattern)
    if not re.fullmatch(r"[A-Z0-9](?:[A-Z0-9-]|\||\.\.(?=[A-Z0-9]))*\*?", pattern) or pattern.count("..") > pattern.count("|") + 1:
        raise ValueTextError(text, "is not a parcel number or pattern such as 12-034-007, 12-034-*, 12-034-7..9 or 12-034-007 and 009")
    return pattern


def _span(item: str, text: str) -> tuple[int, int]:
    low, _, high = item.partition("..")
    if not (low.isdecimal() and (high or low).isdecimal()):
        raise ValueTextError(text, "can use “except” only with a list or range of digits, such as 12-001-020 through 028 except 024")
    return int(low), int(high or low)


def _without(pattern: str, exceptions: str, text: str) -> str:
    """Return a pattern without some of the numbers in its last segment."""
    head, _, last = pattern.rpartition("-")
    out = exceptions.removeprefix(f"{head}-") if head else exceptions
    width = len(last.split("|")[0].split("..")[0])
    kept = [_span(item, text) for item in last.split("|")]
    left_out = [_span(item, text) for item in out.split("|")]
    if len(left_out) > _MOST_LEFT_OUT:
        raise ValueTextError(text, f"excepts more than {_MOST_LEFT_OUT} numbers")
    for low, high in left_out:
        kept = [
            part for first, final in kept for part in ((first, min(final, low - 1)), (max(first, high + 1), final)) if part[0] <= part[1]
        ]
    if not kept:
        raise ValueTextError(text, "excepts every number that it lists")
    items = "|".join(f"{low:0{width}}" if low == high else f"{low:0{width}}..{high:0{width}}" for low, high in kept)
    return f"{head}-{items}" if head else items
