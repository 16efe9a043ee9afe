"""An explanation: the rule, and the lines of a small ledger that lead to a figure, each with the rows it was read from."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import NamedTuple

from jaded_ledger.core.criteria.display import UNKNOWN, Shown, day_text, money_text
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.several_parcels import listed_numbers
from jaded_ledger.core.title.sales import Transfer


class Source(NamedTuple):
    """A recorded row: its kind, such as ``deed``, and its key."""

    kind: str
    key: int


@dataclass(frozen=True)
class Entry:
    """One line: what, how much (blank where there is nothing to add up), and why. ``is_sum`` lines are underlined."""

    label: str
    text: str = ""
    note: str = ""
    sources: tuple[Source, ...] = ()
    is_sum: bool = False


@dataclass(frozen=True)
class Explanation:
    """How a parcel's value of a trait came about. ``value`` is None where it is not known."""

    trait: Trait
    value: Shown
    rule: str
    entries: tuple[Entry, ...]


Explainer = Callable[[Findings, Trait], Iterator[Entry]]


def money(amount: Decimal | float | None) -> str:
    """Return an amount in whole dollars as a line has it."""
    if amount is None:
        return UNKNOWN
    text = money_text(Decimal(round(amount)))
    return text.replace("$-", "−$")


def figure(number: Decimal | float | None, unit: str = "") -> str:
    """Return a figure as a line has it."""
    if number is None:
        return UNKNOWN
    text = f"{float(number):,.2f}".rstrip("0").rstrip(".").replace("-", "−")
    return f"{text} {unit}".strip()


def day(when: date | None) -> str:
    """Return a day as a line has it."""
    return UNKNOWN if when is None else day_text(when)


def yes_no(answer: bool | None) -> str:
    """Return an answer as a line has it."""
    return UNKNOWN if answer is None else "yes" if answer else "no"


def counted(number: int, what: str) -> str:
    """Return how many of something there are, as a line has it: ``1 cut``, ``2 cuts``."""
    return f"{number} {what}{'' if number == 1 else 's'}"


def kind_text(kind: str) -> str:
    """Return the kind of a recorded row as a line begins with it."""
    words = kind.replace("-", " ")
    return "HOA" + words[3:] if words.startswith("hoa") else words.capitalize()


def not_on_file(found: Findings, *kinds: str) -> Iterator[Entry]:
    """Yield a line for each kind of record that the county has none of, so that nothing can be told."""
    for kind in kinds:
        if not found.county.has(kind):
            yield Entry(f"{kind.replace('-', ' ')} of {found.county.name}", UNKNOWN, "none are on file, so nothing is known of them")


def on_roll(found: Findings) -> tuple[Source, ...]:
    """Return the roll's row as a source."""
    return (Source("roll", found.roll.key),) if found.roll else ()


def part_of_price(sale: Transfer) -> Iterator[Entry]:
    """Yield a line for what of a price for several parcels is this one's."""
    covered = sale.covered
    if covered.others and sale.price is not None:
        how = f"{figure(covered.share * 100)} % by assessed value" if covered.share is not None else "one of them has no assessed value"
        note = f"{how}, of {money(sale.price)} for {covered.parcels:,} parcels, with {listed_numbers(covered.others)}"
        yield Entry("This parcel’s part of the price", money(sale.price_of_one), note, (Source("deed", sale.key),))
