"""The traits of lists, tags and stages, each declared once: what it is, how it is asked, what its value is and how that came about."""

from __future__ import annotations

import difflib
from collections.abc import Callable
from datetime import date
from functools import partial, reduce
from operator import and_, or_
from typing import Any

from django.contrib.postgres.expressions import ArraySubquery
from django.db.models import Count, Exists, IntegerField, Max, OuterRef, Q, QuerySet, Subquery
from django.db.models.expressions import BaseExpression
from django.db.models.functions import Coalesce

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Exactly, FigureRange, Members, Presence, Quantity, Value
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.words import folded
from jaded_ledger.find.compiler import not_
from jaded_ledger.find.team_traits import NamedThing, TeamTrait
from jaded_ledger.lists.current_rows import memberships, stage_entries, taggings
from jaded_ledger.lists.explanations import explain_lists, explain_stages, explain_tags, explain_urgency
from jaded_ledger.lists.models import Membership, ParcelList, Stage, Tag
from jaded_ledger.lists.stages import stages_of
from jaded_ledger.lists.staleness import fresh_memberships, stale_memberships
from jaded_ledger.lists.urgency import scale_of, urgency

Rows = Callable[[Scope], QuerySet[Any]]


def _of_type(kind: ParcelList.Type) -> Rows:
    return lambda scope: memberships(scope).filter(list__type=kind)


_EVERY = Q(pk__gt=0)
"""Of every parcel; a condition that never is unknown."""


def _among(rows: QuerySet[Any]) -> Q:
    return Q(pk__in=rows.values("parcel"))


def _names_of(model: type[ParcelList | Tag | Stage], scope: Scope) -> dict[str, tuple[int, str]]:
    """Return a team's lists, tags or stages by their folded names: id and name."""
    if model is Stage:
        return {stage.folded: (stage.pk, stage.name) for stage in stages_of(scope.team)}
    kept = {} if model is Tag else {"deleted": None}
    rows = model._default_manager.filter(team=scope.team, **kept)
    return {key: (pk, name) for key, pk, name in rows.values_list("folded", "pk", "name")}


def _things(model: type[ParcelList | Tag | Stage]) -> Callable[[Team], list[NamedThing]]:
    """Return what lists all that a team has of a kind, also what it deleted or gave up."""
    gone = {ParcelList: "deleted", Stage: "is_out"}.get(model)

    def things(team: Team) -> list[NamedThing]:
        rows = model._default_manager.filter(team=team).values_list("pk", "name", *([gone] if gone else []))
        return [NamedThing(pk, name, not any(rest)) for pk, name, *rest in rows]

    return things


def _set(what: str, model: type[ParcelList | Tag | Stage], rows: Rows, column: str) -> Callable[[tuple[Value, ...], Scope], Q]:
    """Return the compiler of a set of named things that parcels are on."""

    def compile_(values: tuple[Value, ...], scope: Scope) -> Q:
        known = _names_of(model, scope)
        found = []
        for value in values:
            if isinstance(value, Presence):
                any_ = _among(rows(scope))
                found.append(any_ if value.is_there else not_(any_))
            elif isinstance(value, Members):
                each = [_among(rows(scope).filter(**{column: _id_of(item, known, what)})) for item in value.items]
                found.append(reduce(and_ if value.quantity is Quantity.ALL else or_, each))
        return reduce(or_, found)

    return compile_


def _id_of(name: str, known: dict[str, tuple[int, str]], what: str) -> int:
    if folded(name) in known:
        return known[folded(name)][0]
    near = difflib.get_close_matches(folded(name), known, n=1)
    hint = f"; did you mean “{known[near[0]][1]}”?" if near else ""
    raise CriteriaError(f"“{name}” is none of your team's {what}{hint}", word=name)


