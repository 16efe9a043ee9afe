"""Lines of a pool of comps from a sentence: ``3 beds or more, built before 1965, within half a mile, same class``."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date
from decimal import Decimal

from jaded_ledger.core.comps.limits import Limits
from jaded_ledger.core.comps.lines import LineKind, PoolError, PoolLine, parse_line
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.language.reading import read
from jaded_ledger.core.criteria.search import Criterion, Exactly, FigureRange
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.market.land import SQFT_PER_ACRE

_KINDS = {
    "beds": LineKind.BEDS, "baths": LineKind.BATHS, "living-area": LineKind.AREA, "year-built": LineKind.BUILT,
    "lot-sqft": LineKind.LOT, "lot-acres": LineKind.LOT, "frontage": LineKind.FRONTAGE,
    "last-sale-price": LineKind.PRICE, "list-price": LineKind.PRICE,
}  # fmt: skip
"""Which line a trait's figure limits."""
_SAME = {
    "class": LineKind.CLASS, "type": LineKind.CLASS, "kind": LineKind.CLASS, "stories": LineKind.STORIES, "story": LineKind.STORIES,
    "condition": LineKind.CONDITION, "zoning": LineKind.USE, "road class": LineKind.ACCESS, "side": LineKind.SIDE,
}  # fmt: skip
_SAYS_SAME = re.compile(rf"\b(?:of |on )?(?:the )?same ({'|'.join(sorted(_SAME, key=len, reverse=True))})\b", re.IGNORECASE)
_SAYS_WITHIN = re.compile(
    r"\bwithin (?P<amount>half a|a half|a quarter|quarter|three quarters of a|an?|one|\d*\.?\d+) ?(?P<unit>miles?|mi|feet|foot|ft)\b"
    r"(?: of (?:it|the (?:subject|property)))?",
    re.IGNORECASE,
)
_AMOUNTS = {"half a": 0.5, "a half": 0.5, "a quarter": 0.25, "quarter": 0.25, "three quarters of a": 0.75, "a": 1, "an": 1, "one": 1}
_FEET_PER_MILE = 5280
_EXAMPLE = "3 beds or more, built before 1965, within 0.5 mi, same class"


class _NoNames:
    """A pool's lines ask for no names on record."""

    def find(self, trait: str, words: Sequence[str]) -> tuple[str, int] | None:
        return None


def said_lines(text: str, today: date) -> tuple[PoolLine, ...]:
    """Return the lines that a text means: one as it is written, or a sentence's. Raises PoolError.

    >>> [str(line) for line in said_lines("3 beds or more, built before 1965, within half a mile, same class", date(2026, 11, 24))]
    ['class: same', 'within: 0.5 mi', 'beds: at least 3', 'built: at most 1964']
    """
    if ":" in text:
        return (parse_line(text),)
    found = [PoolLine(_SAME[one[1].casefold()]) for one in _SAYS_SAME.finditer(text)]
    rest = _SAYS_SAME.sub(" ", text)
    for one in _SAYS_WITHIN.finditer(rest):
        amount = _AMOUNTS.get(one["amount"].casefold()) or float(one["amount"])
        found.append(parse_line(f"within: {amount / _FEET_PER_MILE if one['unit'].casefold().startswith('f') else amount:.4g} mi"))
    rest = _SAYS_WITHIN.sub(" ", rest)
    reading = read(rest, tuple(CATALOGUE), _NoNames(), today)
    for what, _ in reading.cannot:
        raise PoolError(f"{what} is in no record")
    if reading.unused or not (found or reading.parts):
        unused = ", ".join(f"“{words}”" for words in reading.unused) or f"“{text[:80]}”"
        raise PoolError(f"{unused} means no line of a pool; write one such as “{_EXAMPLE}”")
    return tuple(dict.fromkeys([*found, *(_line(part.words, part.options, today) for part in reading.parts)]))


def _line(words: str, options: Sequence[Sequence[str]], today: date) -> PoolLine:
    """Return the line of a part. Of several meanings those that no line limits are none here. Raises PoolError."""
    lines = {line for option in options if len(option) == 1 and (line := _line_of(option[0], words, today))}
    if len(lines) == 1:
        return lines.pop()
    either = f": {' or '.join(sorted(map(str, lines)))}" if lines else ""
    raise PoolError(f"“{words}” {'means more than one line' if lines else 'is no line of a pool'}{either}")


def _line_of(text: str, words: str, today: date) -> PoolLine | None:
    if text.startswith("{"):
        return None
    match parse(text).lines:
        case (Criterion("last-sale", (period,), ()),) if not isinstance(period, Exactly):
            days = period.resolve(today)  # type: ignore[union-attr]
            return parse_line(f"closed: {(today - days.low).days}") if days.low and (not days.high or days.high >= today) else None
        case (Criterion(trait, (FigureRange() | Exactly(Decimal()) as value,), ()),) if trait in _KINDS:
            low, high = (value.value, value.value) if isinstance(value, Exactly) else (value.low, value.high)
            factor = SQFT_PER_ACRE if trait == "lot-acres" else 1
            least, most = (None if end is None else float(str(end)) * factor for end in (low, high))
            return PoolLine(_KINDS[trait], limits=Limits(least, most))
    return None
