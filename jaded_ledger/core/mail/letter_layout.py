"""A letter on its page: where each line stands and how large, the same in the preview as in the PDF.

The letter's address block shows in the window of a No. 10 envelope when the page is folded in thirds: the window 4½ × 1⅛ in, ⅞ in from
the left and ½ in from the foot of the envelope (common practice, from memory). The postcard is 6 × 4¼ in, the largest at the card
price by USPS Domestic Mail Manual 201.1.2 (from memory); its back has the address in the zone that machines read, as on an envelope.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import NamedTuple

from jaded_ledger.core.mail.label_pdf import unprintable
from jaded_ledger.core.mail.letters import Letter, Letters, Recipient, Span, Values
from jaded_ledger.core.mail.pieces import Candidate, Reason
from jaded_ledger.core.mail.sheets import INCH
from jaded_ledger.core.mail.typesetting import text_width

TYPE, SMALLEST = 11.0, 9.0
LEADING, SMALL_TYPE = 1.35, 7.0
_SENDER_TYPE = 9.0


@dataclass(frozen=True)
class Paper:
    """What a letter is printed on, lengths in points.

    ``body`` is the left, the top, the width and the height of what the text has; ``address`` where the recipient's lines begin, from
    the left and the top; ``sender`` whether the sender's lines end at the right margin (or begin at the left); ``has_back`` whether the
    address stands on a page of its own.
    """

    key: str
    name: str
    size: tuple[float, float]
    body: tuple[float, float, float, float]
    address: tuple[float, float]
    sender_at_right: bool
    has_back: bool


PAPERS = {
    one.key: one
    for one in (
        Paper("letter", "Letter page, for a No. 10 window envelope", (8.5 * INCH, 11 * INCH),
              (0.9 * INCH, 3.5 * INCH, 6.7 * INCH, 6.7 * INCH), (0.9 * INCH, 2.2 * INCH), True, False),
        Paper("card-6x4", "Postcard, 6 × 4¼ in", (6 * INCH, 4.25 * INCH),
              (0.4 * INCH, 0.4 * INCH, 5.2 * INCH, 3.3 * INCH), (2.6 * INCH, 2.0 * INCH), False, True),
    )
}  # fmt: skip


class LaidRun(NamedTuple):
    """Words in one line: where they begin from the left, how wide they are, and whether a field put them there."""

    x: float
    width: float
    text: str
    is_field: bool


class LaidLine(NamedTuple):
    """A line: its baseline from the page's top, its size, and its words."""

    y: float
    size: float
    runs: tuple[LaidRun, ...]

    @property
    def top(self) -> float:
        """Where a mark behind its words begins."""
        return self.y - self.size

    @property
    def height(self) -> float:
        """How high such a mark is."""
        return self.size * 1.25


@dataclass(frozen=True)
class LaidPage:
    """One side of a piece. ``size`` is that of the letter's text."""

    paper: Paper
    lines: tuple[LaidLine, ...] = field(default=())


class LongerThanPageError(ValueError):
    """A letter that its page does not hold at the smallest size."""


def _words(spans: Iterable[Span]) -> Iterator[list[Span]]:
    """Yield a line's words; one may be begun by a field and ended by the text."""
    word: list[Span] = []
    for span in spans:
        for place, part in enumerate(span.text.split(" ")):
            if place:
                yield word
                word = []
            if part:
                word.append(Span(part, span.is_field))
    yield word


def _width(word: Sequence[Span], size: float) -> float:
    return sum(text_width(span.text, size) for span in word)


def _broken(word: list[Span], size: float, room: float) -> Iterator[list[Span]]:
    """Yield a word that is wider than its line in parts that are not."""
    part: list[Span] = []
    for span in word:
        for character in span.text:
            if part and _width(part, size) + text_width(character, size) > room:
                yield part
                part = []
            if part and part[-1].is_field == span.is_field:
                part[-1] = Span(part[-1].text + character, span.is_field)
            else:
                part.append(Span(character, span.is_field))
    yield part


def _wrapped(spans: Sequence[Span], size: float, room: float) -> Iterator[list[list[Span]]]:
    """Yield the lines, each as its words, that a line of the text takes."""
    space = text_width(" ", size)
    line: list[list[Span]] = []
    used = 0.0
    for whole in _words(spans):
        for word in _broken(whole, size, room) if _width(whole, size) > room else (whole,):
            width = _width(word, size)
            if line and used + space + width > room:
                yield line
                line, used = [], 0.0
            used += width + (space if line else 0.0)
            line.append(word)
    yield line


def _runs(words: list[list[Span]], left: float, size: float) -> tuple[LaidRun, ...]:
    """Return a line's words put together: a space between two is the text's wherever one of them is."""
    spans: list[Span] = []
    for place, word in enumerate(words):
        for number, span in enumerate(word):
            gap = " " if place and number == 0 else ""
            if spans and spans[-1].is_field == span.is_field:
                spans[-1] = Span(spans[-1].text + gap + span.text, span.is_field)
            elif gap and span.is_field and spans:
                spans[-1] = Span(spans[-1].text + gap, is_field=False)
                spans.append(span)
            else:
                spans.append(Span(gap + span.text if spans else span.text, span.is_field))
    runs, x = [], left
    for span in spans:
        width = text_width(span.text, size)
        runs.append(LaidRun(x, width, span.text, span.is_field))
        x += width
    return tuple(runs)


