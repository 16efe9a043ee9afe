"""What befell owners who sold soon after, and some who did not: estates, defaults, suits for tax and divorces of years gone by.

It is drawn apart from the rest of a property's story, which stays as it is whatever happens here.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from itertools import pairwise
from random import Random

from jaded_ledger.demo import people
from jaded_ledger.demo.books import Books
from jaded_ledger.demo.courts import Case
from jaded_ledger.demo.taxes import YEARS
from jaded_ledger.demo.titles import Home, Tenure
from jaded_ledger.demo.world import SEED

_IN_COURT = 0.4
"""How many estates that sell a house go through the courts."""
_DEFAULTED_BEFORE_SALE, _DEFAULTED_AND_STAYED = 0.03, 0.016
_LATE_BEFORE_SALE = 0.05
_UNTOLD = 0.4
_PARTED_BEFORE_SALE, _MADE_UP = 0.008, 0.02


def _sales(home: Home) -> Iterator[tuple[Tenure, Tenure]]:
    """Yield whoever sold, with whoever bought."""
    return ((seller, buyer) for seller, buyer in pairwise(home.tenures) if buyer.is_sale and buyer.since and buyer.came_by != "shared")


def _before(sale: date, rng: Random, least: int = 60, most: int = 330) -> date:
    return sale - timedelta(days=rng.randrange(least, most))


def late_year(home: Home) -> int | None:
    """Return the year whose tax an owner who sold had left unpaid, for which the county sued; it was paid from the price."""
    rng = Random(f"{SEED} late {home.number}")
    for seller, buyer in _sales(home):
        sale = buyer.since
        assert sale is not None  # only sales that are dated
        held = seller.since or date(YEARS[0], 1, 1)
        if sale.year - 3 in YEARS and held.year < sale.year - 3 and rng.random() < _LATE_BEFORE_SALE:
            return sale.year - 3
    return None


def _tax_suit(books: Books, home: Home, year: int, rng: Random) -> None:
    for seller, buyer in _sales(home):
        if buyer.since and buyer.since.year - 3 == year:
            filed = _before(buyer.since, rng)
            case = Case(books, home, "tax", "TX", filed, status="disposed", since=buyer.since)
            case.party("plaintiff", f"{books.county.name.upper()} COUNTY")
            case.party("defendant", seller.owner, filed + timedelta(days=20))
            case.paper(0, "Petition to foreclose tax liens")
            case.paper((buyer.since - filed).days, "Order of dismissal on payment")
            return


def _estates(books: Books, home: Home, rng: Random) -> None:
    for seller, buyer in _sales(home):
        if buyer.deed != "personal-representative" or seller.company is not None or rng.random() > _IN_COURT:
            continue
        assert buyer.since is not None  # only sales that are dated
        closed = min(buyer.since + timedelta(days=rng.randrange(20, 120)), books.county.recorded_through)
        filed = _before(buyer.since, rng)
        case = Case(books, home, "probate", "PR", filed, status="disposed", since=closed)
        case.party("decedent", seller.owner)
        case.party("personal-representative", f"{people.person(rng)[1]} {people.surname_of(seller.owner)}")
        case.paper(0, "Application for informal administration")


def _default(books: Books, home: Home, lender: str, default: date, ended: date, how: str) -> None:
    """Tell the steps of a foreclosure that was called off."""
    steps = [("notice-of-default", default)]
    if (pending := default + timedelta(days=75)) < ended:
        steps.append(("lis-pendens", pending))
    for step, day in [*steps, (how, ended)]:
        if day <= books.county.recorded_through:
            books.enter("foreclosures", parcel_number=home.number, step=step, taken_on=day, lender=lender, amount=None)


def _defaults(books: Books, home: Home, rng: Random) -> None:
    """One default at most: who sold before it came to the worst, or paid and stayed."""
    if home.notes & {"foreclosure", "bank-owned"}:
        return
    for seller, buyer in _sales(home):
        assert buyer.since is not None  # only sales that are dated
        if not seller.borrowed or rng.random() > _DEFAULTED_BEFORE_SALE:
            continue
        lent, lender = seller.borrowed[-1]
        default = _before(buyer.since, rng)
        if default > lent + timedelta(days=150):
            _default(books, home, lender, default, buyer.since, "dismissed")
            return
    for tenure in home.tenures:
        if tenure.borrowed and rng.random() < _DEFAULTED_AND_STAYED:
            lent, lender = tenure.borrowed[0]
            default = lent + timedelta(days=rng.randrange(400, 2400))
            end = tenure.until or books.county.recorded_through
            if default + timedelta(days=430) < end:
                _default(books, home, lender, default, default + timedelta(days=rng.randrange(40, 160)), "reinstated")
                return


def _divorces(books: Books, home: Home, rng: Random) -> None:
    for seller, buyer in _sales(home):
        if " & " not in seller.owner or seller.company is not None:
            continue
        assert buyer.since is not None  # only sales that are dated
        drawn = rng.random()
        if drawn < _PARTED_BEFORE_SALE:
            _divorce(books, home, seller, _before(buyer.since, rng), "disposed", buyer.since)
        elif drawn < _PARTED_BEFORE_SALE + _MADE_UP and seller.since and (buyer.since - seller.since).days > 1500:
            filed = seller.since + timedelta(days=rng.randrange(200, 1000))
            _divorce(books, home, seller, filed, "dismissed", filed + timedelta(days=rng.randrange(30, 200)))


def _divorce(books: Books, home: Home, couple: Tenure, filed: date, status: str, ended: date) -> None:
    one, _, other = couple.owner.partition(" & ")
    case = Case(books, home, "divorce", "FA", filed, status=status, since=ended)
    case.party("petitioner", other if " " in other else f"{people.surname_of(couple.owner)} {other}")
    case.party("respondent", one)


def _auction_without_result(books: Books, home: Home, rng: Random) -> None:
    """Tell of a sale whose day has passed, and of which the clerk has not said what became of it."""
    if "tax suit judgment" in home.notes and "tax auction" not in home.notes and rng.random() < _UNTOLD:
        held = books.county.recorded_through - timedelta(days=rng.randrange(4, 40))
        books.enter("auctions", parcel_number=home.number, kind="tax", held_on=held, place="County board room", status="scheduled")


def past_troubles(books: Books, home: Home) -> None:
    """Tell what went before sales of years gone by, and what others got over."""
    rng = Random(f"{SEED} past {home.number}")
    _estates(books, home, rng)
    _defaults(books, home, rng)
    if year := late_year(home):
        _tax_suit(books, home, year, rng)
    _divorces(books, home, rng)
    _auction_without_result(books, home, rng)
