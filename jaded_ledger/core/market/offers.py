"""What a listing tells beside its price: the seller, competition among buyers, disagreement with the roll."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from jaded_ledger.core.market.listings import SpecialListingConditions, StandardStatus
from jaded_ledger.core.market.on_market import Listing
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.phrases import BETWEEN, expression
from jaded_ledger.core.words import prose_line

QUICK = 3
"""Days on the market that are few; common practice."""
_COMPETING = ("highest and best", "highest & best", "best and final", "best & final", "multiple offers", "offer deadline", "all offers to")
_OPPOSITE = "bring all offers"
"""An invitation to offer anything says that nobody competes."""


class Sign(StrEnum):
    """A sign that several buyers competed."""

    OVER_LIST = "at or above list"
    QUICK = "gone within days"
    SAID = "said in remarks"


def signs_of_competition(listing: Listing, days: int | None, remarks: Iterable[str]) -> tuple[Sign, ...]:
    """Return the signs of multiple offers on a listing, each named; common practice.

    Closed at or above list, at most three days on the market before it closed or went under contract, or what its
    remarks say.
    """
    return tuple(_signs(listing, days, list(remarks)))


def _signs(listing: Listing, days: int | None, remarks: list[str]) -> Iterator[Sign]:
    is_closed = listing.status == StandardStatus.CLOSED
    if is_closed and listing.close_price is not None and listing.list_price is not None and listing.close_price >= listing.list_price:
        yield Sign.OVER_LIST
    taken = is_closed or listing.status in (StandardStatus.PENDING, StandardStatus.ACTIVE_UNDER_CONTRACT)
    if taken and days is not None and days <= QUICK:
        yield Sign.QUICK
    if any(says_of_competition(text) for text in remarks):
        yield Sign.SAID


def says_of_competition(text: str) -> bool:
    """Return whether remarks speak of several buyers.

    >>> says_of_competition("Highest & best by Monday"), says_of_competition("Bring all offers to the table!")
    (True, False)
    """
    line = re.sub(expression(_OPPOSITE), BETWEEN, prose_line(text))
    return any(re.search(expression(phrase), line) for phrase in _COMPETING)


class SellerKind(StrEnum):
    """Whose a listed property is, where that is not a person's."""

    PRIVATE = "private"
    ESTATE = "estate"
    BANK = "bank"
    GOVERNMENT = "government"


_BY_CONDITIONS = {
    SpecialListingConditions.PROBATE_LISTING: SellerKind.ESTATE,
    SpecialListingConditions.REAL_ESTATE_OWNED: SellerKind.BANK,
    SpecialListingConditions.HUD_OWNED: SellerKind.GOVERNMENT,
}
_BY_KIND = {OwnerKind.ESTATE: SellerKind.ESTATE, OwnerKind.LENDER: SellerKind.BANK, OwnerKind.GOVERNMENT: SellerKind.GOVERNMENT}


def seller_kind(conditions: str, seller: str | None) -> SellerKind | None:
    """Return whose a listed property is, from the listing's conditions, else from the seller's name; None where neither says."""
    if conditions in _BY_CONDITIONS:
        return _BY_CONDITIONS[SpecialListingConditions(conditions)]
    if not seller:
        return None
    return _BY_KIND.get(OwnerKind(seller), SellerKind.PRIVATE)


@dataclass(frozen=True)
class Disagreement:
    """A figure that the roll and the listing give differently."""

    what: str
    roll: float
    listing: float


def disagreements(pairs: Iterable[tuple[str, float | Decimal | None, float | Decimal | None]]) -> tuple[Disagreement, ...]:
    """Return where two sources differ, of those figures that both give."""
    return tuple(
        Disagreement(what, float(one), float(other)) for what, one, other in pairs if one is not None and other is not None and one != other
    )
