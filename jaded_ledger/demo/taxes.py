"""Property tax: rates, bills, who pays and who does not, exemptions, and the county's suits."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from random import Random

from jaded_ledger.demo.books import Books
from jaded_ledger.demo.courts import Case
from jaded_ledger.demo.debts import OpenLoan
from jaded_ledger.demo.ground import District
from jaded_ledger.demo.houses import price_index
from jaded_ledger.demo.titles import DEEDS_SINCE, Home

YEARS = range(2020, 2026)
"""Bills go out in December, so that of 2026 is not out yet."""


def _levies(county: str, district: District) -> list[tuple[str, str, str, float]]:
    """Return authority, kind and name of its area, and dollars per thousand in 2025."""
    town = 4.9 if district.is_rural else 8.3
    return [
        (f"{county} County", "", "", 3.6), ("Lakeshore Technical College District", "", "", 0.9),
        (district.municipality, "municipality", district.municipality, town),
        (f"School District of {district.school_district.title()}", "school district", district.school_district, 8.1),
    ]  # fmt: skip


def _in_year(per_thousand: float, year: int) -> Decimal:
    return Decimal(str(round(per_thousand * (1 + 0.015 * (2025 - year)), 4)))


class Rates:
    """What is levied where, year by year; written once for each authority."""

    def __init__(self, books: Books) -> None:
        self._books = books
        self._written: set[str] = set()

    def total(self, district: District, year: int) -> Decimal:
        """Return dollars per thousand of assessed value."""
        levies = _levies(self._books.county.name, district)
        for authority, kind, area, per_thousand in levies:
            if authority not in self._written:
                self._written.add(authority)
                for each in YEARS:
                    self._books.enter(
                        "tax-rates", authority=authority, year=each, area=area, area_kind=kind, per_thousand=_in_year(per_thousand, each)
                    )
        return sum((_in_year(per_thousand, year) for *_, per_thousand in levies), Decimal(0))


def unpaid_years(home: Home, rng: Random) -> int:
    """Return for how many years up to the last bill nothing was paid."""
    odds = 0.026 * home.lot.district.trouble * (1.0 if home.present.occupies else 1.7)
    if home.house.kind == "exempt" or not home.house.worth or rng.random() > odds:
        return 0
    held = home.present.since
    longest = len(YEARS) if held is None else sum(date(year, 12, 1) > held for year in YEARS)
    return min(rng.choices((1, 2, 3, 4, 5, 6), (34, 24, 18, 12, 8, 4))[0], longest)


def bills(books: Books, rates: Rates, home: Home, bias: float, rng: Random, *, late: int | None) -> int:
    """Write the tax years; return how many of the last ones are unpaid. ``late`` is a year that an earlier owner was sued for."""
    house, ratio = home.house, float(books.county.assessment_ratio)
    unpaid = unpaid_years(home, rng)
    # A year that was late once, long paid since.
    drawn = rng.choice(YEARS) if rng.random() < 0.03 else None
    was_late = late or drawn
    through = books.county.recorded_through
    for year in YEARS:
        level = price_index(date(year, 1, 1)) * bias
        land, improvements = round(house.land_value * level * ratio, -2), round(house.improvement_value * level * ratio, -2)
        is_exempt = house.kind == "exempt"
        billed = (
            Decimal(0)
            if is_exempt
            else (rates.total(home.lot.district, year) * Decimal(land + improvements) / 1000).quantize(Decimal("0.01"))
        )
        is_unpaid = unpaid > 0 and year > YEARS[-1] - unpaid
        paid = billed
        if is_unpaid:
            # Now and then a half is paid, and then no more.
            paid = (billed / 2).quantize(Decimal("0.01")) if year == YEARS[-1] - unpaid + 1 and rng.random() < 0.25 else Decimal(0)
        months = (through.year - year - 1) * 12 + through.month - 1
        due = ((billed - paid) * (1 + Decimal(months) / 100)).quantize(Decimal("0.01")) if is_unpaid else Decimal(0)
        books.enter(
            "tax-years", parcel_number=home.number, year=year, land_value=land, improvement_value=improvements,
            market_value=round((house.land_value + house.improvement_value) * level, -2), billed=billed,
            paid=paid + (Decimal("41.50") if year == was_late and not is_unpaid else 0), due=due,
        )  # fmt: skip
    if unpaid:
        home.notes.add(f"unpaid {unpaid}")
    elif drawn and drawn < 2024 and rng.random() < 0.3 and not late:
        _settled(books, home, drawn)
    return unpaid


def _settled(books: Books, home: Home, year: int) -> None:
    """Tell a suit that ended when the tax of a year was paid after all."""
    filed = date(year + 2, 3, 4)
    case = Case(books, home, "tax", "TX", filed, status="disposed", since=filed + timedelta(days=140))
    case.party("plaintiff", f"{books.county.name.upper()} COUNTY")
    case.party("defendant", home.present.owner, filed + timedelta(days=20))
    case.paper(0, "Petition to foreclose tax liens")
    case.paper(140, "Order of dismissal on payment")
    home.notes.add("tax suit disposed")


def exemptions(books: Books, home: Home, rng: Random) -> None:
    """Write what lowers a parcel's tax."""
    since = home.present.since or date(1998, 1, 1)
    if home.homestead:
        # It is claimed for the year after the purchase.
        claimed = min(date(since.year + 1, 1, 1), books.county.recorded_through)
        books.enter("exemptions", parcel_number=home.number, kind="Homestead", since=claimed, amount=None)
        if rng.random() < 0.06:
            books.enter(
                "exemptions", parcel_number=home.number, kind=rng.choice(("Senior", "Veteran")), since=date(2019, 1, 1), amount=1_500
            )
    elif home.house.kind == "agricultural":
        books.enter("exemptions", parcel_number=home.number, kind="Use value, farmland", since=date(2001, 1, 1))
    elif home.house.kind == "exempt":
        kind = "Religious" if home.present.mailing == home.address else "Municipal"
        books.enter("exemptions", parcel_number=home.number, kind=kind, since=date(1995, 1, 1))


