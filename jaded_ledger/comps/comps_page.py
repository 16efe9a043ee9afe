"""What a page of comps shows, as plain texts and numbers: so a page that was kept is shown again as it was."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from datetime import date
from functools import partial
from typing import Any

from jaded_ledger.comps.on_offer import Offers
from jaded_ledger.comps.strip import strip_of
from jaded_ledger.comps.valuation import SETS, Comp, Valuation
from jaded_ledger.core.comps.adjustments import Adjusted, Adjustment
from jaded_ledger.core.comps.lines import RULES, LineKind, PoolLine, bounds, first_day
from jaded_ledger.core.comps.pool import LineBalance, Widening
from jaded_ledger.core.comps.sales import House
from jaded_ledger.core.comps.terms import GRADES
from jaded_ledger.core.criteria.catalogue.choices import CLASSES
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.market.land import SQFT_PER_ACRE
from jaded_ledger.records.models import RecordedText

Shown = dict[str, Any]
_CLASS_OF = {float(choice.code): choice.key for choice in CLASSES}
_NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
_UNKNOWN = "·"
_PLAIN_MONTHS = 11.5


def number_word(count: int) -> str:
    return _NUMBERS[count] if count < len(_NUMBERS) else f"{count:,}"


def dollars(amount: float) -> str:
    return f"${amount:,.0f}".replace("$-", "−$")


def signed(amount: float) -> str:
    """Return an amount as a column of changes has it: + 3,400."""
    return "0" if not round(amount) else f"{'+' if amount > 0 else '−'} {abs(amount):,.0f}"


def _whole(value: float, unit: str = "") -> str:
    return _UNKNOWN if math.isnan(value) else f"{value:,.0f}{unit}"


def _plain(value: float) -> str:
    return _UNKNOWN if math.isnan(value) else f"{value:g}"


class Texts:
    """The words behind the codes of traits, read once for a page."""

    def __init__(self, houses: Sequence[House]) -> None:
        codes = {int(house.value(trait)) for house in houses for trait in ("condition", "road_class", "zoning") if house.knows(trait)}
        self._texts = dict(RecordedText.objects.filter(pk__in=codes).values_list("pk", "text"))

    def of(self, house: House, trait: str) -> str:
        if not house.knows(trait):
            return _UNKNOWN
        if trait == "property_class":
            return _CLASS_OF.get(house.value(trait), "")
        return self._texts.get(int(house.value(trait)), _UNKNOWN).lower()


def _reach(line: PoolLine, house: House, texts: Texts) -> str:
    """Return in the subject's own figures what a line lets in."""
    rule = RULES[line.kind]
    match line.kind:
        case LineKind.WITHIN:
            return "of it" if house.longitude is not None else "of it; its place is not on record, so all are let in"
        case LineKind.CLOSED:
            return f"since {day_text(first_day(line, house.day))}"
        case LineKind.LIKEST:
            return "of these"
        case LineKind.INSIDE | LineKind.OUTSIDE:
            return line.name
        case LineKind.SIDE:
            return ""
    if line.limits is not None:
        return "" if line.kind is LineKind.PRICE else f"it has {_own(house, rule.trait)}"
    if not house.knows(rule.trait):
        return "not known of it, so all are let in"
    own = house.value(rule.trait)
    if rule.is_same:
        return f"{own:g}" if line.kind is LineKind.STORIES else texts.of(house, rule.trait)
    low, high = bounds(line, own)
    if line.kind is LineKind.BUILT:
        return f"{low:.0f} – {high:.0f}"
    unit = {LineKind.AREA: " sq ft", LineKind.LOT: " sq ft", LineKind.FRONTAGE: " ft"}.get(line.kind, "")
    return f"{max(low, 0):,.10g} – {high:,.10g}{unit}" if not rule.is_share else f"{low:,.0f} – {high:,.0f}{unit}"


def _own(house: House, trait: str) -> str:
    if not house.knows(trait):
        return "none on record"
    return f"{house.value(trait):.0f}" if trait == "year_built" else f"{house.value(trait):,.10g}"