def _counted(rows: Rows) -> Callable[[tuple[Value, ...], Scope], Q]:
    """Return the compiler of how many there are: parcels with none are in no row that could be counted."""

    def compile_(values: tuple[Value, ...], scope: Scope) -> Q:
        counts = rows(scope).order_by().values("parcel").annotate(n=Count("pk"))
        found = []
        for value in values:
            low, high = _ends(value)
            if low is not None and low > 0:
                asked = counts.filter(n__gte=low) if high is None else counts.filter(n__gte=low, n__lte=high)
                found.append(_among(asked))
            elif high is not None and high < 0:
                found.append(not_(_EVERY))
            else:
                found.append(_EVERY if high is None else not_(_among(counts.filter(n__gt=high))))
        return reduce(or_, found)

    return compile_


def _ends(value: Value) -> tuple[float | None, float | None]:
    if isinstance(value, Exactly):
        return float(str(value.value)), float(str(value.value))
    assert isinstance(value, FigureRange)
    return tuple(None if end is None else float(end) for end in (value.low, value.high))  # type: ignore[return-value]


def _newest(rows: Rows, column: str) -> Callable[[tuple[Value, ...], Scope], Q]:
    """Return the compiler of the newest day of some rows."""

    def compile_(values: tuple[Value, ...], scope: Scope) -> Q:
        newest = rows(scope).order_by().values("parcel").annotate(day=Max(column))
        found = []
        for value in values:
            if isinstance(value, Presence):
                found.append(_among(rows(scope)) if value.is_there else not_(_among(rows(scope))))
                continue
            days = value.resolve(scope.today)  # type: ignore[union-attr]
            asked = newest.filter(day__gte=days.low or date.min, day__lte=days.high or date.max)
            found.append(_among(asked))
        return reduce(or_, found)

    return compile_


def _flag(rows: Rows) -> Callable[[tuple[Value, ...], Scope], Q]:
    def compile_(values: tuple[Value, ...], scope: Scope) -> Q:
        there = _among(rows(scope))
        return reduce(or_, [there if isinstance(value, Exactly) and value.value is True else not_(there) for value in values])

    return compile_


def _of_parcel(rows: QuerySet[Any]) -> QuerySet[Any]:
    return rows.filter(parcel=OuterRef("pk")).order_by()


def _names(rows: Rows, name: str) -> Callable[[Scope], BaseExpression]:
    return lambda scope: ArraySubquery(_of_parcel(rows(scope)).order_by(name).values(name))


def _number(rows: Rows) -> Callable[[Scope], BaseExpression]:
    def value(scope: Scope) -> BaseExpression:
        counted = _of_parcel(rows(scope)).values("parcel").annotate(n=Count("pk")).values("n")
        return Coalesce(Subquery(counted, output_field=IntegerField()), 0)

    return value


def _day(rows: Rows, column: str) -> Callable[[Scope], BaseExpression]:
    return lambda scope: Subquery(_of_parcel(rows(scope)).values("parcel").annotate(day=Max(column)).values("day"))


def _there(rows: Rows) -> Callable[[Scope], BaseExpression]:
    return lambda scope: Exists(_of_parcel(rows(scope)))


def _stale(scope: Scope) -> QuerySet[Membership]:
    return stale_memberships(memberships(scope))


def _fresh(scope: Scope) -> QuerySet[Membership]:
    return fresh_memberships(memberships(scope))


_of_team = partial(Trait, section=Section.LISTS, source="your team", of_team=True)
_REASONS, _CAMPAIGNS, _WORKING_SETS = (_of_type(kind) for kind in ParcelList.Type)

