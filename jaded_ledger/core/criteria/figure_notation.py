"""Figures as people write them: ``3+``, ``under 300k``, ``$1,284,500``, ``60 %``, ``1950s``. They come back in one form."""

from __future__ import annotations

import re
from decimal import ROUND_CEILING, ROUND_FLOOR, Decimal
from functools import lru_cache

from jaded_ledger.core.criteria.bounds import Bounds, bounds_of
from jaded_ledger.core.criteria.search import Exactly, FigureRange
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.wrong_value import ValueTextError

_FIGURE = re.compile(r"(-|−)?\$?(\d{1,3}(?:,\d{3})+|\d+)?(\.\d+)?\s*(k|m|thousand|mill?ion|mil)?", re.IGNORECASE)
_SCALE = {"": 1, "k": 1_000, "thousand": 1_000, "m": 1_000_000, "mil": 1_000_000, "million": 1_000_000, "milion": 1_000_000}
_WORDS = {
    word: Decimal(number)
    for number, word in enumerate("zero one two three four five six seven eight nine ten eleven twelve".split())
}  # fmt: skip
NUMBER_WORDS = frozenset(_WORDS)
_EXPECTED = "is not a figure; write one such as 3, 250k, 1.2m or $1,284,500"
_DECADE = re.compile(r"(?:(early|mid|late)[- ])?(?:the )?(1[5-9]\d0|20\d0)'?s")
_UNITS = {
    "sq ft": r"sq\.? ?(?:ft|feet|foot)\.?|sqft|sf|square (?:feet|foot)|ft²",
    "acres": r"acres?|ac\.?",
    "ft": r"feet|foot|ft\.?",
    "mi": r"miles?|mi\.?",
    "years": r"years?|yrs?\.?",
    "months": r"months?|mos?\.?",
    "days": r"days?",
    "lists": r"lists?",
    "a month": r"(?:a|per|each|every|/) ?(?:month|mo)\.?|monthly",
    "a year": r"(?:a|per|each|every|/) ?(?:year|yr)\.?|yearly|annually",
}
"""How the units of traits are written (common practice)."""
_OF_KIND = {
    Kind.PERCENT: r"%|percent|per cent|pct\.?",
    Kind.MONEY: r"dollars?|usd|(?:a|per|/) ?(?:sq\.? ?(?:ft|foot)\.?|sqft|square foot)",
}


def figure(text: str) -> Decimal:
    """Return a figure: ``250k``, ``1.2m``, ``$1,284,500``, ``three``. Raises ValueTextError.

    >>> figure("1.2m"), figure("$1,284,500"), figure("250k"), figure("three")
    (Decimal('1200000'), Decimal('1284500'), Decimal('250000'), Decimal('3'))
    """
    text = text.strip()
    if (word := _WORDS.get(text.casefold())) is not None:
        return word
    match = _FIGURE.fullmatch(text)
    if not match or not (match[2] or match[3]):
        raise ValueTextError(text, _EXPECTED)
    number = Decimal((match[2] or "0").replace(",", "") + (match[3] or "")) * _SCALE[(match[4] or "").casefold()]
    if number >= 10**15:
        raise ValueTextError(text, "is larger than any figure on record")
    number = -number if match[1] and number else number
    return number.quantize(Decimal(1)) if number == number.to_integral_value() else number.normalize()


def is_figure(text: str) -> bool:
    """Return whether a text is one figure and no more."""
    try:
        figure(text)
    except ValueTextError:
        return False
    return True


def figure_text(number: Decimal) -> str:
    """Return a figure in plain digits."""
    return f"{number:f}"


def step_of(trait: Trait) -> Decimal:
    """Return the least by which two values of a trait differ."""
    return Decimal(1).scaleb(-trait.decimals)


@lru_cache(maxsize=512)
def _unit(trait: Trait) -> re.Pattern[str]:
    """Return what may stand behind a figure of a trait: its unit, its kind's, or its own name."""
    called = {trait.label, *trait.synonyms, trait.key.replace("-", " ")}
    # A county may call a column as it likes; a figure is none of its names.
    names = sorted((name for name in called if name[:1].isalpha() and not re.search(r"\d", name)), key=len, reverse=True)
    spellings = "|".join(filter(None, [_UNITS.get(trait.unit, ""), _OF_KIND.get(trait.kind, ""), *map(re.escape, names)]))
    if not spellings:
        return re.compile(r"(?!)")
    return re.compile(rf"(?<=[\dkm+.)])\s*(?:{spellings})(?!\w)|(?<=[a-z])\s+(?:{spellings})$", re.IGNORECASE)


def _fits_kind(trait: Trait, text: str) -> None:
    """Raise ValueTextError for percent of what is no percent, and dollars of what is no money."""
    if "%" in text and trait.kind is not Kind.PERCENT:
        held = "in dollars" if trait.kind is Kind.MONEY else f"in {trait.unit}" if trait.unit else "a number"
        other = f"; for percent ask {trait.in_percent}" if trait.in_percent else ""
        raise ValueTextError(text, f"is in percent, and {trait.label} is {held}{other}")
    if "$" in text and trait.kind is not Kind.MONEY:
        held = "in percent" if trait.kind is Kind.PERCENT else f"in {trait.unit}" if trait.unit else "a number"
        raise ValueTextError(text, f"is in dollars, and {trait.label} is {held}")


def _ask_about_scale(text: str, said: Bounds) -> None:
    """Raise ValueTextError for ``200-300k``: its first figure may be 200 or 200,000."""
    first, last = _FIGURE.fullmatch(said.low), _FIGURE.fullmatch(said.high)
    if ".." not in text and first and last and last[4] and not first[4] and (first[2] or first[3]) and figure(said.low):
        scale = last[4].casefold()[0]
        raise ValueTextError(
            text, f"can be {said.low}{'m' if scale == 'm' else 'k'}..{said.high} or {said.low}..{said.high}; write one of them"
        )


def figures(trait: Trait, text: str) -> Exactly | FigureRange:
    """Return what a text asks of a trait of figures. Raises ValueTextError.

    An end that is left out, as ``under`` and ``over`` do, is the next figure that the trait can have: below 3 beds is 2 or less.
    """
    written = " ".join(text.split())
    _fits_kind(trait, written)
    text = " ".join(_unit(trait).sub("", written).split())
    if not trait.grouped and (decade := _DECADE.fullmatch(text.casefold())) and not decade[1]:
        return FigureRange(Decimal(decade[2]), Decimal(decade[2]) + 9)
    said = bounds_of(text) if not _FIGURE.fullmatch(text) or text in ("", "-") else Bounds(value=text)
    if said.value:
        return Exactly(_stated(said.value, written))
    if not (said.low or said.above or said.high or said.below):
        raise ValueTextError(written, "has no end; write one such as 60.. or ..80")
    _ask_about_scale(text, said)
    step = step_of(trait)
    low = _stated(said.low, written) if said.low else None
    high = _stated(said.high, written) if said.high else None
    if said.above:
        low = (_stated(said.above, written) / step).to_integral_value(ROUND_FLOOR) * step + step
    if said.below:
        high = (_stated(said.below, written) / step).to_integral_value(ROUND_CEILING) * step - step
    if low is not None and high is not None and low > high:
        raise ValueTextError(written, "runs backwards; write the smaller figure first")
    return FigureRange(*(None if end is None else figure(figure_text(end)) for end in (low, high)))


def _stated(part: str, written: str) -> Decimal:
    try:
        return figure(part)
    except ValueTextError as error:
        raise ValueTextError(part if part in written else written, str(error).partition('" ')[2]) from None