def _line(balance: LineBalance, place: int, house: House, texts: Texts) -> Shown:
    line, rule = balance.line, RULES[balance.line.kind]
    is_area = line.kind in (LineKind.INSIDE, LineKind.OUTSIDE)
    is_amount, limits = not rule.is_same and not is_area, line.limits
    typed = limits.written(is_year=line.kind is LineKind.BUILT) if limits else f"{line.amount:g}"
    return {
        "place": place, "kind": str(line.kind), "text": str(line), "label": rule.label, "key": str(line) if is_area else str(line.kind),
        "amount": typed if is_amount else "", "unit": "" if limits else rule.unit,
        "sign": "± " if is_amount and rule.trait and not limits else "",
        "reach": _reach(line, house, texts), "removed": balance.removed, "left": balance.left, "gain": balance.gain,
        "unknown": balance.unknown,
    }  # fmt: skip


def _widened(step: Widening) -> str:
    said = f"“{step.before}” became “{step.after}”" if step.after else f"“{step.before}” was left out"
    return f"{said}: {step.count:,}"


def _step(step: Adjustment) -> Shown:
    def side(value: float) -> str:
        if math.isnan(value):
            return ""
        if step.key.startswith("age-"):
            return f"built {value:.0f}"
        return f"{value:,.1f} months ago" if step.key == "time" and value else "today" if step.key == "time" else f"{value:,.10g}"

    is_kind = step.key.startswith(("condition", "class-"))
    return {
        "label": step.label, "of_comp": "" if is_kind else side(step.of_comp), "of_subject": "" if is_kind else side(step.of_subject),
        "told": step.reason, "factor": f"× {step.factor:.4f}", "dollars": signed(step.dollars),
    }  # fmt: skip


def _rooms(beds: float, baths: float) -> str:
    return _UNKNOWN if math.isnan(beds) and math.isnan(baths) else f"{_plain(beds)} · {_plain(baths)}"


def _short(day: date, months: float) -> str:
    """Return a day without its year where that is plain: within the year before."""
    return f"{day.day} {day:%b}" if months < _PLAIN_MONTHS else day_text(day)


def _house(house: House, texts: Texts) -> Shown:
    acres = house.value("lot_sqft") / SQFT_PER_ACRE
    return {
        "area": _whole(house.value("living_area")), "beds": _plain(house.value("beds")), "baths": _plain(house.value("baths")),
        "rooms": _rooms(house.value("beds"), house.value("baths")),
        "built": _plain(house.value("year_built")), "lot": _whole(house.value("lot_sqft")), "stories": _plain(house.value("stories")),
        "acres": _UNKNOWN if math.isnan(acres) else f"{acres:.2f}", "frontage": _whole(house.value("frontage")),
        "class": texts.of(house, "property_class"), "condition": texts.of(house, "condition"), "zoning": texts.of(house, "zoning"),
        "road": texts.of(house, "road_class"), "garage": _plain(house.value("garage")), "basement": _whole(house.value("basement_area")),
    }  # fmt: skip


def _per(price: float, house: House, *, is_land: bool, is_rent: bool = False) -> tuple[str, str]:
    """Return a price, or a month's rent to the cent, for each square foot, and of land also for each acre."""
    size = house.value("lot_sqft" if is_land else "living_area")
    if math.isnan(size) or not size:
        return _UNKNOWN, _UNKNOWN
    return (
        (f"${price / size:,.2f}", f"${price / size * SQFT_PER_ACRE:,.0f}") if is_land else (f"${price / size:,.{2 if is_rent else 0}f}", "")
    )


def _adjusted(adjusted: Adjusted) -> Shown:
    return {
        "by": signed(adjusted.dollars), "dollars": round(adjusted.dollars), "gross": f"{adjusted.gross:.0%}".replace("%", " %"),
        "value": dollars(adjusted.value), "steps": [_step(step) for step in adjusted.steps], "unknown": list(adjusted.unknown),
    }  # fmt: skip


