"""What agents write about houses: phrases with a meaning, abbreviations, and the same letters inside innocent words."""

from __future__ import annotations

import re
from random import Random

_OPENINGS = (
    "Step inside this {adj} {beds} BR {kind} on a quiet block.", "{adj} {kind} close to it all!", "WELCOME HOME to this {adj} {kind}.",
    "Rare find: {adj} {kind} with orig woodwork.", "First time on the market in decades.", "Corner lot, {beds} bdrm, big windows.",
    "Well kept {kind} w/ newer furnace & roof.", "Solid {kind}, {beds} BRs, hdwd flrs thruout.",
)  # fmt: skip
_BEDS = re.compile(r" ?\{beds\} (?:BRs?|bdrm),?")
"""What an opening says of the bedrooms, where it does."""
_ADJECTIVES = ("charming", "spacious", "bright", "sturdy", "well-loved", "updated", "handsome", "tidy")
_INNOCENT = (
    "Stereo system stays.", "A Creole cook once lived next door.", "Plenty of room to grow vegetables.",
    "Oreosky family garden is across the way.", "New compost bins and a short sales walk to shops.", "Seller to provide list of updates.",
    "Bank of windows faces south.", "Estate-sized yard.", "As is plain to see, the kitchen shines.",
    "Motivated gardeners will love the beds.",
    "Hatmaker once had her shop here; all light fixtures stay.", "Multiple closets, offers great light.",
)  # fmt: skip
_PLAIN = (
    "Full bsmt w/ glass block windows.", "1st flr laundry.", "Newer mechanicals.", "Fenced yd.", "2 c gar.", "Walk to the harbor.",
    "Updated electric, 200 amp.", "Enclosed porch, orig built-ins.", "Low taxes.", "Near schools and parks.", "Cov'd patio.",
)  # fmt: skip
_MEANING = {
    "estate": ("ESTATE SALE.", "Sold by the estate, personal rep to sign.", "Heirs say sell!",
    "Being sold to settle an estate; probate sale."),
    "bank-owned": ("Bank owned, sold AS IS, WHERE IS.", "Lender owned. No disclosures.", "REO, addenda req'd.",
    "Corporate owned; sold as-is."),
    "as-is": ("Sold AS IS.", "Needs TLC.", "Bring your hammer; needs work.", "Handyman special!", "Cash or rehab loan only.",
    "In need of total rehab."),
    "motivated": ("SELLER MOTIVATED.", "Bring all offers!", "Motivated seller, price reduced.",
    "Must sell. All reasonable offers considered.", "Make offer!"),
    "multiple": (
        "Multiple offers in hand; highest and best by Mon 5 pm.", "Offer deadline Sunday noon.", "All offers to listing agent by Tues.",
        "Multiple offers received, no more showings.",
    ),
    "income": ("Great cash flow: upper rents at 875.", "Live in one, rent the other.", "Tenant pays all utilities, lower month-to-month.",
    "Possible in-law suite."),
    "terms": ("Land contract possible.", "Seller will finance w/ 20 % down.", "Lease to own considered.", "Assumable loan!"),
    "split": ("Extra lot included, may be split.", "Dbl lot w/ development potential; buyer to verify zoning."),
    "vacant": ("Vacant, easy to show.", "Immediate occupancy.", "Winterized; do not use water."),
    "power": ("P.O.A. will sign for seller.", "Sold under power of sale by the trustee.", "Guardian's sale, court approval req'd."),
}  # fmt: skip
_PRIVATE = (
    "24 hrs notice, pls.", "Lockbox on rear door.", "Seller prefers quick close.", "Call listing agent w/ questions.", "Dog in yard.",
    "Relocating, will look at any offer.", "Buyer to assume city orders.", "Sellers are separating; bring offers.",
    "Tax liens to be paid at closing.",
)  # fmt: skip
_FURTHER = (
    "Photos to follow.",
    "See attached survey.",
    "Office: referral due on closing.",
    "Coming back on the market after failed financing.",
    "Withdrawn once, relisted.",
)


def public(rng: Random, kind: str, beds: int | None, meanings: list[str]) -> str:
    """Return what buyers read."""
    opening, adjective = rng.choice(_OPENINGS), rng.choice(_ADJECTIVES)
    if not beds:
        opening = _BEDS.sub("", opening)
    parts = [opening.format(adj=adjective, kind=kind.replace("-", " "), beds=beds)]
    parts += rng.sample(_PLAIN, 2)
    parts += [rng.choice(_MEANING[meaning]) for meaning in meanings if meaning in _MEANING]
    if rng.random() < 0.3:
        parts.append(rng.choice(_INNOCENT))
    text = " ".join(parts)
    return text.upper() if rng.random() < 0.06 else text


def private(rng: Random) -> str:
    """Return what agents read."""
    return rng.choice(_PRIVATE) if rng.random() < 0.7 else ""


def further(rng: Random) -> str:
    """Return what one office reads."""
    return rng.choice(_FURTHER) if rng.random() < 0.2 else ""