TEAM_TRAITS = (
    TeamTrait(
        _of_team("on-list", "on list", kind=Kind.SET, meaning="which of your team's lists it is on",
        synonyms=("list", "stacked", "in list")),
        _set("lists", ParcelList, memberships, "list"),
        _names(memberships, "list__name"),
        explain_lists,
        things=_things(ParcelList),
    ),
    TeamTrait(
        _of_team(
            "fresh-on-list", "on list, not stale", kind=Kind.SET,
            meaning="on which of your team's lists it is without having passed to somebody else since",
        ),
        _set("lists", ParcelList, _fresh, "list"),
        _names(_fresh, "list__name"),
        explain_lists,
        things=_things(ParcelList),
    ),
    TeamTrait(
        _of_team(
            "lists-held", "lists held", kind=Kind.NUMBER, meaning="on how many lists it is", unit="lists",
            synonyms=("number of lists", "how many lists", "on how many lists", "lists", "on lists", "stack depth"),
        ),
        _counted(memberships),
        _number(memberships),
        explain_lists,
    ),
    TeamTrait(
        _of_team("reasons-held", "reason lists held", kind=Kind.NUMBER, meaning="on how many lists of reasons it is", unit="lists"),
        _counted(_REASONS),
        _number(_REASONS),
        explain_lists,
    ),
    TeamTrait(
        _of_team("campaigns-held", "campaign lists held", kind=Kind.NUMBER, meaning="on how many lists of campaigns it is", unit="lists"),
        _counted(_CAMPAIGNS),
        _number(_CAMPAIGNS),
        explain_lists,
    ),
    TeamTrait(
        _of_team("working-sets-held", "working sets held", kind=Kind.NUMBER, meaning="on how many working sets it is", unit="lists"),
        _counted(_WORKING_SETS),
        _number(_WORKING_SETS),
        explain_lists,
    ),
    TeamTrait(
        _of_team(
            "list-added", "added to a list", kind=Kind.DATE, meaning="when it was last added to a list", event="on_any_list",
            synonyms=("date added", "listed by us"),
        ),
        _newest(memberships, "added_on"),
        _day(memberships, "added_on"),
        explain_lists,
        event=_there(memberships),
    ),
    TeamTrait(
        _of_team(
            "stale-on-list", "stale on a list", kind=Kind.FLAG, synonyms=("sold since",),
            meaning="whether it has passed to somebody else since it was added to one of its lists",
        ),
        _flag(_stale),
        _there(_stale),
        explain_lists,
    ),
    TeamTrait(
        _of_team(
            "urgency", "urgency", kind=Kind.NUMBER, synonyms=("score", "priority"),
            meaning="0 to 100: what its open signs of distress and your lists of reasons add up to, fading with time",
            source="all records that tell of distress, your team's lists and weights",
            rule="what the newest open sign of each kind and every list of a reason are worth, halving with time; no more than 100",
        ),
        None,
        urgency,
        explain_urgency,
        settings=lambda scope: scale_of(scope.team).key,
    ),
    TeamTrait(
        _of_team("tag", "tag", kind=Kind.SET, meaning="the words that your team put on it", synonyms=("tags", "label")),
        _set("tags", Tag, taggings, "tag"),
        _names(taggings, "tag__name"),
        explain_tags,
        things=_things(Tag),
    ),
    TeamTrait(
        _of_team("tagged", "tagged on", kind=Kind.DATE, meaning="when it was last tagged", event="has_tag"),
        _newest(taggings, "tagged_on"),
        _day(taggings, "tagged_on"),
        explain_tags,
        event=_there(taggings),
    ),
    TeamTrait(
        _of_team(
            "stage", "stage", kind=Kind.SET, meaning="how far your team's work on it has come", synonyms=("pipeline", "status of work"),
        ),
        _set("stages", Stage, stage_entries, "stage"),
        _names(stage_entries, "stage__name"),
        explain_stages,
        things=_things(Stage),
    ),
    TeamTrait(
        _of_team("stage-since", "stage since", kind=Kind.DATE, meaning="since when it is at its stage", event="has_stage"),
        _newest(stage_entries, "since"),
        _day(stage_entries, "since"),
        explain_stages,
        event=_there(stage_entries),
    ),
)  # fmt: skip
"""What a team keeps of parcels itself. Of every parcel it is known whether it has one."""