def _number(value: float) -> float | None:
    return None if math.isnan(value) else value


def _comp(comp: Comp, texts: Texts, *, is_land: bool) -> Shown:
    per, per_acre = _per(comp.price, comp.house, is_land=is_land)
    return {
        "key": comp.key, "parcel_id": comp.parcel_id, "address": comp.address, "number": comp.number, "sold_on": comp.sold_on.isoformat(),
        "closed": day_text(comp.sold_on), "closed_short": _short(comp.sold_on, comp.adjusted.months),
        "miles": None if math.isnan(comp.adjusted.miles) else round(comp.adjusted.miles, 2),
        "price": dollars(comp.price), "paid": comp.price, "per": per, "per_acre": per_acre, "warnings": list(comp.warnings),
        "of_set": comp.of_set, "grade": comp.grade, "grade_word": GRADES.get(comp.grade, ""), "is_in": comp.is_in, "reason": comp.reason,
        "by_hand": comp.by_hand, "added": comp.added, "share": None if comp.share is None else round(comp.share, 1),
        "bought_for": None if comp.bought_for is None else dollars(comp.bought_for), "value": comp.adjusted.value,
        "numbers": {name: _number(value) for name, value in (
            ("area", comp.house.value("living_area")), ("beds", comp.house.value("beds")), ("built", comp.house.value("year_built")),
            ("per", comp.price / comp.house.value("lot_sqft" if is_land else "living_area")),
        )},
        "house": _house(comp.house, texts), "adjusted": _adjusted(comp.adjusted),
    }  # fmt: skip


def _offers(offers: Offers, addresses: Mapping[int, tuple[str, str]], texts: Texts, *, is_land: bool, is_rent: bool) -> list[Shown]:
    rows = []
    for row, (offer, miles) in enumerate(zip(offers.offers, offers.miles, strict=True)):
        house = offers.houses.house(row)
        per, per_acre = _per(offer.price, house, is_land=is_land, is_rent=is_rent)
        rows.append({
            "parcel_id": offer.parcel_id, "address": addresses.get(offer.parcel_id, ("", ""))[0], "listing_id": offer.listing_id,
            "price": dollars(offer.price), "per": per, "per_acre": per_acre, "status": offer.status,
            "miles": None if math.isnan(miles) else round(miles, 2), "house": _house(house, texts),
            "listed": day_text(offer.listed_on) if offer.listed_on else _UNKNOWN,
        })  # fmt: skip
    return rows


def _sentence(found: Valuation) -> str:
    """Return the range in a sentence, and the subject's place in it."""
    subject, place = found.subject, SETS[found.of_set]
    if found.range is None:
        if found.of_set == "repaired":
            return "No comp was sold after repair: grade one as rebuilt, or put in a resale."
        return "No comp is in: widen a line, or put one in by hand."
    count = found.range.count
    said = f"{place}, from {number_word(count)} closed sale{'' if count == 1 else 's'}"
    if subject.asking:
        by = found.range.difference(subject.asking)
        said += f"; asking is {abs(by):.0f} % {'over' if by > 0 else 'under'}" if abs(by) >= 0.5 else "; asking is that"
    return said


def _competition(found: Valuation) -> str:
    """Return how much like it is on the market, near it."""
    reach = next(
        (f" within {line.amount:g} mile{'' if line.amount == 1 else 's'}" for line in found.lines if line.kind is LineKind.WITHIN), ""
    )
    count = len(found.offers["active"].offers)
    if not count:
        return f"no active competition{reach}: a sign of demand"
    return f"{number_word(count)} like it {'is' if count == 1 else 'are'} for sale{reach}"


