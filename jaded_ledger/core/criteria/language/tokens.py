"""The lexer: a sentence as words, figures and signs, each with its place in what was typed."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

LONGEST = 60
"""Tokens; what is longer is not read."""
_SCALES = {"k": 1_000, "thousand": 1_000, "grand": 1_000, "m": 1_000_000, "mil": 1_000_000, "million": 1_000_000}
_ONES = "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen"
_TENS = "twenty thirty forty fifty sixty seventy eighty ninety"
_SMALL = {word: number for number, word in enumerate(_ONES.split())} | {
    word: 10 * number for number, word in enumerate(_TENS.split(), start=2)
}
_DECADES = {f"{word[:-1]}ies": 10 * number for number, word in enumerate(_TENS.split(), start=2)}
_CENTURIES = {"eighteen": 1800, "nineteen": 1900, "twenty": 2000}
_FRACTIONS = {"1/2": "0.5", "1/4": "0.25", "3/4": "0.75", "1/3": "0.33"}
_TOKEN = re.compile(
    r"(?P<day>\d{1,2}/\d{1,2}/\d{4}|(?:19|20)\d{2}-(?:0[1-9]|1[0-2])-[0-3]\d(?!\d))"
    r"|(?P<parcel>\d{2,6}-\d{2,6}-[\d*]+(?![\d%]))"
    r"|(?P<fraction>(?:1/[234]|3/4)(?![\d/]))"
    r"|(?P<decade>(?:1[6-9]|20)\d0'?s|'?[0-9]0'?s)(?!\w)"
    r"|(?P<figure>(?:\$\s?)?(?:\d{1,3}(?:,\d{3})+|\d+)(?:\.\d+)?|\$?\.\d+)"
    r"|(?P<by>(?<=\d)\s?[xX]\s?(?=\d))"
    r"|(?P<word>[^\W\d_][^\W_]*(?:['’.][^\W_]+)*)"
    r"|(?P<sign>>=|<=|\S)"
)
_SIGNS = {"–": "-", "—": "-", "&": "and", "|": "or", "≥": ">=", "≤": "<=", "#": "＃", "@": "＠"}
"""Signs as patterns have them. ``#`` and ``@`` begin the forms of figures, days and parcel numbers there, so that typed ones are others."""
_SAY_NOTHING = frozenset(",;.:…!?()[]{}\"'’‘“”-")
"""Signs that part words or close a sentence. A reading has to account for every other."""
_BELOW_ZERO = "−"
"""A minus sign before a figure: no pattern has it, so that it is never lost."""
_STANDS_APART = re.compile(r"(?:^|[(\s])$")
_ENDS_WITH_A_FIGURE = re.compile(r"\d[\w.,%]*\s*$")
_SHORT = {"w": "with", "btwn": "between", "n": "and", "yrs": "years", "yr": "years", "mos": "months", "mo": "months"}


@dataclass(frozen=True)
class Token:
    """A word, a figure or a sign. ``text`` is how patterns see it; ``start`` and ``end`` are its place in the sentence."""

    text: str
    start: int
    end: int
    number: Decimal | None = None
    is_money: bool = False
    is_scaled: bool = False

    @property
    def is_word(self) -> bool:
        return self.text[:1].isalpha()

    @property
    def key(self) -> str:
        """What it is compared by: its text, or its number."""
        return self.text if self.number is None else f"{self.number.normalize():f}"

    @property
    def counts(self) -> bool:
        """Whether a reading has to account for it: a figure, a word, or a sign that may say something."""
        return self.text not in _SAY_NOTHING


def _figure(text: str, start: int, end: int) -> Token:
    is_money = "$" in text
    digits = text.replace("$", "").replace(",", "").strip()
    number = Decimal(digits)
    form = "#"
    if not is_money and "," not in text and "." not in text:
        if len(digits) == 4 and 1600 <= number <= 2100:
            form = "#y"
        elif len(digits) == 5:
            form = "#z"
    return Token(form, start, end, number, is_money)


_NOT_SEVERAL = frozenset("this plus less series minus previous always unless across illinois kansas texas arkansas massachusetts".split())


