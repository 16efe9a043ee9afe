"""Foreclosures, estates, divorces, bankruptcies and evictions."""

from __future__ import annotations

import re
from datetime import date, timedelta
from random import Random

from jaded_ledger.demo import people
from jaded_ledger.demo.books import Books
from jaded_ledger.demo.debts import OpenLoan
from jaded_ledger.demo.papers import TO_READ, paper_of
from jaded_ledger.demo.titles import ACTING, DEEDS_SINCE, Home, Tenure

_ACTING = re.compile(f" (?:{'|'.join(ACTING)}) ")


class Case:
    """A court case being written."""

    def __init__(
        self,
        books: Books,
        home: Home,
        kind: str,
        letters: str,
        filed: date,
        *,
        status: str = "filed",
        since: date | None = None,
        amount: int | None = None,
    ) -> None:
        self._books = books
        self.filed = filed
        self.number = books.case(filed, letters)
        self.court = f"{books.county.name} County Circuit Court"
        books.enter(
            "cases", case_number=self.number, kind=kind, court=self.court, filed_on=filed, status=status,
            status_on=since or filed, amount=amount, parcel_number=home.number,
        )  # fmt: skip

    def party(self, part: str, name: str, served: date | None = None) -> None:
        shown = served if served and served <= self._books.county.recorded_through else None
        self._books.enter("case-parties", case_number=self.number, part=part, name=name, served_on=shown)

    def paper(self, days: int, title: str) -> None:
        """File a paper so many days after the case was begun, unless that lies ahead."""
        day = self.filed + timedelta(days=days)
        if day <= self._books.county.recorded_through:
            self._books.enter("case-documents", case_number=self.number, filed_on=day, title=title)
            if title in TO_READ:
                content = paper_of(self.court, self.number, day, title)
                self._books.enter("case-papers", case_number=self.number, filed_on=day, title=title, paper=content)


def _recently(books: Books, tenure: Tenure, rng: Random, days: int) -> date:
    """Return a day of late, while the present owner held it."""
    through = books.county.recorded_through
    first = max(tenure.since or DEEDS_SINCE, through - timedelta(days=days))
    return first + timedelta(days=rng.randrange(0, max(1, (through - first).days)))


def _steps(books: Books, home: Home, lender: str, case: str, steps: list[tuple[str, date]], amount: int) -> None:
    for step, day in steps:
        if day <= books.county.recorded_through:
            books.enter("foreclosures", parcel_number=home.number, step=step, taken_on=day, case_number=case, lender=lender, amount=amount)


