"""A sheet of labels, or an envelope, as shapes for the preview: the same places, sizes and lines as in the PDF."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jaded_ledger.core.mail.envelopes import RETURN_TYPE, SIDE, Envelope, baselines, type_size
from jaded_ledger.core.mail.label_pdf import Label, label_lines
from jaded_ledger.core.mail.letter_layout import LaidPage
from jaded_ledger.core.mail.sheets import INCH, LEADING, PADDING, Sheet


@dataclass(frozen=True)
class DrawnLine:
    x: str
    y: str
    size: str
    text: str


@dataclass(frozen=True)
class DrawnLabel:
    """One place on the sheet; ``lines`` is empty where nothing is printed. Lengths in points."""

    x: str
    y: str
    lines: tuple[DrawnLine, ...]


@dataclass(frozen=True)
class Drawing:
    name: str
    width: str
    height: str
    label_width: str
    label_height: str
    labels: tuple[DrawnLabel, ...]


@dataclass(frozen=True)
class DrawnMark:
    """A place that a field filled. Lengths in points."""

    x: str
    y: str
    width: str
    height: str


@dataclass(frozen=True)
class DrawnLetter:
    """One side of a letter or a postcard."""

    name: str
    width: str
    height: str
    marks: tuple[DrawnMark, ...]
    texts: tuple[DrawnLine, ...]


def _points(length: float) -> str:
    return f"{length:.2f}"


def draw_sheet(labels: Sequence[Label], sheet: Sheet, start: int, page: int = 1) -> Drawing:
    """Return a sheet of labels, pages counted from 1."""
    drawn = []
    for position in range(sheet.count):
        left, top = sheet.corner(position)
        number = (page - 1) * sheet.count + position - (start - 1)
        lines: tuple[DrawnLine, ...] = ()
        if 0 <= number < len(labels):
            lines = tuple(
                DrawnLine(_points(left + PADDING), _points(top + baseline), _points(size), line)
                for baseline, line, size in label_lines(labels[number], sheet)
            )
        drawn.append(DrawnLabel(_points(left), _points(top), lines))
    return Drawing(
        sheet.name, _points(sheet.page[0]), _points(sheet.page[1]), _points(sheet.label[0]), _points(sheet.label[1]), tuple(drawn)
    )


def draw_envelope(lines: Sequence[str], envelope: Envelope, sender: Sequence[str]) -> Drawing:
    """Return an envelope."""
    width, height = envelope.size
    size = type_size(lines, envelope)
    drawn = [
        DrawnLine(_points(SIDE), _points(0.35 * INCH + place * RETURN_TYPE * LEADING + RETURN_TYPE * 0.95), _points(RETURN_TYPE), line)
        for place, line in enumerate(sender)
    ]
    drawn += [
        DrawnLine(_points(envelope.left), _points(height - baseline), _points(size), line)
        for line, baseline in zip(lines, baselines(lines, size), strict=True)
    ]
    edge = DrawnLabel("0", "0", tuple(drawn))
    return Drawing(envelope.name, _points(width), _points(height), _points(width), _points(height), (edge,))


def draw_letter(page: LaidPage) -> DrawnLetter:
    """Return a side of a letter, with what its fields filled in marked."""
    runs = [(line, run) for line in page.lines for run in line.runs]
    width, height = page.paper.size
    return DrawnLetter(
        page.paper.name,
        _points(width),
        _points(height),
        tuple(DrawnMark(_points(run.x), _points(line.top), _points(run.width), _points(line.height)) for line, run in runs if run.is_field),
        tuple(DrawnLine(_points(run.x), _points(line.y), _points(line.size), run.text) for line, run in runs),
    )
