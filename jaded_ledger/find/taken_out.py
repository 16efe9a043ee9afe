"""Rows taken out of a search by hand: a line of the ledger as any other, kept with the search."""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Iterator
from functools import reduce
from operator import or_

from django.contrib.postgres.expressions import ArraySubquery
from django.db import transaction
from django.db.models import Case, Count, Func, OuterRef, Q, QuerySet, TextField, Value, When
from django.db.models.expressions import BaseExpression
from django.db.models.functions import Cast, Concat

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.criteria.search import Criterion, Line, Members, Presence, Quantity
from jaded_ledger.core.criteria.search import Value as Asked
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.facts.explanations.entries import Entry
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.compiler import not_
from jaded_ledger.find.models import TakenOut, TakenOutRow
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel

KEY = "taken-out"
MOST = 2_000
"""More rows than these nobody looks through: a criterion says it."""


def _name(pk: int, rows: int) -> str:
    return f"the {rows:,} taken out by hand (no. {pk})" if rows > 1 else f"the one taken out by hand (no. {pk})"


def _of_name(name: str, team: Team) -> TakenOut:
    """Return what was taken out, by its name: the number in it tells. Raises CriteriaError."""
    number = whole_number(name.rpartition("(no. ")[2].removesuffix(")"))
    found = TakenOut.objects.filter(team=team, pk=number).first() if number is not None else None
    if found is None:
        raise CriteriaError(f"“{name}” was not taken out of any of your team's searches", word=name)
    return found


def _condition(values: tuple[Asked, ...], scope: Scope) -> Q:
    found = []
    for value in values:
        rows = TakenOutRow.objects.filter(taken_out__team=scope.team)
        if isinstance(value, Presence):
            among = Q(pk__in=rows.values("parcel"))
            found.append(among if value.is_there else not_(among))
        elif isinstance(value, Members):
            found += [Q(pk__in=rows.filter(taken_out=_of_name(item, scope.team)).values("parcel")) for item in value.items]
    return reduce(or_, found)


def _names(scope: Scope) -> BaseExpression:
    number = Cast("pk", TextField())
    several = Func("how_many", Value("FM9,999"), function="to_char", output_field=TextField())
    name = Case(
        When(how_many=1, then=Concat(Value("the one taken out by hand (no. "), number, Value(")"), output_field=TextField())),
        default=Concat(Value("the "), several, Value(" taken out by hand (no. "), number, Value(")"), output_field=TextField()),
    )
    sets = TakenOut.objects.filter(team=scope.team, pk__in=TakenOutRow.objects.filter(parcel=OuterRef(OuterRef("pk"))).values("taken_out"))
    return ArraySubquery(sets.order_by("pk").annotate(how_many=Count("rows")).annotate(name=name).values("name"))


def _explain(parcel: Parcel, _: Findings, scope: Scope) -> Iterator[Entry]:
    rows = TakenOutRow.objects.filter(taken_out__team=scope.team, parcel=parcel).select_related("user")
    if not rows:
        yield Entry("Taken out by hand", "none")
    for row in rows:
        yield Entry(f"no. {row.taken_out_id}", day_text(row.at.date()), f"taken out of a search by {row.who}")


TAKEN_OUT = TeamTrait(
    Trait(
        KEY, "rows", Section.LISTS, Kind.SET, "which rows were taken out of searches by hand", "your team", of_team=True,
        synonyms=("taken out by hand", "rows taken out", "false hits"),
    ),
    _condition,
    _names,
    _explain,
)  # fmt: skip


def is_taken_out(line: Line) -> bool:
    """Return whether a line leaves out rows that were taken out by hand."""
    return isinstance(line, Criterion) and line.trait == KEY and bool(line.refuses) and not line.accepts


def rows_of(line: Line, team: Team) -> QuerySet[TakenOutRow]:
    """Return the rows that a line leaves out, with who took them out. Raises CriteriaError."""
    assert isinstance(line, Criterion)
    names = [item for value in line.refuses if isinstance(value, Members) for item in value.items]
    return TakenOutRow.objects.filter(taken_out__in=[_of_name(name, team) for name in names]).select_related(
        "user", "parcel__facts__address"
    )


def _line_of(kept: TakenOut, rows: int) -> Criterion:
    return Criterion(KEY, refuses=(Members(Quantity.ANY, (_name(kept.pk, rows),)),))


@transaction.atomic
def line_without(scope: Scope, line: Line | None, out: Collection[int], back: Collection[int] = ()) -> Criterion | None:
    """Return the line that leaves out what ``line`` did and more rows, but those put back; None where no row is left.

    Raises CriteriaError where there are too many.
    """
    before = {row.parcel_id: row for row in rows_of(line, scope.team)} if line else {}
    known = set(Parcel.objects.filter(pk__in=out).values_list("pk", flat=True))
    parcels = sorted((before.keys() | known) - set(back))
    if not parcels:
        return None
    if len(parcels) > MOST:
        raise CriteriaError(f"at most {MOST:,} rows are taken out by hand, and these are {len(parcels):,}; add a criterion in their place")
    digest = hashlib.sha256(",".join(map(str, parcels)).encode()).hexdigest()
    kept, is_new = TakenOut.objects.get_or_create(team=scope.team, digest=digest)
    if is_new:
        TakenOutRow.objects.bulk_create(
            TakenOutRow(taken_out=kept, parcel_id=pk, user=before[pk].user, at=before[pk].at)
            if pk in before
            else TakenOutRow(taken_out=kept, parcel_id=pk, user=scope.user, at=now())
            for pk in parcels
        )
    return _line_of(kept, len(parcels))


def join_parcels(before: int, after: int) -> None:
    """Have what was taken out of a parcel be of another, by which it is known from now on."""
    there = TakenOutRow.objects.filter(parcel=after).values("taken_out")
    TakenOutRow.objects.filter(parcel=before, taken_out__in=there).delete()
    TakenOutRow.objects.filter(parcel=before).update(parcel=after)
