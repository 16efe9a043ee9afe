"""A day of the county's offices: deeds, loans and their releases, liens, cases, foreclosures, taxes paid, permits, corrections."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import date, timedelta
from random import Random
from typing import Any

from django.db.models import Max

from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.demo import people
from jaded_ledger.demo.filed_rows import cells_of
from jaded_ledger.demo.market_day import Row
from jaded_ledger.demo.upkeep import PERMITS, VIOLATIONS
from jaded_ledger.records.models import (
    Auction,
    County,
    CourtCase,
    Filed,
    ForeclosureStep,
    Lien,
    Listing,
    Loan,
    LoanEvent,
    Permit,
    RollEntry,
    TaxYear,
    Transfer,
    Violation,
)

_NEXT_STEP = {"notice-of-default": ("lis-pendens", 60), "lis-pendens": ("judgment", 150), "judgment": ("sale-scheduled", 60)}
"""What follows a step of a foreclosure, and after how many days at the least."""
_CASES = (("probate", "PR"), ("divorce", "FA"), ("eviction", "EV"), ("bankruptcy", "BK"))


def _owner(entry: RollEntry) -> str:
    return entry.owner_name.text if entry.owner_name else ""


class CourthouseDay:
    """What a county's offices file on one day. The same records and day give the same rows."""

    def __init__(self, county: County, day: date, rng: Random) -> None:
        self.county, self.day, self.rng = county, day, rng
        roll = RollEntry.objects.filter(county=county, superseded_at=None).exclude(owner_name=None)
        self._entries = list(roll.order_by("natural_key").values_list("id", flat=True))
        self._documents = self._last(Transfer, "document_number", rf"{day.year}-(\d+)", Loan, LoanEvent, Lien)

    def _last(self, model: type[Filed], field: str, pattern: str, *others: type[Filed]) -> int:
        """Return the highest number that the county has given of a series."""
        start = pattern.partition("(")[0]
        found = 0
        for one in (model, *others):
            rows = one._default_manager.filter(county=self.county, **{f"{field}__startswith": start})
            newest = rows.aggregate(newest=Max(field))["newest"]
            if match := re.fullmatch(pattern, newest or ""):
                found = max(found, int(match[1]))
        return found

    def _document(self) -> str:
        self._documents += 1
        return f"{self.day.year}-{self._documents:06d}"

    def _count(self, a_year_per_parcel: float) -> int:
        """Return how often something happens on the day that happens to so many of all parcels in a year."""
        wanted = len(self._entries) * a_year_per_parcel / 365
        return int(wanted) + (self.rng.random() < wanted % 1)

    def _somewhere(self, count: int) -> list[RollEntry]:
        chosen = self.rng.sample(self._entries, min(count, len(self._entries)))
        return list(RollEntry.objects.filter(id__in=chosen).select_related("parcel", "owner_name").order_by("natural_key"))

    def rows(self) -> Iterator[Row]:
        yield from self._closings()
        yield from self._private_sales()
        yield from self._releases()
        yield from self._liens()
        yield from self._cases()
        yield from self._foreclosures()
        yield from self._taxes()
        yield from self._town_hall()
        yield from self._correction()

    def _deed(self, entry: RollEntry, price: int, sold_on: date) -> Iterator[Row]:
        buyer = people.household(self.rng)
        yield "deeds", {
            "parcel_number": entry.parcel.number, "document_number": self._document(), "deed": "warranty", "sold_on": sold_on,
            "recorded_on": self.day, "price": price, "grantor": _owner(entry), "grantee": buyer,
        }  # fmt: skip
        if self.rng.random() < 0.65:
            yield "loans", self._loan(entry, buyer, "purchase", round(price * self.rng.uniform(0.7, 0.95), -2), sold_on)

    def _loan(self, entry: RollEntry, borrower: str, kind: str, amount: float, dated_on: date) -> dict[str, Any]:
        return {
            "parcel_number": entry.parcel.number, "document_number": self._document(), "recorded_on": self.day, "dated_on": dated_on,
            "kind": kind, "amount": f"{amount:.0f}", "rate": 6.25, "rate_kind": "fixed", "term_months": 360, "borrower": borrower,
            "lender": people.lender(self.rng)[0],
        }  # fmt: skip

    def _closings(self) -> Iterator[Row]:
        """Record the deed of what the listing service said was closed: the register comes to it when its days have come there."""
        closed = Listing.objects.filter(
            county=self.county, superseded_at=None, standard_status=StandardStatus.CLOSED.value, close_date=self.day,
            close_price__isnull=False, parcel__isnull=False,
        ).order_by("listing_id")  # fmt: skip
        for listing in closed:
            if Transfer.objects.filter(superseded_at=None, parcels=listing.parcel_id, sold_on=self.day).exists():
                continue
            entry = RollEntry.objects.filter(parcel=listing.parcel_id, superseded_at=None).select_related("parcel", "owner_name").first()
            if entry and entry.owner_name:
                yield from self._deed(entry, int(listing.close_price or 0), self.day)

    def _private_sales(self) -> Iterator[Row]:
        for entry in self._somewhere(self._count(0.02)):
            if entry.market_value and entry.market_value > 15_000:
                price = int(round(float(entry.market_value) * self.rng.uniform(0.8, 1.08), -2))
                yield from self._deed(entry, price, self.day - timedelta(days=self.rng.randrange(1, 9)))

    def _releases(self) -> Iterator[Row]:
        released = LoanEvent.objects.filter(county=self.county, superseded_at=None, kind="release").values("loan_number")
        owed = Loan.objects.filter(county=self.county, superseded_at=None, recorded_on__lt=self.day - timedelta(days=400))
        owed = owed.exclude(document_number__in=released).order_by("natural_key")
        ids = list(owed.values_list("id", flat=True))
        for loan in owed.filter(id__in=self.rng.sample(ids, min(self._count(0.03), len(ids)))).select_related("lender"):
            yield "loan-events", {
                "document_number": self._document(), "recorded_on": self.day, "kind": "release", "loan_number": loan.document_number,
                "by": loan.lender.text if loan.lender else "",
            }  # fmt: skip

    def _liens(self) -> Iterator[Row]:
        for entry in self._somewhere(self._count(0.012)):
            yield "liens", {
                "parcel_number": entry.parcel.number, "document_number": self._document(), "recorded_on": self.day,
                "kind": self.rng.choice(("judgment", "municipal", "state-tax")), "amount": self.rng.randrange(900, 24_000),
                "claimant": "CITY TREASURER", "debtor": _owner(entry),
            }  # fmt: skip

    def _cases(self) -> Iterator[Row]:
        numbers: dict[str, int] = {}
        for entry in self._somewhere(self._count(0.015)):
            kind, letters = self.rng.choice(_CASES)
            if letters not in numbers:
                numbers[letters] = self._last(CourtCase, "case_number", rf"{self.day.year}{letters}(\d+)")
            numbers[letters] += 1
            case = f"{self.day.year}{letters}{numbers[letters]:06d}"
            yield "cases", {
                "parcel_number": entry.parcel.number, "case_number": case, "kind": kind,
                "court": f"{self.county.name} County Circuit Court", "filed_on": self.day, "status": "filed", "status_on": self.day,
            }  # fmt: skip
            part = {"probate": "decedent", "divorce": "respondent", "eviction": "plaintiff", "bankruptcy": "debtor"}[kind]
            yield "case-parties", {"case_number": case, "part": part, "name": _owner(entry)}
            if kind == "eviction":
                yield "case-parties", {"case_number": case, "part": "tenant", "name": people.household(self.rng)}

    def _foreclosures(self) -> Iterator[Row]:
        """Move some foreclosures a step on, begin new ones, hold the auctions of the day."""
        steps = ForeclosureStep.objects.filter(county=self.county, superseded_at=None).select_related("parcel", "lender")
        latest: dict[int, ForeclosureStep] = {}
        for step in steps.order_by("parcel_id", "taken_on", "id"):
            latest[step.parcel_id] = step
        for step in latest.values():
            following, days = _NEXT_STEP.get(step.step, ("", 0))
            if following and (self.day - step.taken_on).days >= days and self.rng.random() < 0.02:
                yield "foreclosures", cells_of("foreclosures", step) | {"step": following, "taken_on": self.day}
        for entry in self._somewhere(self._count(0.004)):
            if entry.parcel_id not in latest:
                yield "foreclosures", {
                    "parcel_number": entry.parcel.number, "step": "notice-of-default", "taken_on": self.day,
                    "lender": people.lender(self.rng)[0], "amount": self.rng.randrange(40, 260) * 1000,
                }  # fmt: skip
        due = Auction.objects.filter(county=self.county, superseded_at=None, status="scheduled", held_on__lte=self.day)
        for auction in due.select_related("parcel", "buyer").order_by("natural_key"):
            cells = cells_of("auctions", auction)
            if self.rng.random() < 0.5:
                yield (
                    "auctions",
                    cells | {"status": "sold", "sold_for": int(auction.minimum_bid or 50_000) + 4_000, "buyer": "BRASS KEY HOLDINGS LLC"},
                )
            else:
                yield "auctions", cells | {"status": "postponed"}

    def _taxes(self) -> Iterator[Row]:
        """Somebody pays what was due, of one year or of all."""
        due = TaxYear.objects.filter(county=self.county, superseded_at=None, due__gt=0).select_related("parcel").order_by("natural_key")
        parcels = list(dict.fromkeys(due.values_list("parcel_id", flat=True)))
        for parcel in self.rng.sample(parcels, min(self._count(0.02), len(parcels))):
            years = list(due.filter(parcel=parcel).order_by("year"))
            for year in years if self.rng.random() < 0.4 else years[:1]:
                yield "tax-years", cells_of("tax-years", year) | {"paid": (year.paid or 0) + (year.due or 0), "due": 0}

    def _town_hall(self) -> Iterator[Row]:
        number = self._last(Permit, "number", rf"B{self.day.year}-(\d+)")
        for place, entry in enumerate(self._somewhere(self._count(0.03)), start=1):
            kind, description, low, high = self.rng.choice(PERMITS)
            yield "permits", {
                "parcel_number": entry.parcel.number, "number": f"B{self.day.year}-{number + place:05d}", "kind": kind,
                "description": description,
                "issued_on": self.day, "cost": self.rng.randrange(low, high) * 1000, "contractor": people.contractor(self.rng),
            }  # fmt: skip
        opened = (
            Violation.objects.filter(county=self.county, superseded_at=None, closed_on=None)
            .select_related("parcel")
            .order_by("natural_key")
        )
        for violation in opened:
            if self.rng.random() < 0.01 and violation.opened_on < self.day:
                yield "violations", cells_of("violations", violation) | {"closed_on": self.day}
        number = self._last(Violation, "number", rf"V{self.day.year}-(\d+)")
        for place, entry in enumerate(self._somewhere(self._count(0.01)), start=1):
            yield "violations", {
                "parcel_number": entry.parcel.number, "number": f"V{self.day.year}-{number + place:05d}",
                "description": self.rng.choice(VIOLATIONS), "opened_on": self.day, "fine": self.rng.choice((None, 50, 100)),
            }  # fmt: skip

    def _correction(self) -> Iterator[Row]:
        """The register mends a deed of late: the price had a slip in it."""
        lately = (self.day - timedelta(days=120), self.day - timedelta(days=2))
        deeds = Transfer.objects.filter(
            county=self.county, superseded_at=None, price__gt=0, recorded_on__range=lately,
        ).exclude(document_number="").select_related("grantor", "grantee").order_by("natural_key")  # fmt: skip
        ids = list(deeds.values_list("id", flat=True))
        if ids:
            deed = deeds.get(id=self.rng.choice(ids))
            yield "deeds", cells_of("deeds", deed) | {"price": f"{float(deed.price or 0) + 1_000:.0f}"}
