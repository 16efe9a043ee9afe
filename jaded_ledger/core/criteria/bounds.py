"""The words that bound a value, as people say them: ``3+``, ``at least 3``, ``under 300k``, ``2-3``, ``between 2 and 4``.

What stands between the words, a figure or a date, is for others to read.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

_FROM = r"at least|no less than|not less than|no fewer than|minimum(?: of)?|min\.?|starting (?:at|from)|from|since|on or after"
_ABOVE = (
    r"over|more than|above|greater than|exceeding|after|later than|newer than|higher than|longer than|bigger than|larger than|further than"
)
_UP_TO = r"at most|up to|no more than|not more than|not over|no later than|maximum(?: of)?|max\.?|until|till|through|by|on or before"
_BELOW = r"under|less than|fewer than|below|lower than|smaller than|before|prior to|earlier than|older than|shorter than"
_OR_MORE = r"or (?:more|better|above|over|greater|higher|up|later|after|newer|longer)|and (?:up|above|over|more|later|newer|after)"
_OR_LESS = r"or (?:less|fewer|under|below|lower|earlier|before|older|smaller|shorter)|and (?:under|below|less|fewer|earlier|before)"

_FORMS = tuple(
    re.compile(form, re.IGNORECASE)
    for form in (
        r"between\s+(?P<low>.+?)\s+and\s+(?P<high>.+)",
        r"from\s+(?P<low>.+?)\s+(?:to|through|thru|until)\s+(?P<high>.+)",
        r"(?P<low>.*?)\s*(?:\.\.|…)\s*(?P<high>.*)",
        rf"(?:(?:{_FROM})\s+|(?:>=|=>|≥)\s*)(?P<low>.+)",
        rf"(?:(?:{_ABOVE})\s+|>\s*)(?P<above>.+)",
        rf"(?:(?:{_UP_TO})\s+|(?:<=|=<|≤)\s*)(?P<high>.+)",
        rf"(?:(?:{_BELOW})\s+|<\s*)(?P<below>.+)",
        rf"(?P<low>\S.*?)\s*(?:\+|\s(?:{_OR_MORE}|plus|min(?:imum)?))",
        rf"(?P<high>\S.*?)\s+(?:{_OR_LESS}|max(?:imum)?|tops)",
        r"(?:(?:exactly|equal to|equals|just)\s+|=\s*)(?P<value>.+)",
        r"(?P<low>\S.*?)\s+(?:to|through|thru|-)\s+(?P<high>\S.*)",
        r"(?P<low>\S.*?)\s*–\s*(?P<high>\S.*)",
        r"(?P<low>[$\d][^\s-]*)-(?P<high>[$\d][^\s-]*)",
    )
)
_TOGETHER = re.compile(r"(.+?)\s+(?:and|but)\s+(.+)", re.IGNORECASE)


@dataclass(frozen=True)
class Bounds:
    """The ends that are said of a value, each as it is written: from ``low`` or above ``above``, to ``high`` or below ``below``.

    An end that is not said is blank. A value alone is ``value``.
    """

    low: str = ""
    above: str = ""
    high: str = ""
    below: str = ""
    value: str = ""

    @property
    def is_open_above(self) -> bool:
        """Whether only its lower end is said."""
        return bool(self.low or self.above) and not (self.high or self.below)


def bounds_of(text: str) -> Bounds:
    """Return what a text says of a value; without any bounding word it is a value alone.

    >>> bounds_of("at least 3"), bounds_of("300k")
    (Bounds(low='3', above='', high='', below='', value=''), Bounds(low='', above='', high='', below='', value='300k'))
    """
    text = text.strip()
    if both := _together(text):
        return both
    for form in _FORMS:
        if found := form.fullmatch(text):
            return Bounds(**{name: said.strip() for name, said in found.groupdict().items()})
    return Bounds(value=text)


def _together(text: str) -> Bounds | None:
    """Return both ends of what is said by two bounds, as *more than 3 but less than 5*."""
    both = _TOGETHER.fullmatch(text)
    if not both:
        return None
    first, second = bounds_of(both[1]), bounds_of(both[2])
    for lower, upper in ((first, second), (second, first)):
        if lower.is_open_above and (upper.high or upper.below) and not (upper.low or upper.above):
            return Bounds(low=lower.low, above=lower.above, high=upper.high, below=upper.below)
    return None
