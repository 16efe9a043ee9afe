"""Sales or listings of the matches over time: how many in each year, quarter or month, and for how much."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from django.db.models import Count, DateField, F, Max, Min, QuerySet
from django.db.models.functions import Coalesce, TruncMonth, TruncQuarter, TruncYear

from jaded_ledger.charts.drawings import BOTTOM, LEFT, TOP, Box, Chart, Drawing, Tick, across, counts_of, plain_rows, plot_width, upward
from jaded_ledger.core.charts.axes import Axis, ticks
from jaded_ledger.core.criteria.display import money_text
from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.find.figures import middle_of
from jaded_ledger.records.models import Listing, ParcelFacts, ParcelSale

HEIGHT = 240
_MOST_MARKS = 12
_DOT = 6


@dataclass(frozen=True)
class Period:
    """How long a step of the time axis is."""

    months: int
    trunc: Callable[..., Any]
    name: Callable[[date], str]


YEAR = Period(12, TruncYear, lambda day: str(day.year))
QUARTER = Period(3, TruncQuarter, lambda day: f"{day.year} Q{(day.month + 2) // 3}")
MONTH = Period(1, TruncMonth, lambda day: f"{day:%b %Y}")


def period_for(first: date, last: date) -> Period:
    """Return how finely so long a time is cut: up to two years by the month, up to eight by the quarter."""
    years = (last - first).days / 365.25
    return MONTH if years <= 2 else QUARTER if years <= 8 else YEAR


def sales_over_time(matches: QuerySet[ParcelFacts]) -> Chart:
    """Return all arm's-length sales of the matches by the day of the deed, with their median prices."""
    sales = ParcelSale.objects.filter(parcel__in=matches.order_by().values("pk"))
    return _over_time("Sales of the matches over time", "sale", sales.annotate(day=F("sold_on")), "price")


def listings_over_time(matches: QuerySet[ParcelFacts]) -> Chart:
    """Return all listings of the matches by the day on which they came on the market, with their median list prices."""
    listings = Listing.objects.filter(superseded_at=None, parcel__in=matches.order_by().values("pk"))
    day = Coalesce("on_market_date", "listing_contract_date", "first_seen_on", output_field=DateField())
    return _over_time("Listings of the matches over time", "listing", listings.annotate(day=day), "list_price")


def _over_time(title: str, what: str, rows: QuerySet[Any], price: str) -> Chart:
    found = rows.aggregate(first=Min("day"), last=Max("day"), n=Count("pk"), priced=Count(price))
    if not found["n"]:
        return Chart(title, (f"none of the matches has a {what} on record",), ())
    period = period_for(found["first"], found["last"])
    counted = rows.annotate(step=period.trunc("day")).values("step").annotate(n=Count("pk"), middle=middle_of(price)).order_by("step")
    by_step = {step: (count, middle) for step, count, middle in counted.values_list("step", "n", "middle")}
    steps = [min(by_step)]
    while (after := shift(steps[-1], Length(period.months, CalendarUnit.MONTH), 1)) <= max(by_step):
        steps.append(after)
    width = plot_width() / len(steps)
    below = _marks(steps, period, width)
    tall, marks = counts_of(max(count for count, _ in by_step.values()), HEIGHT - TOP - BOTTOM)
    bars = []
    for place, step in enumerate(steps):
        count, _ = by_step.get(step, (0, None))
        up = tall.at(count)
        bars.append(
            Box(round(LEFT + place * width, 2), HEIGHT - BOTTOM - up, max(1.0, round(width - 1, 2)), up, f"{period.name(step)}: {count:,}")
        )
    drawings = [Drawing(HEIGHT, "", f"{what}s", below, upward(marks, HEIGHT), tuple(bars))]
    if prices := {step: middle for step, (_, middle) in by_step.items() if middle is not None}:
        drawings.append(_prices(steps, prices, period, width, below))
    notes = [f"{found['n']:,} {what}s, not only the last of each parcel"]
    if unpriced := found["n"] - found["priced"]:
        notes.append(f"of {unpriced:,} no price is known")
    table = [
        (period.name(step), count, "·" if middle is None else money_text(Decimal(round(middle))))
        for step, (count, middle) in ((step, by_step.get(step, (0, None))) for step in steps)
    ]
    return Chart(title, tuple(notes), tuple(drawings), ("", f"{what}s", "median price"), plain_rows(table))


def _marks(steps: list[date], period: Period, width: float) -> tuple[Tick, ...]:
    step = max(1, -(-len(steps) // _MOST_MARKS))
    return across(((place + 0.5) * width, period.name(steps[place])) for place in range(0, len(steps), step))


def _prices(steps: list[date], prices: dict[date, float], period: Period, width: float, below: tuple[Tick, ...]) -> Drawing:
    """Return the line of the median prices; it is broken where no price is known."""
    up = Axis(0, max(prices.values()) * 1.05 or 1, HEIGHT - TOP - BOTTOM)
    line, dots, pen = [], [], "M"
    for place, step in enumerate(steps):
        middle = prices.get(step)
        if middle is None:
            pen = "M"
            continue
        x, y = round(LEFT + (place + 0.5) * width, 2), round(HEIGHT - BOTTOM - up.at(middle), 2)
        line.append(f"{pen}{x:g} {y:g}")
        pen = "L"
        dots.append(Box(x - _DOT / 2, y - _DOT / 2, _DOT, _DOT, f"{period.name(step)}: {money_text(Decimal(round(middle)))}"))
    marks = [(up.at(value), money_text(Decimal(round(value)))) for value in ticks(0, up.high, 6, 1)]
    return Drawing(HEIGHT, "", "median price", below, upward(marks, HEIGHT), tuple(dots), line="".join(line))
