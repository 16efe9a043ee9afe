"""The shipped phrase book: phrases that listings' remarks use, by what they tell. The wording is our own (common practice)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class PhraseGroup:
    """Phrases for one purpose. ``refused`` are those that hold one of them and mean something else."""

    key: str
    name: str
    purpose: str
    phrases: tuple[str, ...]
    refused: tuple[str, ...] = ()


PHRASE_BOOK = (
    PhraseGroup(
        "motivated", "Motivated seller", "the seller wants it sold, and soon",
        ("motivated", "must sell", "needs to sell", "priced to sell", "price reduced", "bring all offers", "bring offers",
         "all offers considered", "make an offer", "quick sale", "quick clos*", "relocat*", "below appraisal", "seller says sell"),
        ("not motivated", "no motivated"),
    ),
    PhraseGroup(
        "needs-work", "Needs work", "repairs or renovation are due",
        ("needs work", "needs tlc", "t.l.c.", "fixer*", "fixer upper", "handyman*", "needs updat*", "needs repair*", "needs renovat*",
         "in need of repair*", "in need of updat*", "deferred maintenance", "sweat equity", "unfinished", "water damage*",
         "fire damage*", "foundation issue*", "bring your tools", "rehab*", "gut*"),
        ("no deferred maintenance", "gutter*", "unfinished basement", "rehabbed", "needs no work", "no rehab needed"),
    ),
    PhraseGroup(
        "as-is", "As is", "sold in the condition that it is in",
        ("as is", "as is where is", "where is", "no repairs", "seller will make no repairs", "no warrant*", "present condition",
         "current condition"),
        ("not as is", "no repairs needed"),
    ),
    PhraseGroup(
        "estate", "Estate", "heirs or an estate sell",
        ("estate sale", "estate of", "estate owned", "probate", "heirs", "personal representative", "executor*", "trustee sale",
         "inherited", "court approval"),
        ("real estate of", "no probate"),
    ),
    PhraseGroup(
        "lender-owned", "Lender-owned", "a lender has it and sells it",
        ("lender owned", "bank owned", "r.e.o.", "foreclosed", "foreclosure", "corporate owned", "special warranty deed",
         "lender approval", "subject to bank approval", "short sale"),
        ("not a short sale", "not a foreclosure", "no foreclosure", "not bank owned", "not lender owned"),
    ),
    PhraseGroup(
        "power-of-sale", "Power of sale", "a lender or trustee sells under its power to",
        ("power of sale", "under power of sale", "sold under power", "trustee s sale", "sold by the lender under its power"),
        ("no power of sale",),
    ),
    PhraseGroup(
        "terms", "Lease to own, seller finance", "paid otherwise than with a new loan and cash",
        ("lease to own", "rent to own", "lease option", "lease purchase", "owner financ*", "seller financ*", "owner will carry",
         "seller will carry", "owner carry", "land contract", "contract for deed", "assumable", "subject to existing mortgage",
         "vendor take back", "v.t.b."),
        ("no owner financ*", "no seller financ*", "not assumable", "no land contract*"),
    ),
    PhraseGroup(
        "income", "Income, second unit", "it is let, or has a second dwelling",
        ("income property", "investment property", "rental income", "tenant occupied", "tenants in place", "currently rented",
         "currently leased", "cash flow*", "cap rate", "rent roll", "second unit", "in law suite", "in law apartment",
         "accessory dwelling", "granny flat*", "granny suite", "a.d.u.", "mother in law", "guest house", "separate entrance",
         "basement apartment", "duplex"),
        ("no tenants", "no rental income", "not a duplex"),
    ),
    PhraseGroup(
        "land", "Split and development", "the land may take more than stands on it",
        ("possible split", "may be split", "can be split", "lot split", "subdivid*", "severance", "double lot", "extra lot", "two lots",
         "developers", "development potential", "redevelop*", "tear down", "teardown", "build to suit", "zoned multi*",
         "zoned commercial", "rezon*", "plans available"),
        ("no subdivid*", "cannot be subdivid*", "can not be subdivid*", "no severance", "split level", "split foyer", "newly subdivid*"),
    ),
    PhraseGroup(
        "competition", "Multiple offers", "several buyers want it",
        ("multiple offers", "several offers", "highest and best", "highest & best", "best and final", "best & final",
         "offers due", "offers reviewed", "offer deadline",
         "bidding war", "escalation clause*", "presentation of offers"),
        ("no multiple offers", "no offers reviewed on sunday"),
    ),
    PhraseGroup(
        "empty", "Vacant, easy to show", "nobody lives there",
        ("vacant", "unoccupied", "move in now", "immediate possession", "immediate occupancy", "possession at closing", "keys at office",
         "winterized", "utilities off"),
        ("not vacant", "vacant land", "vacant lot*"),
    ),
)  # fmt: skip
"""What is shipped, in the order in which it is offered. Teams change it and add to it."""