def foreclosure(books: Books, home: Home, owed: list[OpenLoan], rng: Random) -> None:
    """Tell a foreclosure under way against the present owner, or the one that the present owner, a lender, won."""
    through = books.county.recorded_through
    present = home.present
    if present.came_by == "foreclosed" and present.since and len(home.tenures) > 1:
        # It was lost: the whole way from the default to the lender's own deed.
        start = max(present.since - timedelta(days=rng.randrange(320, 600)), home.tenures[-2].recorded or DEEDS_SINCE)
        sold = max(present.since - timedelta(days=12), start)
        amount = int((present.price or 60_000) * 1.1)
        case = Case(books, home, "foreclosure", "FC", start + (sold - start) // 4, status="disposed", since=sold, amount=amount)
        case.party("plaintiff", present.owner)
        case.party("defendant", home.tenures[-2].owner, case.filed + timedelta(days=15))
        case.paper(0, "Summons and complaint")
        between = (sold - start) // 4
        steps = [
            ("notice-of-default", start), ("lis-pendens", start + between), ("judgment", start + between * 2),
            ("sale-scheduled", start + between * 3), ("sold", sold), ("bank-owned", present.since),
        ]  # fmt: skip
        _steps(books, home, present.owner, case.number, steps, amount)
        books.enter(
            "auctions", parcel_number=home.number, kind="foreclosure", held_on=sold, place="Courthouse steps", status="sold",
            case_number=case.number,
            sold_for=present.price, buyer=present.owner,
        )  # fmt: skip
        home.notes.add("bank-owned")
        return
    first = next((loan for loan in owed if loan.kind in ("purchase", "refinance")), None)
    if first is None or rng.random() > 0.011 * home.lot.district.trouble:
        return
    default = max(first.day + timedelta(days=200), through - timedelta(days=rng.randrange(20, 620)))
    if default > through:
        return
    amount = int(first.amount * 0.9)
    lis_pendens = default + timedelta(days=rng.randrange(60, 130))
    number = ""
    if lis_pendens <= through:
        judged = lis_pendens + timedelta(days=170)
        case = Case(books, home, "foreclosure", "FC", lis_pendens, status="judgment" if judged <= through else "filed",
                    since=judged if judged <= through else None, amount=amount)  # fmt: skip
        number = case.number
        case.party("plaintiff", first.lender)
        case.party("defendant", home.present.owner, lis_pendens + timedelta(days=18))
        case.paper(0, "Summons and complaint")
        case.paper(40, "Answer")
    steps = [("notice-of-default", default), ("lis-pendens", lis_pendens), ("judgment", lis_pendens + timedelta(days=170)),
             ("sale-scheduled", lis_pendens + timedelta(days=230))]  # fmt: skip
    if rng.random() < 0.2 and steps[2][1] > through:
        steps.append(("reinstated", min(through, steps[1][1] + timedelta(days=40))))
    elif steps[3][1] <= through:
        books.enter(
            "auctions", parcel_number=home.number, kind="foreclosure", held_on=through + timedelta(days=rng.randrange(5, 60)),
            place="Courthouse steps",
            status=rng.choice(("scheduled", "scheduled", "postponed")), case_number=number, minimum_bid=int(amount * 0.7),
        )  # fmt: skip
        home.notes.add("foreclosure auction")
    home.notes.add("foreclosure")
    _steps(books, home, first.lender, number, steps, amount)


def estates(books: Books, home: Home, rng: Random) -> None:
    """Tell the probate of an owner who died, open or long closed."""
    present = home.present
    is_open = present.came_by == "none" and ("EST" in present.owner.split() or present.owner.startswith(("ESTATE", "HEIRS")))
    is_closed = present.came_by == "inherited" and present.since is not None
    if not is_open and not is_closed:
        return
    surname = people.surname_of(present.owner)
    filed = present.since - timedelta(days=rng.randrange(150, 420)) if is_closed and present.since else _recently(books, present, rng, 900)
    case = Case(books, home, "probate", "PR", max(filed, DEEDS_SINCE), status="disposed" if is_closed else "filed",
                since=present.since if is_closed else None)  # fmt: skip
    died = (
        _ACTING.split(present.owner.replace(" EST", ""))[0]
        if is_open
        else home.tenures[-2].owner
        if len(home.tenures) > 1
        else present.owner
    )
    case.party("decedent", died.replace("ESTATE OF ", "").replace("HEIRS OF ", ""))
    handler = "".join(_ACTING.split(present.owner)[1:])
    case.party("personal-representative", handler or f"{people.person(rng)[1]} {surname}")
    for name in dict.fromkeys(f"{people.person(rng)[1]} {surname}" for _ in range(rng.randrange(1, 4))):
        case.party("heir", name)
    case.paper(0, "Application for informal administration")
    case.paper(45, "Inventory")
    home.notes.add("estate" if is_open else "inherited")


def troubles(books: Books, home: Home, rng: Random) -> None:
    """Tell divorces, bankruptcies and partitions of the present owners."""
    present, draw = home.present, rng.random()
    is_person = present.company is None and present.came_by in ("bought", "trust")
    through = books.county.recorded_through
    if is_person and "&" in present.owner and draw < 0.012:
        filed = _recently(books, present, rng, 1000)
        done = filed + timedelta(days=300)
        case = Case(
            books, home, "divorce", "FA", filed, status="disposed" if done < through else "filed", since=done if done < through else None
        )
        one, _, other = present.owner.partition(" & ")
        case.party("petitioner", other if " " in other else f"{people.surname_of(present.owner)} {other}")
        case.party("respondent", one)
        home.notes.add("divorce")
    elif is_person and 0.012 <= draw < 0.012 + 0.005 * home.lot.district.trouble:
        filed = _recently(books, present, rng, 1500)
        case = Case(books, home, "bankruptcy", "BK", filed, amount=rng.randrange(20, 190) * 1000)
        case.party("debtor", present.owner)
        case.party("trustee", "OFFICE OF THE TRUSTEE")
        home.notes.add("bankruptcy")
    elif present.came_by == "inherited" and draw > 0.9:
        case = Case(books, home, "partition", "CV", _recently(books, present, rng, 800))
        names = present.owner.split(" & ")
        case.party("plaintiff", f"{people.surname_of(present.owner)} {names[-1]}")
        case.party("defendant", names[0])
        home.notes.add("partition")


def eviction(books: Books, home: Home, tenant: str, rng: Random) -> None:
    """Tell a landlord's filing against a tenant."""
    case = Case(
        books, home, "eviction", "EV", _recently(books, home.present, rng, 1300), status=rng.choice(("filed", "judgment", "dismissed"))
    )
    case.party("plaintiff", home.present.owner)
    case.party("tenant", tenant)
    home.notes.add("eviction")
