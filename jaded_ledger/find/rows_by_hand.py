"""Rows taken out of a search by hand, and rows kept in one though a line takes them off: criteria as any other, kept with the search.

What is taken out is a line of its own. A row that is kept makes its line a group: what the line asks, or being one of the rows kept.
"""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from functools import partial, reduce
from operator import or_

from django.contrib.postgres.expressions import ArraySubquery
from django.db import transaction
from django.db.models import Case, Count, Func, OuterRef, Q, QuerySet, TextField, Value, When
from django.db.models.expressions import BaseExpression
from django.db.models.functions import Cast, Concat

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.criteria.search import AnyOf, Criterion, Line, Members, Presence, Quantity
from jaded_ledger.core.criteria.search import Value as Asked
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.facts.explanations.entries import Entry
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.compiler import not_
from jaded_ledger.find.models import RowByHand, RowsByHand
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.records.clock import day_of, now
from jaded_ledger.records.models import Parcel

Way = RowsByHand.Way
KEYS = {Way.TAKEN_OUT: "taken-out", Way.KEPT: "kept-by-hand"}
_WAYS = {key: way for way, key in KEYS.items()}
_LONGEST_REASON = RowByHand._meta.get_field("reason").max_length or 0
MOST = 2_000
"""More rows than these nobody looks through: a criterion says it."""


def _name(pk: int, rows: int, way: RowsByHand.Way) -> str:
    return f"the {f'{rows:,}' if rows > 1 else 'one'} {way.label} by hand (no. {pk})"


def _of_name(name: str, team: Team, way: RowsByHand.Way) -> RowsByHand:
    """Return rows by their name: the number in it tells. Raises CriteriaError."""
    number = whole_number(name.rpartition("(no. ")[2].removesuffix(")"))
    found = RowsByHand.objects.filter(team=team, way=way, pk=number).first() if number is not None else None
    if found is None:
        raise CriteriaError(f"there is no “{name}”: your team has {way.label} no such rows in any of its searches", word=name)
    return found


def _condition(way: RowsByHand.Way, values: tuple[Asked, ...], scope: Scope) -> Q:
    found = []
    for value in values:
        rows = RowByHand.objects.filter(rows__team=scope.team, rows__way=way)
        if isinstance(value, Presence):
            among = Q(pk__in=rows.values("parcel"))
            found.append(among if value.is_there else not_(among))
        elif isinstance(value, Members):
            found += [Q(pk__in=rows.filter(rows=_of_name(item, scope.team, way)).values("parcel")) for item in value.items]
    return reduce(or_, found)


def _names(way: RowsByHand.Way, scope: Scope) -> BaseExpression:
    number = Cast("pk", TextField())
    several = Func("how_many", Value("FM9,999"), function="to_char", output_field=TextField())
    count = Case(When(how_many=1, then=Value("one")), default=several, output_field=TextField())
    name = Concat(Value("the "), count, Value(f" {way.label} by hand (no. "), number, Value(")"), output_field=TextField())
    held = RowByHand.objects.filter(parcel=OuterRef(OuterRef("pk"))).values("rows")
    every = RowsByHand.objects.filter(team=scope.team, way=way, pk__in=held)
    return ArraySubquery(every.order_by("pk").annotate(how_many=Count("each")).annotate(name=name).values("name"))


def _explain(way: RowsByHand.Way, parcel: Parcel, _: Findings, scope: Scope) -> Iterator[Entry]:
    rows = RowByHand.objects.filter(rows__team=scope.team, rows__way=way, parcel=parcel).select_related("user")
    if not rows:
        yield Entry(f"{way.label} by hand".capitalize(), "none")
    for row in rows:
        yield Entry(f"no. {row.rows_id}", day_text(day_of(row.at)), f"{way.label} by {row.who}{f': {row.reason}' if row.reason else ''}")


def _trait(way: RowsByHand.Way, label: str, meaning: str, synonyms: tuple[str, ...]) -> TeamTrait:
    return TeamTrait(
        Trait(KEYS[way], label, Section.LISTS, Kind.SET, meaning, "your team", of_team=True, synonyms=synonyms),
        partial(_condition, way),
        partial(_names, way),
        partial(_explain, way),
    )


TRAITS = (
    _trait(Way.TAKEN_OUT, "rows", "which rows were taken out of searches by hand", ("taken out by hand", "rows taken out", "false hits")),
    _trait(Way.KEPT, "kept rows", "which rows were kept in searches by hand, though a line took them off", ("kept by hand", "rows kept")),
)


