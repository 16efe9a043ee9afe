"""Random searches: any that the text form can say, and any that can be asked of the demo."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from hypothesis import strategies as st

from jaded_ledger.core import dates
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import (
    AnyOf,
    Center,
    Criterion,
    DistanceUnit,
    Exactly,
    FigureRange,
    Match,
    Members,
    Named,
    Numbers,
    Presence,
    Quantity,
    Ring,
    Search,
)
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.phrases import check_phrase

figures = st.decimals(Decimal(0), Decimal(10**9), places=2).map(
    lambda n: n.quantize(Decimal(1)) if n == n.to_integral_value() else n.normalize()
)
texts = (
    st.text(st.characters(exclude_categories=("Cs", "Cc", "Zl", "Zp")), min_size=1, max_size=20)
    .map(lambda text: " ".join(text.split()))
    .filter(bool)
)


def _can_be_looked_for(phrase: str) -> bool:
    try:
        check_phrase(phrase)
    except ValueError:
        return False
    return True


phrases = texts.filter(_can_be_looked_for)
days = st.dates(date(1900, 1, 1), date(2100, 1, 1))
lengths = st.builds(dates.Length, st.integers(1, 300), st.sampled_from(dates.CalendarUnit))
moments = st.one_of(days, lengths.map(dates.Ago), st.just(dates.Ago(dates.Length(0, dates.CalendarUnit.DAY))))
spans = st.one_of(
    st.builds(dates.On, moments),
    st.builds(dates.Before, moments),
    st.builds(dates.Since, moments),
    st.tuples(days, days).map(lambda pair: dates.BetweenDays(*sorted(pair))),
    st.builds(dates.InTheLast, lengths),
    st.builds(dates.InTheNext, lengths),
    st.builds(dates.MoreThanAgo, lengths),
)


@st.composite
def ranges(draw: st.DrawFn) -> FigureRange:
    low, high = sorted([draw(figures), draw(figures)])
    return draw(st.sampled_from([FigureRange(low, high), FigureRange(low, None), FigureRange(None, high)]))


numbers = st.builds(
    Numbers,
    st.from_regex(r"[0-9]{2}-[0-9]{3}(-\*|-[0-9]{3}|-[0-9]\.\.[0-9]|-[0-9]\|[0-9])?", fullmatch=True),
    st.sampled_from(["", "tamarack", "pike-hollow"]),
)


@st.composite
def rings(draw: st.DrawFn) -> Ring:
    """Rings around anything, with one end or both."""
    some = st.decimals(Decimal("0.01"), Decimal(600), places=2).map(
        lambda n: n.quantize(Decimal(1)) if n == n.to_integral_value() else n.normalize()
    )
    low, high = sorted([draw(some), draw(some)])
    ends = draw(st.sampled_from([(low, high), (low, None), (None, high)]))
    center = draw(st.sampled_from(Center))
    degrees = st.builds("{:.4f}, {:.4f}".format, st.floats(-90, 90), st.floats(-180, 180))
    at = {
        Center.PARCEL: st.from_regex(r"(tamarack/)?[0-9]{2}-[0-9]{3}-[0-9]{3}", fullmatch=True),
        Center.ZIP: st.from_regex(r"[0-9]{5}", fullmatch=True),
        Center.POINT: degrees,
    }
    return Ring(*ends, draw(st.sampled_from(DistanceUnit)), center, draw(at.get(center, texts)))


def members(trait: Trait) -> st.SearchStrategy:
    """Phrases, or members of a set: those declared, where there are such."""
    declared = [key for key, _ in trait.value_names()]
    items = st.sampled_from(declared) if declared else phrases if trait.kind is Kind.PHRASES else texts
    return st.builds(Members, st.sampled_from(Quantity), st.lists(items, min_size=1, max_size=3).map(tuple))


def values(trait: Trait) -> st.SearchStrategy:
    if trait.has_none:
        return st.one_of(st.builds(Presence, st.booleans()), _values(trait))
    if trait.takes_any and not trait.zero_is_none:
        return st.one_of(st.just(Presence(is_there=True)), _values(trait))
    return _values(trait)


def _values(trait: Trait) -> st.SearchStrategy:
    match trait.kind:
        case Kind.NUMBER | Kind.MONEY | Kind.PERCENT:
            return st.one_of(figures.map(Exactly), ranges())
        case Kind.DATE:
            return spans
        case Kind.CHOICE:
            return st.sampled_from([Exactly(key) for key, _ in trait.value_names()])
        case Kind.FLAG:
            return st.booleans().map(Exactly)
        case Kind.PLACE:
            return texts.map(Exactly)
        case Kind.NAME:
            return st.builds(Named, texts, st.sampled_from(Match))
        case Kind.PARCEL_NUMBER:
            return numbers
        case Kind.RING:
            return rings()
    return members(trait)


@st.composite
def criteria(draw: st.DrawFn, *, in_group: bool = False, of: str = "") -> Criterion:
    trait = CATALOGUE[of] if of else draw(st.sampled_from([trait for trait in CATALOGUE if trait.key != "county"]))
    if trait.kind in (Kind.PHRASES, Kind.SET):
        accepts = draw(st.lists(values(trait), max_size=2))
        refuses = draw(st.lists(members(trait).map(lambda m: Members(Quantity.ANY, m.items)), max_size=1))
    else:
        accepts = draw(st.lists(values(trait), max_size=3))
        refuses = draw(st.lists(values(trait), max_size=2))
    unknown = draw(st.booleans())
    ask = draw(st.booleans()) or not (accepts or refuses or unknown)
    struck = not in_group and draw(st.booleans())
    return Criterion(trait.key, tuple(accepts), tuple(refuses), unknown, struck, ask)


@st.composite
def searches(draw: st.DrawFn) -> Search:
    groups = st.builds(AnyOf, st.lists(criteria(in_group=True), min_size=1, max_size=3).map(tuple), st.booleans())
    lines = draw(st.lists(st.one_of(criteria(), groups), max_size=5))
    counties = draw(st.lists(texts, max_size=2))
    return Search(tuple(counties), tuple(lines))
