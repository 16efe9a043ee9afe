"""Lines as a PDF sets them: in the typefaces that have their characters, from right to left where they are read that way.

Names are recorded in any script. A typeface that lacks a character would print a blank, which on a label is a letter to nobody; so what
no typeface of ours has is told, and refused. Order: Unicode Standard Annex 9; the shapes of Arabic letters: the Unicode Standard, 9.2.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache, lru_cache
from itertools import groupby
from pathlib import Path

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

FONT = "IBM Plex Sans"
_FOLDER = Path(__file__).parent / "fonts"
_FACES = {
    FONT: "IBMPlexSans-Regular.ttf",
    "Noto Sans Hebrew": "NotoSansHebrew-Regular.ttf",
    "Noto Sans Arabic": "NotoSansArabic-Regular.ttf",
    "Noto Sans JP": "NotoSansJP-Regular.ttf",
    "Noto Sans KR": "NotoSansKR-Hangul-Regular.ttf",
    "Noto Sans SC": "NotoSansSC-Further-Regular.ttf",
}
"""By what they are tried in turn; those of large scripts are read only when a line calls for them."""
_RIGHT_TO_LEFT = ("R", "AL")


@dataclass(frozen=True)
class Run:
    """Characters that stand beside each other in one typeface, in the order in which they are set."""

    font: str
    text: str


@cache
def _characters(font: str) -> frozenset[str]:
    """Return what a typeface has, ready to be set."""
    face = TTFont(font, _FOLDER / _FACES[font])
    pdfmetrics.registerFont(face)
    return frozenset(map(chr, face.face.charToGlyph))


def _font_of(character: str) -> str | None:
    return next((font for font in _FACES if character in _characters(font)), None)


def _in_order(text: str) -> str:
    """Return a line's characters as they stand from left to right, Arabic letters in the shapes that their neighbors call for."""
    if not any(unicodedata.bidirectional(character) in _RIGHT_TO_LEFT for character in text):
        return text
    # Few names need them, and they take a while to load.
    from arabic_reshaper import reshape
    from bidi.algorithm import get_display

    return str(get_display(reshape(text)))


def lacking(text: str) -> str:
    """Return the characters of a line that no typeface has, each once."""
    if _characters(FONT).issuperset(text):
        return ""
    return "".join(dict.fromkeys(character for character in _in_order(text) if _font_of(character) is None))


def others_needed(text: str) -> dict[str, Path]:
    """Return the typefaces beside ours that a text calls for, by name, with their files."""
    strange = set(text) - _characters(FONT)
    fonts = dict.fromkeys(font for character in sorted(strange) if (font := _font_of(character)))
    return {font: _FOLDER / _FACES[font] for font in fonts}


def runs(text: str) -> tuple[Run, ...]:
    """Return a line in the pieces in which it is set. What no typeface has is left to ours, which leaves a blank."""
    if _characters(FONT).issuperset(text):
        return (Run(FONT, text),)
    return tuple(_pieces(_in_order(text)))


def _pieces(text: str) -> Iterator[Run]:
    for font, characters in groupby(text, lambda character: _font_of(character) or FONT):
        yield Run(font, "".join(characters))


@lru_cache(maxsize=65_536)
def _unit_width(text: str) -> float:
    """Return the width of a line at a size of one point."""
    return float(sum(pdfmetrics.stringWidth(run.text, run.font, 1.0) for run in runs(text)))


def text_width(text: str, size: float) -> float:
    """Return the width in points of a line as the PDF sets it."""
    return size * _unit_width(text)


def draw_line(canvas: Canvas, left: float, baseline: float, text: str, size: float) -> None:
    """Set a line from a point, in points from the page's lower left corner."""
    for run in runs(text):
        canvas.setFont(run.font, size)
        canvas.drawString(left, baseline, run.text)
        left += pdfmetrics.stringWidth(run.text, run.font, size)