def suits(books: Books, home: Home, unpaid: int, owed: list[OpenLoan], rng: Random) -> None:
    """Tell the county's suit for unpaid tax: served on the owner, and on a lender for its interest in the land."""
    if unpaid < 2 or rng.random() > (0.25 if unpaid == 2 else 0.7):
        return
    through = books.county.recorded_through
    # Never before the first unpaid bill is two years old.
    filed = max(date(YEARS[-1] - unpaid + 1 + 2, 2, 15), home.present.since or DEEDS_SINCE) + timedelta(days=rng.randrange(20, 220))
    if filed > through:
        return
    status, since = "filed", filed
    if rng.random() < 0.45 and (judged := filed + timedelta(days=rng.randrange(120, 400))) < through:
        status, since = "judgment", judged
    case = Case(books, home, "tax", "TX", filed, status=status, since=since)
    case.party("plaintiff", f"{books.county.name.upper()} COUNTY")
    case.party("defendant", home.present.owner, filed + timedelta(days=rng.randrange(8, 60)))
    for loan in owed[:1]:
        case.party("lienholder", loan.lender, filed + timedelta(days=20))
    for days, title in ((0, "Petition to foreclose tax liens"), (3, "Summons"), (34, "Affidavit of mailing")):
        case.paper(days, title)
    if status == "judgment":
        case.paper((since - filed).days, "Judgment vesting title in the county")
        if rng.random() < 0.5:
            books.enter(
                "auctions", parcel_number=home.number, kind="tax", held_on=through + timedelta(days=rng.randrange(20, 120)),
                place="County board room", status="scheduled", case_number=case.number, minimum_bid=int(home.house.worth * 0.2),
            )  # fmt: skip
            home.notes.add("tax auction")
    home.notes.add(f"tax suit {status}")
