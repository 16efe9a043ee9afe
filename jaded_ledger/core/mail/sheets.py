"""Label sheets, and how text is fitted on a label. Lengths are in points, 72 to the inch, from the top left."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

INCH = 72.0
MM = 72.0 / 25.4

LARGEST_TYPE, SMALLEST_TYPE, STEP = 10.0, 7.0, 0.5
SMALL_TYPE = 8.0
"""Type below this is told in the preview: scanners and elderly readers have trouble with it (common practice)."""
LEADING = 1.2
"""Line height over type size."""
PADDING = 0.1 * INCH
"""What stays free at a label's left and right edge, since no printer feeds to a hair."""


@dataclass(frozen=True)
class Sheet:
    """A sheet of labels as its maker publishes it."""

    key: str
    name: str
    page: tuple[float, float]
    label: tuple[float, float]
    rows: int
    columns: int
    top: float
    left: float
    pitch: tuple[float, float]
    """Across and down, from one label's corner to the next one's."""

    @property
    def count(self) -> int:
        return self.rows * self.columns

    def corner(self, position: int) -> tuple[float, float]:
        """Return the top left corner of a label, positions counted from 0 row by row."""
        row, column = divmod(position, self.columns)
        return self.left + column * self.pitch[0], self.top + row * self.pitch[1]


SHEETS = {
    sheet.key: sheet
    for sheet in (
        Sheet(
            "letter-30", "Letter, 30 labels of 2⅝ × 1 in", (8.5 * INCH, 11 * INCH), (2.625 * INCH, 1 * INCH),
            10, 3, 0.5 * INCH, 0.1875 * INCH, (2.75 * INCH, 1 * INCH),
        ),
        Sheet(
            "letter-20", "Letter, 20 labels of 4 × 1 in", (8.5 * INCH, 11 * INCH), (4 * INCH, 1 * INCH),
            10, 2, 0.5 * INCH, 0.15625 * INCH, (4.1875 * INCH, 1 * INCH),
        ),
        Sheet(
            "letter-14", "Letter, 14 labels of 4 × 1⅓ in", (8.5 * INCH, 11 * INCH), (4 * INCH, 4 / 3 * INCH),
            7, 2, 5 / 6 * INCH, 0.15625 * INCH, (4.1875 * INCH, 4 / 3 * INCH),
        ),
        Sheet(
            "letter-10", "Letter, 10 labels of 4 × 2 in", (8.5 * INCH, 11 * INCH), (4 * INCH, 2 * INCH),
            5, 2, 0.5 * INCH, 0.15625 * INCH, (4.1875 * INCH, 2 * INCH),
        ),
        Sheet(
            "letter-80", "Letter, 80 labels of 1¾ × ½ in", (8.5 * INCH, 11 * INCH), (1.75 * INCH, 0.5 * INCH),
            20, 4, 0.5 * INCH, 0.28125 * INCH, (2.0625 * INCH, 0.5 * INCH),
        ),
        Sheet(
            "a4-24", "A4, 24 labels of 63.5 × 33.9 mm", (210 * MM, 297 * MM), (63.5 * MM, 33.9 * MM),
            8, 3, 12.9 * MM, 7.21 * MM, (66.04 * MM, 33.9 * MM),
        ),
        Sheet(
            "a4-21", "A4, 21 labels of 63.5 × 38.1 mm", (210 * MM, 297 * MM), (63.5 * MM, 38.1 * MM),
            7, 3, 15.15 * MM, 7.21 * MM, (66.04 * MM, 38.1 * MM),
        ),
    )
}  # fmt: skip


class DoesNotFitError(ValueError):
    """A text that a label can't hold whole; the message says which."""


class Fitted(NamedTuple):
    """Lines at a type size that a label holds."""

    lines: tuple[str, ...]
    size: float


Measure = Callable[[str, float], float]
"""The width in points of a text at a type size; it grows with the size alone."""
_BREAKS = re.compile(r"(?<=,) | (?=& )")
"""Where a long line is broken before anything is made smaller: after a comma, before an “&”."""


def _wrapped(line: str, size: float, width: float, measure: Measure) -> list[str]:
    found, current = [], ""
    for word in line.split():
        longer = f"{current} {word}".strip()
        if measure(longer, size) <= width:
            current = longer
            continue
        if not current or measure(word, size) > width:
            raise DoesNotFitError(f"“{word}” is wider than the label")
        found.append(current)
        current = word
    return [*found, current]


def _broken(line: str, size: float, width: float, measure: Measure) -> list[str]:
    """Return a line broken once, in two lines as even as can be, or whole where it fits or has no such place."""
    if measure(line, size) <= width:
        return [line]
    halves = [[line[: at.start()], line[at.end() :]] for at in _BREAKS.finditer(line)]
    return min(halves, key=lambda pair: max(measure(one, size) for one in pair), default=[line])


def _holds(lines: tuple[str, ...], size: float, sheet: Sheet, measure: Measure) -> bool:
    width = sheet.label[0] - 2 * PADDING
    return len(lines) * size * LEADING <= sheet.label[1] and all(measure(line, size) <= width for line in lines)


def fit(lines: tuple[str, ...], sheet: Sheet, measure: Measure) -> Fitted:
    """Return the lines as large as the label allows: at 10 pt broken at a comma or an “&”, then smaller, at 7 pt wrapped; never cut.

    Raises DoesNotFitError when the label can't hold them all.
    """
    width, height = sheet.label[0] - 2 * PADDING, sheet.label[1]
    size = LARGEST_TYPE
    while size >= SMALLEST_TYPE:
        broken = tuple(part for line in lines for part in _broken(line, size, width, measure))
        if _holds(broken, size, sheet, measure):
            return Fitted(broken, size)
        size -= STEP
    wrapped = tuple(part for line in lines for part in _wrapped(line, SMALLEST_TYPE, width, measure))
    if len(wrapped) * SMALLEST_TYPE * LEADING > height:
        raise DoesNotFitError(f"takes {len(wrapped)} lines, more than the label holds")
    return Fitted(wrapped, SMALLEST_TYPE)


def baselines(fitted: Fitted, sheet: Sheet) -> list[float]:
    """Return each line's baseline from the label's top, the block centerd from top to bottom."""
    leading = fitted.size * LEADING
    first = (sheet.label[1] - len(fitted.lines) * leading) / 2 + fitted.size * 0.95
    return [first + number * leading for number in range(len(fitted.lines))]
