"""A document that covers several parcels: its amount is of all of them, and one parcel's part is told by assessed value."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import NamedTuple


class Covered(NamedTuple):
    """One parcel's part of a document: the numbers of the other parcels, and its share, None where it can't be told."""

    others: tuple[str, ...] = ()
    share: Decimal | None = Decimal(1)

    @property
    def parcels(self) -> int:
        """How many parcels the document covers."""
        return len(self.others) + 1

    def part_of(self, amount: Decimal | None) -> Decimal | None:
        """Return the parcel's part of the document's amount; None where the amount or the share is not known."""
        return None if amount is None or self.share is None else amount * self.share


ALONE = Covered()
"""A document of one parcel."""
_FEW = 5
"""How many parcel numbers are listed."""


def covered_by(assessed: Mapping[str, Decimal | None]) -> dict[str, Covered]:
    """Return each parcel's part of a document from the assessed values of all that it covers, by parcel number.

    No share is known where one of them has no assessed value above 0: common practice.

    >>> covered_by({"1": Decimal(30), "2": Decimal(90)})["2"]
    Covered(others=('1',), share=Decimal('0.75'))
    >>> covered_by({"1": Decimal(30), "2": None})["1"].share is None
    True
    """
    values = [value for value in assessed.values() if value]
    total = sum(values, Decimal(0)) if len(values) == len(assessed) else None
    return {
        number: Covered(tuple(sorted(assessed.keys() - {number})), (value or Decimal(0)) / total if total else None)
        for number, value in assessed.items()
    }


def listed_numbers(numbers: Sequence[str]) -> str:
    """Return parcel numbers as a reader has room for: the first few, and how many more.

    >>> listed_numbers(["1", "2", "3", "4", "5"]), listed_numbers(["1", "2", "3", "4", "5", "6"])
    ('1, 2, 3, 4, 5', '1, 2, 3, 4 and 2 more')
    """
    few = list(numbers) if len(numbers) <= _FEW else [*numbers[: _FEW - 1]]
    more = len(numbers) - len(few)
    return ", ".join(few) + (f" and {more:,} more" if more else "")