def one(word: str) -> str:
    """Return a word as it is of one thing.

    >>> [one(word) for word in ("taxes", "companies", "houses", "this", "class")]
    ['tax', 'company', 'house', 'this', 'class']
    """
    if len(word) <= 3 or word in _NOT_SEVERAL or not word.endswith("s") or word.endswith("ss"):
        return word
    if word.endswith("ies") and len(word) > 4:
        return f"{word[:-3]}y"
    return word[:-2] if word.endswith(("xes", "ches", "shes", "sses")) else word[:-1]


def _plain(word: str) -> str:
    return word.casefold().replace("’", "").replace("'", "").replace(".", "")


def _lexed(sentence: str) -> list[Token]:
    found: list[Token] = []
    place = 0
    while match := _TOKEN.search(sentence, place):
        place = match.end()
        start, end, text = match.start(), match.end(), match[0]
        match match.lastgroup:
            case "parcel":
                found.append(Token("@parcel", start, end))
            case "day":
                found.append(Token("@day", start, end))
            case "fraction":
                found.append(Token("#", start, end, Decimal(_FRACTIONS[text])))
            case "decade":
                found.append(Token("#d", start, end, Decimal(_decade(text))))
            case "figure":
                found.append(_figure(text, start, end))
            case "by":
                found.append(Token("x", start, end))
            case "word":
                found.append(Token(_SHORT.get(_plain(text), _plain(text)), start, end))
            case _:
                found.append(Token(_BELOW_ZERO if _is_minus(sentence, start, end) else _SIGNS.get(text, text), start, end))
    return found


def _is_minus(sentence: str, start: int, end: int) -> bool:
    """Whether a sign makes the figure behind it negative: not where it joins two words, or two figures of a range."""
    before = sentence[:start]
    if sentence[start:end] != "-" or not sentence[end : end + 1].isdigit():
        return False
    return bool(_STANDS_APART.search(before)) and not _ENDS_WITH_A_FIGURE.search(before)


def _decade(text: str) -> int:
    digits = int(re.sub(r"\D", "", text))
    return digits if digits > 100 else (1900 if digits >= 20 else 2000) + digits


_SPELLED_SCALES = ("hundred", "thousand", "million")
_PARTS = {"half": Decimal("0.5"), "quarter": Decimal("0.25")}


def _text(tokens: Sequence[Token], place: int) -> str:
    return tokens[place].text if 0 <= place < len(tokens) else ""


def _joined(tokens: list[Token]) -> list[Token]:
    """Put figures that are written in several tokens together: ``250 k``, ``three``, ``two hundred thousand``, ``nineteen thirty``."""
    found: list[Token] = []
    place = 0
    while place < len(tokens):
        token, after = tokens[place], _text(tokens, place + 1)
        if token.text in _SMALL or (token.text in ("a", *_PARTS) and after in _SPELLED_SCALES):
            figure, place = _spelled(tokens, place)
            if _text(tokens, place) in ("k", "m"):
                figure = replace(
                    figure, number=(figure.number or Decimal(0)) * _SCALES[tokens[place].text], end=tokens[place].end, is_scaled=True
                )
                place += 1
            found.append(figure)
            continue
        if token.text in _DECADES:
            found.append(Token("#d", token.start, token.end, Decimal(1900 + _DECADES[token.text])))
        elif token.text in _PARTS and len(found) > 1 and found[-1].text in ("a", "and") and _half_after(found):
            # Two and a half.
            while found[-1].text in ("a", "and"):
                found.pop()
            found[-1] = replace(found[-1], number=(found[-1].number or 0) + _PARTS[token.text], end=token.end)
        elif token.text in _PARTS and not (found and found[-1].text == "#"):
            found.append(Token("#", token.start, token.end, _PARTS[token.text]))
            place += after in ("a", "an")
        elif token.number is not None and after in _SCALES and token.text != "#d":
            end = tokens[place + 1].end
            found.append(Token("#", token.start, end, token.number * _SCALES[after], token.is_money, is_scaled=True))
            place += 1
        else:
            found.append(token)
        place += 1
    return found


def _half_after(found: Sequence[Token]) -> bool:
    """Whether the last tokens are a figure and *and*, with or without *a*."""
    before = [token.text for token in found[-3:]]
    return before[-2:] == ["#", "and"] or before == ["#", "and", "a"]