def is_taken_out(line: Line) -> bool:
    """Return whether a line leaves out rows that were taken out by hand."""
    return isinstance(line, Criterion) and line.trait == KEYS[Way.TAKEN_OUT] and bool(line.refuses) and not line.accepts


def kept_in(line: Line) -> Criterion | None:
    """Return what of a line keeps rows by hand, if anything does."""
    return next((one for one in line.members() if one.trait == KEYS[Way.KEPT] and one.accepts), None)


def is_by_hand(line: Line) -> bool:
    """Return whether a line tells of rows that were taken out or kept by hand."""
    return is_taken_out(line) or kept_in(line) is not None


def rows_of(line: Line, team: Team) -> QuerySet[RowByHand]:
    """Return the rows that a line leaves out or keeps by hand, with who did it. Raises CriteriaError."""
    found = [
        _of_name(item, team, _WAYS[one.trait]).pk
        for one in line.members()
        if one.trait in _WAYS
        for value in (*one.accepts, *one.refuses)
        if isinstance(value, Members)
        for item in value.items
    ]
    return RowByHand.objects.filter(rows__in=found).select_related("user", "parcel__facts__address")


@dataclass(frozen=True)
class _Put:
    """Who put a row among others, when and why."""

    user_id: int | None
    at: datetime
    reason: str


@transaction.atomic
def _rows(scope: Scope, way: RowsByHand.Way, rows: Mapping[int, _Put]) -> str | None:
    """Return the name of some rows, which are kept if they aren't yet; None for none. Raises CriteriaError for too many."""
    if not rows:
        return None
    if len(rows) > MOST:
        raise CriteriaError(f"at most {MOST:,} rows are {way.label} by hand, and these are {len(rows):,}; add a criterion in their place")
    text = "\n".join(f"{pk} {rows[pk].reason}".rstrip() for pk in sorted(rows))
    kept, is_new = RowsByHand.objects.get_or_create(team=scope.team, way=way, digest=hashlib.sha256(text.encode()).hexdigest())
    if is_new:
        RowByHand.objects.bulk_create(
            RowByHand(rows=kept, parcel_id=pk, user_id=put.user_id, at=put.at, reason=put.reason) for pk, put in sorted(rows.items())
        )
    return _name(kept.pk, len(rows), way)


def _after(scope: Scope, line: Line | None, more: Mapping[int, str], less: Collection[int]) -> dict[int, _Put]:
    """Return the rows of a line and more of them, each with why, but for some."""
    there = {row.parcel_id: _Put(row.user_id, row.at, row.reason) for row in rows_of(line, scope.team)} if line else {}
    known = Parcel.objects.filter(pk__in=more.keys() - there.keys()).values_list("pk", flat=True)
    here = _Put(scope.user.pk if scope.user else None, now(), "")
    there |= {pk: replace(here, reason=" ".join(more[pk].split())[:_LONGEST_REASON]) for pk in known}
    return {pk: put for pk, put in there.items() if pk not in less}


def line_without(scope: Scope, line: Line | None, out: Collection[int], back: Collection[int] = ()) -> Criterion | None:
    """Return the line that leaves out what ``line`` did and more rows, but those put back; None where no row is left.

    Raises CriteriaError where there are too many.
    """
    name = _rows(scope, Way.TAKEN_OUT, _after(scope, line, dict.fromkeys(out, ""), back))
    return None if name is None else Criterion(KEYS[Way.TAKEN_OUT], refuses=(Members(Quantity.ANY, (name,)),))


def line_keeping(scope: Scope, line: Line, more: Mapping[int, str], less: Collection[int] = ()) -> Line:
    """Return a line that keeps some rows, each with why, beside what it asks, but none of ``less``. Raises CriteriaError."""
    kept = kept_in(line)
    asks = tuple(one for one in line.members() if one is not kept)
    name = _rows(scope, Way.KEPT, _after(scope, kept, more, less))
    if name is None:
        return line if kept is None else AnyOf(asks, line.struck) if len(asks) > 1 else replace(asks[0], struck=line.struck)
    asks = tuple(replace(one, struck=False) for one in asks)
    return AnyOf((*asks, Criterion(KEYS[Way.KEPT], (Members(Quantity.ANY, (name,)),))), line.struck)


def join_parcels(before: int, after: int) -> None:
    """Have what was done by hand with a parcel be of another, by which it is known from now on."""
    there = RowByHand.objects.filter(parcel=after).values("rows")
    RowByHand.objects.filter(parcel=before, rows__in=there).delete()
    RowByHand.objects.filter(parcel=before).update(parcel=after)
