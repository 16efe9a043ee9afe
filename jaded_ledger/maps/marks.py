"""What the map tells beside the matches: what sold lately, what is for sale, what will be auctioned; and all that one owner has."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.results import with_values_alone
from jaded_ledger.maps.in_view import View, points_in, shapes_in
from jaded_ledger.records.models import ParcelFacts, RollEntry

MOST_MARKS = 400
"""More marks than this would lie over each other."""
_ONE_ACRE = 1.0


@dataclass(frozen=True)
class MarkKind:
    """One kind of mark: what asks for it, and which column tells its price."""

    key: str
    name: str
    lines: str
    price: str


MARK_KINDS = (
    MarkKind("sold", "sold in 12 months", "last-sale: in the last 12 months\nlast-sale-price: any", "last-sale-price"),
    MarkKind("offered", "for sale", 'on-offer: any of "for-sale"', "list-price"),
    MarkKind("auction", "auctions ahead", "auction: in the next 365 days", ""),
)


def short_money(dollars: float) -> str:
    """Return an amount as a mark has room for it.

    >>> short_money(258_100), short_money(1_250_000), short_money(900)
    ('$258k', '$1.25m', '$900')
    """
    if dollars >= 999_500:
        return f"${dollars / 1e6:.2f}".rstrip("0").rstrip(".") + "m"
    return f"${dollars / 1000:.0f}k" if dollars >= 1000 else f"${dollars:.0f}"


def price_words(facts: ParcelFacts, kind: MarkKind) -> str:
    """Return what a mark says: the price, and of an acre or more the price of each; of an auction its day."""
    if not kind.price:
        return day_text(facts.auction) if facts.auction else ""
    price = getattr(facts, CATALOGUE[kind.price].fact)
    if price is None:
        return ""
    acres = facts.lot_acres
    # A price of several parcels is no price of this one's ground.
    is_alone = kind.key != "sold" or facts.sale_parcels in (None, 1)
    by_acre = f"\n{short_money(float(Decimal(price)) / acres)} an acre" if acres and acres >= _ONE_ACRE and is_alone else ""
    return f"{short_money(price)}{by_acre}"


def marks_in(view: View, keys: list[str], scope: Scope) -> list[dict[str, Any]]:
    """Return the marks in a part of the map: parcel, kind, where, in degrees, and what is written. Too many of a kind are left out."""
    found = []
    here = shapes_in(view.box).order_by().values("parcel").union(points_in(view.box).order_by().values("pk"), all=True)
    traits = [CATALOGUE[key] for key in ("last-sale-price", "list-price", "auction", "lot-acres", "sale-parcels")]
    for kind in MARK_KINDS:
        if kind.key not in keys:
            continue
        matches = compile(parse(kind.lines), scope).matches.filter(pk__in=here, place__isnull=False)
        rows = list(with_values_alone(matches, traits, ("longitude", "latitude"))[: MOST_MARKS + 1])
        for facts in rows if len(rows) <= MOST_MARKS else ():
            at = [facts.longitude, facts.latitude]
            found.append({"id": facts.pk, "kind": kind.key, "at": at, "text": price_words(facts, kind)})
    return found


def parcels_of_same_owner(parcel: int) -> list[int]:
    """Return the parcels of a parcel's owner, itself among them; none where its owner is not known."""
    owner = RollEntry.objects.filter(parcel=parcel, superseded_at=None, owner__isnull=False).values("owner")[:1]
    theirs = RollEntry.objects.filter(owner__in=owner, superseded_at=None, parcel__retired_on=None)
    return sorted(set(theirs.values_list("parcel", flat=True)))
