"""A county's parcel numbers: the mask they follow, and patterns over them.

A mask is written as ``NN-NNN-NNN``, each run of letters a segment of that many characters; runs of other
letters without a separator between them (``TTRRSSNNN``) are segments too. ``[-UUU]`` at the end is an optional
unit segment, as condominiums have.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby

_SEPARATORS = re.compile(r"[\s./_-]+")
FREE = "*"
"""The mask of a county whose numbers follow no form."""
_LONGEST_FREE = 40


class ParcelNumberError(ValueError):
    """A parcel number or pattern that doesn't fit; the message says why."""


@dataclass(frozen=True)
class KeyRange:
    """Keys from ``low`` up to and not including ``high``, compared as plain bytes."""

    low: str
    high: str

    def holds(self, key: str) -> bool:
        return self.low <= key < self.high


def below(prefix: str) -> KeyRange:
    """Return the range of all keys that begin with a prefix."""
    return KeyRange(prefix, prefix[:-1] + chr(ord(prefix[-1]) + 1))


@dataclass(frozen=True)
class Mask:
    """The form of one county's numbers: segment widths, and the width of an optional unit (0: none)."""

    text: str
    widths: tuple[int, ...]
    unit_width: int
    has_separators: bool

    @property
    def is_free(self) -> bool:
        """Whether numbers follow no form: any letters and figures are one, whatever stands between them."""
        return not self.widths

    def _shape(self) -> str:
        return self.text.replace("[", "").replace("]", " for a unit") if self.unit_width else self.text

    def _segments(self, number: str, *, whole: bool) -> list[str]:
        """Split a number into segments padded to their widths; ``whole`` wants all but the unit."""
        parts = [part for part in _SEPARATORS.split(number.strip().upper()) if part]
        if self.is_free:
            whole_text = "".join(parts)
            if not whole_text.isalnum() or len(whole_text) > _LONGEST_FREE:
                raise ParcelNumberError(f"{number} is not a number of letters and figures, {_LONGEST_FREE} at most")
            return [whole_text]
        widths = [*self.widths, self.unit_width] if self.unit_width else list(self.widths)
        if len(parts) == 1 and len(parts[0]) > widths[0]:
            run, parts = parts[0], []
            for width in widths:
                if run:
                    parts.append(run[:width])
                    run = run[width:]
            if run or len(parts[-1]) != widths[len(parts) - 1]:
                raise ParcelNumberError(f"{number} does not fit {self._shape()}")
        if not parts or len(parts) > len(widths) or (whole and len(parts) < len(self.widths)):
            raise ParcelNumberError(f"{number} does not fit {self._shape()}")
        padded = []
        for part, width in zip(parts, widths, strict=False):
            if len(part) > width or not part.isalnum() or (len(part) < width and not self.has_separators):
                raise ParcelNumberError(f"{number} does not fit {self._shape()}")
            padded.append(part.rjust(width, "0"))
        return padded

    @lru_cache(maxsize=20_000)  # noqa: B019 - counties, and so masks, are few and live as long as the program
    def key(self, number: str) -> str:
        """Return the normalized key of a whole number. Raises ParcelNumberError.

        >>> mask("NN-NNN-NNN[-UUU]").key("12-34-7"), mask("TTRRSSNNN").key("04 05 12 007")
        ('12034007', '040512007')
        """
        return "".join(self._segments(number, whole=True))

    def format(self, key: str) -> str:
        """Return a key the way the county prints it.

        >>> mask("NN-NNN-NNN[-UUU]").format("12034007003")
        '12-034-007-003'
        """
        if self.is_free:
            return key
        parts, at = [], 0
        for width in (*self.widths, self.unit_width):
            if key[at : at + width]:
                parts.append(key[at : at + width])
            at += width
        return ("-" if self.has_separators else "").join(parts)

    def ranges(self, pattern: str) -> tuple[KeyRange, ...]:
        """Return the key ranges a pattern covers. Raises ParcelNumberError.

        A pattern may stop at any segment (all below it match, ``12-034-*``) and may list or range its last one
        (``12-034-7..9``, ``12-034-1|4``).

        >>> [ (r.low, r.high) for r in mask("NN-NNN-NNN").ranges("12-34-7..9") ]
        [('12034007', '1203400:')]
        """
        head, separator, last = pattern.strip().rpartition("-")
        if pattern.endswith("*"):
            return (below("".join(self._segments(pattern[:-1], whole=False))),)
        if ".." not in last and "|" not in last:
            return (below("".join(self._segments(pattern, whole=False))),)
        found = []
        for item in last.split("|"):
            first, dots, final = item.partition("..")
            low = "".join(self._segments(f"{head}{separator}{first}", whole=False))
            high = "".join(self._segments(f"{head}{separator}{final}", whole=False)) if dots else low
            if high < low:
                raise ParcelNumberError(f"{item} runs backwards: write the smaller number first")
            found.append(KeyRange(low, below(high).high))
        return tuple(found)


def form_of(numbers: Iterable[str]) -> str:
    """Return the mask that some numbers of a county follow: their segments' widths where all are alike, else none.

    >>> form_of(["12-034-007", "12-035-118"]), form_of(["7", "12A"])
    ('NN-NNN-NNN', '*')
    """
    shapes = {tuple(len(part) for part in _SEPARATORS.split(number.strip()) if part) for number in numbers if number.strip()}
    if len(shapes) != 1 or sum(widths := shapes.pop()) > _LONGEST_FREE or len(widths) < 2:
        return FREE
    return "-".join("N" * width for width in widths)


@lru_cache
def mask(text: str) -> Mask:
    """Read a mask such as ``NN-NNN-NNN[-UUU]``, or ``*`` for numbers of no form. Raises ParcelNumberError when it is not one."""
    if text == FREE:
        return Mask(text, (), 0, has_separators=True)
    found = re.fullmatch(r"([A-Z]+(?:-[A-Z]+)*)(?:\[-?([A-Z]+)\])?", text)
    if not found:
        raise ParcelNumberError(f"{text!r} is not a parcel-number mask such as NN-NNN-NNN")
    widths = tuple(len(list(run)) for part in found[1].split("-") for _, run in groupby(part))
    return Mask(text, widths, len(found[2] or ""), "-" in found[1])