@lru_cache(65_536)
def _set(spans: tuple[Span, ...], size: float, left: float, width: float) -> tuple[tuple[LaidRun, ...], ...]:
    """Return the lines that a line of the text takes. Most lines of a mailing's letters say the same."""
    return tuple(_runs(words, left, size) for words in _wrapped(spans, size, width))


def _body(letter: Letter, values: Values, paper: Paper, size: float) -> list[LaidLine] | None:
    """Return the letter's lines at a size; None where the page has no room for them. A blank line is half as high as another."""
    left, top, width, height = paper.body
    lines, y = [], top
    for spans in letter.merged(values):
        if not any(span.text.strip() for span in spans):
            y += size * LEADING / 2
            continue
        for runs in _set(spans, size, left, width):
            y += size * LEADING
            lines.append(LaidLine(y - size * 0.25, size, runs))
    return lines if y <= top + height else None


def type_size(letter: Letter, values: Values, paper: Paper) -> float:
    """Return the largest size at which a letter has room on its page; 0 where it has none."""
    size = TYPE
    while size >= SMALLEST:
        if _body(letter, values, paper, size) is not None:
            return size
        size -= 0.5
    return 0.0


def _block(lines: Iterable[str], left: float, top: float, size: float, right: float | None = None) -> Iterator[LaidLine]:
    for place, line in enumerate(lines, start=1):
        width = text_width(line, size)
        x = left if right is None else right - width
        yield LaidLine(top + place * size * LEADING - size * 0.25, size, (LaidRun(x, width, line, is_field=False),))


def lay_out(
    letter: Letter, values: Values, lines: Sequence[str], paper: Paper, sender: Sequence[str] = (), note: str = ""
) -> tuple[LaidPage, ...]:
    """Return the sides of a piece. ``lines`` are the recipient's, ``note`` the small line. Raises LongerThanPageError."""
    size = type_size(letter, values, paper)
    if not size:
        raise LongerThanPageError(f"longer than its page at {SMALLEST:g} pt")
    body = _body(letter, values, paper, size) or []
    width, height = paper.size
    margin = paper.body[0]
    top_left = (margin, 0.6 * INCH if paper.sender_at_right else 0.3 * INCH)
    head = list(_block(sender, *top_left, _SENDER_TYPE, width - margin if paper.sender_at_right else None))
    to = list(_block(lines, *paper.address, TYPE if len(lines) < 5 else SMALLEST))
    foot = list(_block([note] if note else [], margin, height - 0.35 * INCH, SMALL_TYPE))
    if paper.has_back:
        return LaidPage(paper, tuple(body)), LaidPage(paper, (*head, *to, *foot))
    return (LaidPage(paper, (*head, *to, *body, *foot)),)


class Written(NamedTuple):
    """What is said to whom: the letter, the values of its fields, and the kind of owner that it is written to."""

    letter: Letter
    values: Values
    recipient: Recipient


MOST_LISTED = 12
"""Properties that a letter lists; of more it says how many."""


def listed(addresses: Sequence[str]) -> str:
    """Return an owner's properties as a letter lists them, a line each."""
    shown = addresses if len(addresses) <= MOST_LISTED else addresses[: MOST_LISTED - 1]
    more = len(addresses) - len(shown)
    return "\n".join([*shown, f"and {more:,} more"] if more else shown)


class LetterFit:
    """Which letter each candidate gets, and whether it can be printed; what each would say is kept, by parcel.

    ``addresses`` are those of all parcels, as they are listed; ``code`` is the longest reply code that a piece may get.
    """

    def __init__(self, letters: Letters, paper: Paper, addresses: Mapping[int, str], code: str) -> None:
        self._letters, self._paper, self._addresses, self._code = letters, paper, addresses, code
        self.written: dict[int, Written] = {}

    def __call__(self, candidate: Candidate, lines: tuple[str, ...]) -> tuple[Reason, str] | None:
        letter = self._letters.of(candidate.recipient, candidate.who)
        if letter is None:
            return Reason.NO_LETTER, candidate.recipient.words
        whole = {
            **candidate.values,
            "parcels": f"{len(candidate.parcels):,}",
            "parcel-list": listed([self._addresses[parcel] for parcel in candidate.parcels]),
            "code": self._code,
        }
        if field := letter.lacks(whole):
            return Reason.NO_FIELD, field
        values = {place.field: value for place in letter.places if (value := whole.get(place.field))}
        if wrong := unprintable((*lines, *(line for value in values.values() for line in value.split("\n")))):
            return wrong
        if not type_size(letter, values, self._paper):
            return Reason.TOO_LONG, f"“{letter.name}” is longer than its page at {SMALLEST:g} pt"
        self.written[candidate.parcel_id] = Written(letter, values, candidate.recipient)
        return None
