"""The starter searches that ship with the product: what each is for, and which limits it asks for. The choice is common practice."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.phrase_book import PHRASE_BOOK
from jaded_ledger.core.criteria.proposals import Share
from jaded_ledger.core.criteria.search import Criterion, Line, Members, Quantity, Search
from jaded_ledger.core.criteria.text import line_text, parse
from jaded_ledger.core.criteria.traits import Kind

OWNERS, DISTRESS, ESTATES = "Owners", "Distress", "Estates"
MARKET, INVESTORS, LAND, WORDS = "On the market", "Investors", "Land and water", "By what the listing says"
_GROUPS = {group.key: group for group in PHRASE_BOOK}


@dataclass(frozen=True)
class Starter:
    """A search that is copied when it is changed. ``proposals`` are of what it asks, in order: a share of the values, or a text."""

    key: str
    name: str
    purpose: str
    sentence: str
    text: str
    proposals: tuple[Share | str, ...] = ()

    @property
    def search(self) -> Search:
        return parse(self.text)

    @property
    def columns(self) -> tuple[str, ...]:
        """The owner, and what differs between those it finds."""
        traits = [CATALOGUE[one.trait] for line in self.search.lines for one in line.members()]
        return tuple(
            dict.fromkeys(("owner-name", *(trait.key for trait in traits if trait.kind is not Kind.FLAG and trait.key != "on-offer")))
        )


def _said(key: str, *more: str) -> str:
    """Return the line that looks for the phrases of a group of the phrase book, and more of them, in remarks."""
    group = _GROUPS[key]
    refused = (Members(Quantity.ANY, group.refused),) if group.refused else ()
    return line_text(Criterion("remarks", (Members(Quantity.ANY, group.phrases + more),), refused))


_FOR_SALE = 'on-offer: any of "for-sale"'

STARTERS = (
    Starter(
        "absentee-equity", "Absentee with high equity", OWNERS,
        "The owner lives elsewhere and owes little: free to sell, and not bound to the house.",
        "class: residential\nowner-occupied: no\nequity-pct: ask", (Share(0.85),),
    ),
    Starter(
        "long-held-clear", "Long held, free and clear", OWNERS,
        "Owned for many years with no loan open, so that a sale pays out in full.",
        "class: residential\nyears-owned: ask\nfree-and-clear: yes", (Share(0.25),),
    ),
    Starter(
        "owners-of-several", "Owners of several", OWNERS,
        "Whoever owns several parcels may part with one, or with all of them.",
        "owner-kind: individual, couple, several-people, company, trust\nparcels-owned: ask", ("3..",),
    ),
    Starter(
        "tired-landlords", "Tired landlords", OWNERS,
        "An owner elsewhere, for long, with a let house and its troubles.",
        "tired-landlord: yes",
    ),
    Starter(
        "tax-suit", "Unpaid tax with suit", DISTRESS,
        "Tax is due, and the county has gone to court for it.",
        "tax-suit: filed, judgment\ntax-due: ask", (Share(0.5),),
    ),
    Starter(
        "pre-foreclosure-equity", "Pre-foreclosure with equity", DISTRESS,
        "A foreclosure is open and not yet sold, and what is left above the loans is worth saving.",
        "foreclosure-stage: pre-foreclosure\nequity-pct: ask", (Share(0.5),),
    ),
    Starter(
        "auctions-ahead", "Auctions ahead", DISTRESS,
        "To be auctioned soon, whether for a loan, for tax or by an estate.",
        "auction: ask\nauction-result: scheduled, postponed", ("next 90 days",),
    ),
    Starter(
        "power-of-sale", "Sold under a power of sale", DISTRESS,
        "A lender or trustee sells under its power to: by the seller, by the wording, or by the schedule that is attached.",
        f"{_FOR_SALE}\nany of:\n  seller-kind: lender\n  "
        + _said("power-of-sale", "schedule a", "schedule attached", "attached schedule*", "see schedule*"),
    ),
    Starter(
        "lender-government", "Lender- and government-owned", DISTRESS,
        "A bank or a public body holds it, and has no use for it.",
        "class: residential, land\nany of:\n  owner-kind: lender, government\n  ownership: bank, government\n"
        "  foreclosure-stage: bank-owned",
    ),
    Starter(
        "short-sales", "Short sales", DISTRESS,
        "Offered for less than is owed, subject to the lender.",
        f"{_FOR_SALE}\nshort-sale: yes",
    ),
    Starter(
        "estates-inherited", "Estates and inherited", ESTATES,
        "An estate owns it, a probate case is open, or the owner inherited it.",
        "any of:\n  owner-kind: estate\n  probate: any\n  inherited: any",
    ),
    Starter(
        "executor-selling", "Executor or attorney-in-fact selling", ESTATES,
        "Somebody sells in the owner’s place, who as a rule wants it done.",
        f"{_FOR_SALE}\nseller-role: executor, attorney-in-fact, guardian",
    ),
    Starter(
        "vacant-long", "Vacant and long on the market", MARKET,
        "Nobody lives there, and it has been for sale for long, earlier listings counted.",
        f"{_FOR_SALE}\nany of:\n  vacancy: any\n  occupant: vacant\ncumulative-days: ask", (Share(0.5),),
    ),
    Starter(
        "expired-lately", "Lately expired", MARKET,
        "The listing ran out without a sale: the owner wanted to sell, and may still.",
        "status: expired\nstatus-since: ask", ("last 90 days",),
    ),
    Starter(
        "expired-long-ago", "Expired long ago", MARKET,
        "It did not sell then, and was not offered again; few still call.",
        "status: expired\nstatus-since: ask", ("more than 1 year ago",),
    ),
    Starter(
        "by-owner", "For sale or to let by the owner", MARKET,
        "Offered without an agent.",
        'on-offer: any of "for-sale", "for-rent"\n' "offer: by-owner-for-sale, by-owner-for-rent",
    ),
    Starter(
        "cut-twice", "Price cut more than once", MARKET,
        "The seller has come down twice or more, and may again.",
        f"{_FOR_SALE}\nprice-cuts: 2..",
    ),
    Starter(
        "under-assessed", "Listed well under assessed", MARKET,
        "The price asked is far below what the assessor takes it to be worth.",
        f"{_FOR_SALE}\nlist-to-assessed: ask", (Share(0.25, is_most=True),),
    ),
    Starter(
        "under-median-yield", "Below the area’s median, with yield", MARKET,
        "Cheaper than its like in the area, and its rent would bring much for the price.",
        f"{_FOR_SALE}\npercent-of-median: ask\nasking-yield: ask", (Share(0.5, is_most=True), Share(0.5)),
    ),
    Starter(
        "fast-over-asking", "Sold fast, over asking", MARKET,
        "Closed above the list price within days: where several buyers want the same.",
        "status: closed\nsale-to-list: 100.1..\ndays-on-market: ask", (Share(0.25, is_most=True),),
    ),
    Starter(
        "cash-people", "Active cash buyers: people", INVESTORS,
        "People who bought of late without a loan, and may buy again.",
        "owner-kind: people\ncash-purchase: yes\nlast-sale: ask", ("last 12 months",),
    ),
    Starter(
        "cash-companies", "Active cash buyers: companies", INVESTORS,
        "Companies that bought of late without a loan, and may buy again.",
        "owner-kind: company\ncash-purchase: yes\nlast-sale: ask", ("last 12 months",),
    ),
    Starter(
        "raw-land-out-of-state", "Raw land owned out of state", LAND,
        "Nothing is built on it, and whoever owns it lives in another state.",
        "raw-land: yes\nout-of-state: yes",
    ),
    Starter(
        "wide-lots", "Wide lots that split", LAND,
        "The ground would make two lots or more, and its front is wider than usual there.",
        "possible-lots: 2..\nfrontage-of-usual: ask", (Share(0.25),),
    ),
    Starter(
        "waterfront-elsewhere", "Waterfront, owner elsewhere", LAND,
        "On the water, and the owner’s mail goes to another county.",
        "waterfront: yes\nout-of-county: yes",
    ),
    Starter(
        "needs-work", "Needs work", WORDS,
        "The remarks say that repairs or renovation are due.",
        f"{_FOR_SALE}\n{_said('needs-work')}",
    ),
    Starter(
        "terms", "Lease to own, or seller financing", WORDS,
        "The remarks offer to be paid otherwise than with a new loan and cash.",
        f"{_FOR_SALE}\n{_said('terms')}",
    ),
    Starter(
        "income", "Income and second unit", WORDS,
        "The remarks tell of rent, or of a second dwelling.",
        f"{_FOR_SALE}\n{_said('income')}",
    ),
    Starter(
        "development", "Development and split", WORDS,
        "The remarks hold out that the land takes more than stands on it.",
        f"{_FOR_SALE}\n{_said('land')}",
    ),
)  # fmt: skip
"""In the order in which they are offered, those of one purpose together."""
BY_KEY = {one.key: one for one in STARTERS}


def _asks_all_of(search: Search, starter: Starter) -> bool:
    """Whether a search has every line of a starter; what that leaves to be asked may have been answered in any way."""
    asked = {one.trait for one in search}

    def holds(line: Line) -> bool:
        if line in search.lines:
            return True
        return any(one.ask for one in line.members()) and all(one.trait in asked for one in line.members())

    return all(holds(line) for line in starter.search.lines)


def starter_of(search: Search) -> Starter | None:
    """Return the starter that a search is made from: the one of most lines that it asks all of."""
    found = [one for one in STARTERS if _asks_all_of(search, one)]
    return max(found, key=lambda one: len(one.search.lines), default=None)


def starters_by_purpose() -> list[tuple[str, list[Starter]]]:
    """Return the starter searches by purpose, in the order in which they are offered."""
    return [(purpose, list(found)) for purpose, found in groupby(STARTERS, lambda one: one.purpose)]
