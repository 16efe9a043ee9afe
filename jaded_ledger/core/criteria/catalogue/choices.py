"""The declared values of choice and set traits. A code is what is stored; none is ever given to another word."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

from jaded_ledger.core.criteria.traits import Choice, Umbrella
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
    Choice(1, "single-family", ("house", "detached house", "single family residence", "single family home", "sfr", "sfh")),
    Choice(2, "duplex", ("two-family", "two-flat", "2-flat", "2-family", "two unit")),
    Choice(3, "triplex", ("three-family", "three-flat", "3-flat", "3-family")),
    Choice(4, "fourplex", ("four-family", "four-plex", "4-plex", "quadplex", "quadruplex", "quad", "four-flat", "4-family")),
    Choice(5, "apartments", ("apartment", "apartment building", "five units and more", "5 units or more")),
    Choice(6, "condominium", ("condo", "strata")),
    Choice(7, "townhouse", ("townhome", "town house", "row house", "rowhouse")),
    Choice(8, "manufactured", ("mobile home", "manufactured home", "mobile", "trailer")),
    Choice(9, "residential-lot", ("vacant lot", "building lot", "lot")),
    Choice(10, "commercial", ("shop", "office", "retail", "store")),
    Choice(11, "industrial", ("warehouse",)),
    Choice(12, "agricultural", ("farm", "farmland", "agriculture")),
    Choice(13, "woodland", ("forest", "woods")),
    Choice(14, "exempt", ("church", "school", "government")),
)
CLASS_UMBRELLAS = (
    Umbrella("residential", ("single-family", "duplex", "triplex", "fourplex", "apartments", "condominium", "townhouse", "manufactured"),
             ("dwelling", "home", "homes")),
    Umbrella("multi-family", ("duplex", "triplex", "fourplex", "apartments"),
             ("multifamily", "multi family", "residential income", "two units and more", "two units or more", "plex")),
    Umbrella("one-to-four-units", ("single-family", "townhouse", "duplex", "triplex", "fourplex"),
             ("1-4 units", "1 to 4 units", "1-4 family", "one to four family")),
    Umbrella("land", ("residential-lot", "agricultural", "woodland"), ("vacant land", "acreage tract")),
)  # fmt: skip
"""Common practice; what counts as residential lending calls so, but for the number of units."""
OWNER_KINDS = declared(
    OwnerKind,
    also={
        OwnerKind.INDIVIDUAL: ("person", "one person"),
        OwnerKind.COUPLE: ("two people", "husband and wife", "married couple"),
        OwnerKind.COMPANY: ("llc", "llc owned", "corporation", "corporate", "corporate owned", "corporate owner", "business"),
        OwnerKind.TRUST: ("living trust", "trustee", "trust owned"),
        OwnerKind.ESTATE: ("heirs", "deceased", "estate owned", "deceased owner"),
        OwnerKind.LENDER: ("bank",),
        OwnerKind.GOVERNMENT: ("city", "state", "public"),
        OwnerKind.NON_PROFIT: ("church", "charity"),
    },
)
KIND_UMBRELLAS = (
    Umbrella("people", ("individual", "couple", "several-people"), ("persons", "private owners", "natural persons")),
    Umbrella("companies", ("company", "lender"), ("businesses", "corporations", "llcs")),
)
NOBODY = "nobody"
ROLES = (
    Choice(0, NOBODY),
    *declared(
        Role,
        also={
            Role.CARE_OF: ("c/o", "in care of"),
            Role.EXECUTOR: ("personal representative", "administrator", "executrix"),
            Role.GUARDIAN: ("conservator",),
            Role.ATTORNEY_IN_FACT: ("power of attorney", "poa"),
        },
    ),
)
HOUSE_SIDES = (Choice(1, "odd"), Choice(2, "even"))
TENURES = declared(Tenure)
AMENITIES = declared(Amenity)
ACQUIRED = declared(Acquired, also={Acquired.INHERITANCE: ("inherited",), Acquired.GIFT: ("family transfer",)})
LOAN_KINDS = (*declared(LoanKind), Choice(len(LoanKind) + 1, "not-stated"))
DEEDS = declared(
    DeedType,
    also={
        DeedType.WARRANTY: ("warranty deed", "general warranty"),
        DeedType.QUITCLAIM: ("quit claim", "quit claim deed", "quitclaim deed"),
        DeedType.TRUSTEE: ("trustee's deed",),
        DeedType.SHERIFF: ("sheriff's deed",),
        DeedType.TAX: ("tax deed",),
    },
)
CASE_STATUSES = declared(CaseStatus, or_none=True)
STAGES = declared(
    (step for step in ForeclosureStepKind if step not in (ForeclosureStepKind.REINSTATED, ForeclosureStepKind.DISMISSED)),
    or_none=True,
    also={
        ForeclosureStepKind.NOTICE_OF_DEFAULT: ("nod", "default notice"),
        ForeclosureStepKind.LIS_PENDENS: ("lis pendens filed", "lp"),
        ForeclosureStepKind.SALE_SCHEDULED: ("scheduled sale", "notice of sale", "sale set"),
        ForeclosureStepKind.BANK_OWNED: ("reo", "real estate owned", "lender owned"),
    },
)
STAGE_UMBRELLAS = (
    Umbrella("pre-foreclosure", ("notice-of-default", "lis-pendens", "judgment", "sale-scheduled", "sale-postponed"),
             ("preforeclosure", "in foreclosure", "before the sale")),
)  # fmt: skip
AUCTION_KINDS = (Choice(0, NONE), Choice(1, "foreclosure"), Choice(2, "tax"), Choice(3, "estate"), Choice(4, "voluntary"))
AUCTION_RESULTS = (*declared(AuctionStatus, or_none=True), Choice(len(AuctionStatus) + 1, key_of(Result.UNKNOWN), ("unknown result",)))
SIGNALS = declared(SignalKind)
SIGNAL_UMBRELLAS = (
    Umbrella("tax-trouble", ("tax-delinquent", "tax-suit", "tax-judgment"), ("tax troubles", "tax distress")),
    Umbrella("pre-foreclosure-signs", ("notice-of-default", "lis-pendens", "foreclosure-judgment", "foreclosure-auction")),
)
OFFERS = declared(
    Offer,
    or_none=True,
    also={Offer.OWNER_FOR_SALE: ("for sale by owner", "fsbo", "by owner"), Offer.OWNER_FOR_RENT: ("for rent by owner", "frbo")},
)
ON_OFFER = (
    Choice(1, "for-sale"), Choice(2, "for-rent", ("to let",)), Choice(3, "sale-pending"), Choice(4, "rental-pending"),
    Choice(5, "sale-on-hold"), Choice(6, "rental-on-hold"),
)  # fmt: skip
"""On the market is for sale and for rent: coming soon or active. What is under contract or on hold is not."""
STATUSES = declared(
    StandardStatus,
    also={
        StandardStatus.CANCELED: ("cancelled", "terminated"),
        StandardStatus.ACTIVE_UNDER_CONTRACT: ("under contract", "contingent"),
        StandardStatus.CLOSED: ("sold listing", "sold"),
        StandardStatus.HOLD: ("on hold",),
    },
)
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