def _spelled(tokens: list[Token], place: int) -> tuple[Token, int]:
    """Return a figure in words, and the place after it."""
    if year := _spelled_year(tokens, place):
        return year
    start, total, current, scaled = place, Decimal(0), Decimal(0), False
    while place < len(tokens):
        word, after = tokens[place].text, _text(tokens, place + 1)
        if word in _SMALL:
            if place == start + 1 and 0 < current < 10 and _SMALL[word] >= 20:
                # Two fifty.
                current *= 100
            if current % 100 and not (current % 10 == 0 and _SMALL[word] < 10):
                break
            current += _SMALL[word]
        elif word in ("a", *_PARTS) and place == start:
            current = _PARTS.get(word, Decimal(1))
        elif word == "hundred" and place > start:
            current, scaled = current * 100, True
        elif word in _SCALES and len(word) > 3 and place > start:
            total, current, scaled = total + current * _SCALES[word], Decimal(0), True
        elif not (word == "and" and scaled and current and current % 100 == 0 and after in _SMALL and not _is_scale(tokens, place + 2)):
            break
        place += 1
    return Token("#", tokens[start].start, tokens[place - 1].end, total + current, is_scaled=scaled), place


def _is_scale(tokens: Sequence[Token], place: int) -> bool:
    """Whether a figure is in hundreds or more: it is another, as in a hundred and two hundred thousand."""
    return _text(tokens, place) in _SPELLED_SCALES


def _spelled_year(tokens: list[Token], place: int) -> tuple[Token, int] | None:
    """Return a year or a decade in words, ``nineteen thirty two``, ``nineteen fifties``, and the place after it; None where none stands."""
    century, second = _CENTURIES.get(tokens[place].text), _text(tokens, place + 1)
    if century is None:
        return None
    if second in _DECADES:
        return Token("#d", tokens[place].start, tokens[place + 1].end, Decimal(century + _DECADES[second])), place + 2
    if _SMALL.get(second, 0) < 10:
        return None
    year, last = century + _SMALL[second], place + 1
    if _SMALL[second] >= 20 and 0 < _SMALL.get(_text(tokens, place + 2), 0) < 10:
        year, last = year + _SMALL[tokens[place + 2].text], place + 2
    return Token("#y", tokens[place].start, tokens[last].end, Decimal(year)), last + 1


def _alike(tokens: list[Token]) -> list[Token]:
    """Give the first figure of a range the scale of the second: ``between 90 and 140k``, ``150 to 250 thousand``."""
    found = list(tokens)
    for place in range(len(found) - 2):
        first, between, last = found[place : place + 3]
        if first.number is None or last.number is None or not last.is_scaled or (first.is_scaled and first.number >= 1_000):
            continue
        is_range = between.text in ("-", "to") or (between.text == "and" and _text(found, place - 1) == "between")
        factor = next((scale for scale in (1_000_000, 1_000, 100) if last.number >= scale and last.number % scale == 0), 1)
        if is_range and first.number < 1_000 and first.number * factor <= last.number:
            is_money = first.is_money or last.is_money
            found[place] = Token("#", first.start, first.end, first.number * factor, is_money, is_scaled=True)
    return found


def lex(sentence: str) -> list[Token]:
    """Return the tokens of a sentence; words are lower case, without apostrophes and the s of more than one, figures read.

    >>> [token.text if token.number is None else str(token.number) for token in lex("3bd/2ba, under $200k, built in the 1950s")]
    ['3', 'bd', '/', '2', 'ba', ',', 'under', '200000', ',', 'built', 'in', 'the', '1950']
    """
    return [replace(token, text=one(token.text)) if token.is_word else token for token in _unhyphened(_alike(_joined(_lexed(sentence))))]


def _unhyphened(tokens: list[Token]) -> list[Token]:
    """Leave out hyphens between words: ``single-family`` is two words."""
    return [
        token
        for place, token in enumerate(tokens)
        if not (token.text == "-" and 0 < place < len(tokens) - 1 and _is_hyphen(tokens[place - 1], tokens[place + 1]))
    ]


def _is_hyphen(before: Token, after: Token) -> bool:
    return ((before.is_word or before.number is not None) and after.is_word) or (before.is_word and after.number is not None)


_HEDGES = frozenset("about around roughly approximately maybe".split())


def is_hedge(tokens: Sequence[Token], place: int) -> bool:
    """Whether a word makes the figure behind it rough: no criterion can, so it is told as not used, wherever it is."""
    return tokens[place].text in _HEDGES and place + 1 < len(tokens) and tokens[place + 1].number is not None
