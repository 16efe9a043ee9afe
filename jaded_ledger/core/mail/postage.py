"""What a mailing costs: postage by class, printing by form, and what each record costs. Money is in dollars."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields
from decimal import Decimal, InvalidOperation

DEAREST = Decimal(100)
"""No piece costs more."""


class PriceError(ValueError):
    """A price that can't be one; the message says why."""


@dataclass(frozen=True)
class Prices:
    """A team's price book, in dollars a piece; a team sets its own.

    The shipped postage is that of USPS Notice 123, Price List, as of July 13, 2025, from memory: a First-Class letter of one ounce and a
    First-Class postcard at the retail stamp price, commercial automation letters (mixed AADC) of First-Class and of Marketing Mail.
    Printing prices are round figures of ours.
    """

    first_class: Decimal = Decimal("0.78")
    sorted_first_class: Decimal = Decimal("0.593")
    postcard: Decimal = Decimal("0.61")
    marketing: Decimal = Decimal("0.433")
    print_labels: Decimal = Decimal("0.02")
    print_letters: Decimal = Decimal("0.11")
    print_postcards: Decimal = Decimal("0.09")
    print_envelopes: Decimal = Decimal("0.08")
    per_record: Decimal = Decimal("0")


LABELS: Mapping[str, str] = {
    "first_class": "postage, first class",
    "sorted_first_class": "postage, sorted first class",
    "postcard": "postage, postcard",
    "marketing": "postage, marketing mail",
    "print_labels": "printing a label",
    "print_letters": "printing a letter",
    "print_postcards": "printing a postcard",
    "print_envelopes": "printing an envelope",
    "per_record": "each record",
}
POSTAGE = ("first_class", "sorted_first_class", "postcard", "marketing")


@dataclass(frozen=True)
class CostLine:
    """So many at a price."""

    label: str
    count: int
    each: Decimal
    amount: Decimal = field(init=False)

    @property
    def each_text(self) -> str:
        """The price of one as it is written: dollars and cents, and what of a cent there is.

        >>> [CostLine("x", 1, Decimal(each)).each_text for each in ("0.5930", "0.1100", "2")]
        ['0.593', '0.11', '2.00']
        """
        return f"{self.each:.2f}" if self.each == round(self.each, 2) else f"{self.each.normalize():f}"

    def __post_init__(self) -> None:
        object.__setattr__(self, "amount", (self.count * self.each).quantize(Decimal("0.01")))


def prices_from(said: Mapping[str, object]) -> Prices:
    """Return prices as they were written, each a number of dollars. Raises PriceError."""
    found = {}
    for one in fields(Prices):
        if one.name not in said:
            continue
        text = str(said[one.name]).strip().removeprefix("$")
        try:
            price = Decimal(text)
        except InvalidOperation:
            raise PriceError(f"“{text[:20]}” is no price of {LABELS[one.name]}; write it as 0.593") from None
        if not (price.is_finite() and 0 <= price <= DEAREST):
            raise PriceError(f"the price of {LABELS[one.name]} goes from 0 to {DEAREST}; {text[:20]} does not")
        found[one.name] = price.quantize(Decimal("0.0001"))
    return Prices(**found)


def as_json(prices: Prices) -> dict[str, str]:
    """Return prices as ``prices_from`` reads them."""
    return {name: str(price) for name, price in asdict(prices).items()}


def cost(prices: Prices, postage: str, form: str, pieces: int, records: int) -> list[CostLine]:
    """Return what pieces of a form cost that go by a class of postage, and the records that they came from."""
    printing = f"print_{form}"
    lines = [
        CostLine(LABELS[printing].removesuffix(f" a {form.removesuffix('s')}").removesuffix(f" an {form.removesuffix('s')}"), pieces,
                 getattr(prices, printing)),
        CostLine(LABELS[postage], pieces, getattr(prices, postage)),
    ]  # fmt: skip
    return [*lines, CostLine("records", records, prices.per_record)] if prices.per_record else lines
