"""The declared values of choice and set traits. A code is what is stored; none is ever given to another word."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

from jaded_ledger.core.criteria.traits import Choice
from jaded_ledger.core.distress.filings import AuctionStatus, CaseStatus, ForeclosureStepKind
from jaded_ledger.core.distress.signals import Result, SignalKind
from jaded_ledger.core.finance.loans import LoanKind
from jaded_ledger.core.market.listings import Offer, StandardStatus
from jaded_ledger.core.market.offers import SellerKind, Sign
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.ownership.names import Role
from jaded_ledger.core.property import Amenity, Tenure
from jaded_ledger.core.title.holding import Acquired
from jaded_ledger.core.title.sales import DeedType

NONE = "none"
"""The key of a choice that says that there is none; its code is 0."""


def key_of(word: str) -> str:
    """Return a vocabulary's word as it is typed: ``Active Under Contract`` becomes ``active-under-contract``."""
    return "-".join(word.casefold().replace("’", "").replace(",", "").split())


def declared(words: Iterable[StrEnum], *, or_none: bool = False, also: dict[StrEnum, tuple[str, ...]] | None = None) -> tuple[Choice, ...]:
    """Return a vocabulary as choices, numbered from 1 in its order."""
    found = [Choice(code, key_of(word), (also or {}).get(word, ())) for code, word in enumerate(words, start=1)]
    return (Choice(0, NONE), *found) if or_none else tuple(found)


CLASSES = (
    Choice(1, "single-family", ("house", "single family", "sfr")),
    Choice(2, "duplex", ("two-family", "two-flat", "2-flat")),
    Choice(3, "triplex", ("three-family", "three-flat")),
    Choice(4, "fourplex", ("four-family", "quadplex", "four-flat")),
    Choice(5, "apartments", ("multifamily", "multi-family")),
    Choice(6, "condominium", ("condo",)),
    Choice(7, "townhouse", ("row house",)),
    Choice(8, "manufactured", ("mobile home",)),
    Choice(9, "residential-lot", ("vacant lot", "vacant land")),
    Choice(10, "commercial", ("shop", "office")),
    Choice(11, "industrial", ("warehouse",)),
    Choice(12, "agricultural", ("farm", "farmland")),
    Choice(13, "woodland", ("forest", "woods")),
    Choice(14, "exempt", ("church", "school", "government")),
)
OWNER_KINDS = declared(
    OwnerKind,
    also={
        OwnerKind.INDIVIDUAL: ("person",),
        OwnerKind.COUPLE: ("two people",),
        OwnerKind.COMPANY: ("llc", "corporation", "corporate", "business"),
        OwnerKind.TRUST: ("living trust", "trustee"),
        OwnerKind.ESTATE: ("heirs", "deceased"),
        OwnerKind.LENDER: ("bank",),
        OwnerKind.GOVERNMENT: ("city", "state", "public"),
        OwnerKind.NON_PROFIT: ("church", "charity"),
    },
)
NOBODY = "nobody"
ROLES = (Choice(0, NOBODY), *declared(Role))
HOUSE_SIDES = (Choice(1, "odd"), Choice(2, "even"))
TENURES = declared(Tenure)
AMENITIES = declared(Amenity)
ACQUIRED = declared(Acquired, also={Acquired.INHERITANCE: ("inherited",), Acquired.GIFT: ("family transfer",)})
LOAN_KINDS = (*declared(LoanKind), Choice(len(LoanKind) + 1, "not-stated"))
DEEDS = declared(DeedType)
CASE_STATUSES = declared(CaseStatus, or_none=True)
STAGES = declared(
    (step for step in ForeclosureStepKind if step not in (ForeclosureStepKind.REINSTATED, ForeclosureStepKind.DISMISSED)),
    or_none=True,
    also={ForeclosureStepKind.BANK_OWNED: ("reo",)},
)
AUCTION_KINDS = (Choice(0, NONE), Choice(1, "foreclosure"), Choice(2, "tax"), Choice(3, "estate"), Choice(4, "voluntary"))
AUCTION_RESULTS = (*declared(AuctionStatus, or_none=True), Choice(len(AuctionStatus) + 1, key_of(Result.UNKNOWN), ("unknown result",)))
SIGNALS = declared(SignalKind)
OFFERS = declared(Offer, or_none=True, also={Offer.OWNER_FOR_SALE: ("for sale by owner",), Offer.OWNER_FOR_RENT: ("for rent by owner",)})
ON_OFFER = (Choice(1, "for-sale"), Choice(2, "to-let", ("for rent",)))
STATUSES = declared(StandardStatus)
SELLER_KINDS = declared(SellerKind)
OCCUPANTS = (Choice(1, "owner"), Choice(2, "tenant"), Choice(3, "vacant"))
SIGNS = declared(Sign)
DISAGREEMENTS = tuple(
    Choice(code, key)
    for code, key in enumerate(
        ("beds", "baths", "living-area", "lot", "year-built", "stories", "garage", "main-floor-beds", "pool"), start=1
    )
)
GRADES = tuple(Choice(code, grade) for code, grade in enumerate("abcd", start=1))