def _constants(found: Valuation) -> Shown:
    constants = found.constants
    rows = [(one.term.label, one.text, str(one.origin)) for one in constants.coefficients]
    monthly = f"{100 * math.expm1(constants.monthly):+.2f} % a month".replace("-", "−")
    return {
        "rows": [*rows, ("time", monthly, str(constants.time_origin))],
        "likeness": constants.likeness.text, "likeness_from": str(constants.likeness.origin),
        "sales": constants.sales, "is_measured": constants.is_measured, "through": day_text(constants.through),
        "size_step": f"{found.size_step:,.0f} sq ft" if found.size_step else "", "size_step_from": found.size_step_from,
    }  # fmt: skip


def shown(found: Valuation) -> Shown:
    """Return all that the page of a valuation shows."""
    subject = found.subject
    houses = [subject.house, *(comp.house for comp in found.comps)]
    offered = [kind.houses.house(row) for kind in found.offers.values() for row in kind.houses]
    texts = Texts([*houses, *offered])
    per, per_acre = _per(subject.asking, subject.house, is_land=subject.is_land) if subject.asking else (_UNKNOWN, _UNKNOWN)
    comps = [_comp(comp, texts, is_land=subject.is_land) for comp in found.comps]
    return {
        "day": day_text(subject.house.day), "through": day_text(found.through) if found.through else "", "of_set": found.of_set,
        "subject": {
            "parcel_id": subject.parcel.pk, "address": subject.address, "number": subject.parcel.number,
            "county": subject.parcel.county.name, "is_land": subject.is_land, "grade": subject.grade,
            "grade_word": GRADES.get(subject.grade, ""), "asking": dollars(subject.asking) if subject.asking else "",
            "asked": subject.asking, "days": subject.days, "per": per, "per_acre": per_acre, "house": _house(subject.house, texts),
        },
        "start": found.pool.start, "left_out": found.left_out,
        "lines": [_line(one, place, subject.house, texts) for place, one in enumerate(found.pool.balance)],
        "lines_text": "; ".join(map(str, found.lines)), "widened": [_widened(step) for step in found.widened],
        "pool": len(found.pool), "chosen": len(found.chosen), "out": found.out_by_hand,
        "comps": comps, "of_other_set": sum(comp.of_set != found.of_set for comp in found.comps),
        "range": None if found.range is None else {
            "count": found.range.count, "low": dollars(found.range.low), "median": dollars(found.range.median),
            "high": dollars(found.range.high), "value": dollars(found.range.value), "exact": round(found.range.value),
            "spread": f"{found.range.spread:.0f} %",
            "per": _per(found.range.value, subject.house, is_land=subject.is_land)[0],
            "per_acre": _per(found.range.value, subject.house, is_land=subject.is_land)[1],
        },
        "sentence": _sentence(found), "doubts": list(found.doubts),
        "competition": _competition(found), "strip": strip_of(found), "constants": _constants(found),
        "offers": {
            name: _offers(kind, found.addresses, texts, is_land=subject.is_land, is_rent=name == "rented")
            for name, kind in found.offers.items()
        },
    }  # fmt: skip


def _by_number(name: str, comp: Shown) -> tuple[bool, float]:
    value = comp["numbers"][name]
    return value is None, value or 0.0


SORTS: dict[str, Callable[[Shown], Any]] = {
    "likest": lambda comp: 0,
    "miles": lambda comp: (comp["miles"] is None, comp["miles"]),
    "closed": lambda comp: comp["sold_on"],
    "price": lambda comp: comp["paid"],
    **{name: partial(_by_number, name) for name in ("area", "beds", "built", "per")},
    "adjusted": lambda comp: comp["adjusted"]["dollars"],
    "value": lambda comp: comp["value"],
    "warnings": lambda comp: (len(comp["warnings"]), comp["warnings"]),
    "address": lambda comp: comp["address"],
}
"""By what the table of comps can be sorted; as they come, the likest stand first."""


def ordered(comps: Sequence[Shown], sort: str) -> list[Shown]:
    """Return comps in an order that is asked, "-price" the other way around; what is out stands last."""
    rows = sorted(comps, key=SORTS.get(sort.removeprefix("-"), SORTS["likest"]), reverse=sort.startswith("-"))
    return sorted(rows, key=lambda comp: not comp["is_in"])
