"""Urgency as a team has it: its scale, and what it is for every parcel, asked of the database as ``core.distress.urgency`` has it."""

from __future__ import annotations

from collections.abc import Mapping

from django.contrib.postgres.fields import ArrayField
from django.db import transaction
from django.db.models import (
    Case,
    DateField,
    Expression,
    F,
    FloatField,
    Func,
    IntegerField,
    OuterRef,
    QuerySet,
    Subquery,
    Sum,
    Value,
    When,
)
from django.db.models.functions import Cast, Coalesce, Floor, Least, NullIf, Power

from jaded_ledger.accounts.audit import AuditKind, note
from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue.choices import key_of
from jaded_ledger.core.distress.signals import SignalKind
from jaded_ledger.core.distress.urgency import MOST, MOST_HALVINGS, WEIGHTS, Account, Scale, Sign, account
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.lists.acts import LISTS
from jaded_ledger.lists.counts import lists_of
from jaded_ledger.lists.current_rows import memberships
from jaded_ledger.lists.models import Membership, ParcelList, UrgencyScale
from jaded_ledger.lists.staleness import fresh_memberships
from jaded_ledger.records.models import Parcel
from jaded_ledger.records.trait_columns import DaysSince


class _SignPoints(Func):
    """What a parcel's open signs are still worth: their codes and days, weights by code, the day, the half-life, the most halvings."""

    # A plain 0.5 or 365.25 is numeric, of which a power takes ten times as long.
    template = (
        "(SELECT COALESCE(SUM(FLOOR(weights[code] * "
        "POWER(0.5::float8, LEAST(GREATEST(today - day, 0) / half_life::float8, most)) + 0.5)), 0)::integer "
        "FROM (SELECT %(expressions)s) AS given(codes, days, weights, today, half_life, most), UNNEST(codes, days) AS sign(code, day))"
    )
    output_field = IntegerField()


def scale_of(team: Team) -> Scale:
    """Return what signs are worth to a team."""
    try:
        kept = team.urgency_scale
    except UrgencyScale.DoesNotExist:
        return Scale()
    return Scale({kind: kept.weights.get(key_of(kind), weight) for kind, weight in WEIGHTS.items()}, kept.half_life)


@transaction.atomic
def set_scale(scope: Scope, scale: Scale, of_lists: Mapping[int, int]) -> None:
    """Have signs, and lists by their ids, be worth something else to a team. Raises PermissionDenied.

    What is as shipped is not kept, so that it follows what ships later.
    """
    require(scope, LISTS)
    own = {key_of(kind): weight for kind, weight in scale.weights.items() if weight != WEIGHTS[kind]}
    scope.team.urgency_scale, _ = UrgencyScale.objects.update_or_create(
        team=scope.team, defaults={"weights": own, "half_life": scale.half_life}
    )
    note(scope, AuditKind.SETTING, "what signs and lists weigh in urgency")
    for pk, weight in of_lists.items():
        lists_of(scope.team).filter(pk=pk).update(weight=weight)
    scope.team.put_up_version()


def counted_rows(scope: Scope) -> QuerySet[Membership]:
    """Return the rows of lists that urgency counts, unless they are stale: on a list of a reason that is worth something."""
    return memberships(scope).filter(list__type=ParcelList.Type.REASON, list__weight__gt=0)


def urgency(scope: Scope) -> Expression:
    """Return a parcel's urgency; unknown where no record could tell and no list gives it a point."""
    scale = scale_of(scope.team)
    today = Value(scope.today, output_field=DateField())
    half_life = Value(scale.half_life_days, output_field=FloatField())
    most = Value(float(MOST_HALVINGS), output_field=FloatField())
    weights = Value([scale.weights[kind] for kind in SignalKind], output_field=ArrayField(IntegerField()))
    of_signs = Case(
        When(signals__len=0, then=0),
        default=_SignPoints(F("signals"), F("signal_days"), weights, today, half_life, most),
        output_field=IntegerField(),
    )
    rows = counted_rows(scope)
    age = Cast(DaysSince(today, Coalesce("list__source_on", "added_on")), FloatField())
    halvings = Least(age / half_life, most)
    left = Floor(F("list__weight") * Power(Value(0.5), halvings) + Value(0.5), output_field=FloatField())
    of_parcel = fresh_memberships(rows.filter(parcel=OuterRef("pk"))).order_by().values("parcel")
    points = Subquery(of_parcel.annotate(points=Cast(Sum(left), IntegerField())).values("points"))
    # Most parcels are on no list; that is told at once for all, which rows are stale one by one.
    of_lists = Case(When(parcel__in=rows.values("parcel"), then=Coalesce(points, 0)), default=0, output_field=IntegerField())
    return Case(
        When(signals__isnull=False, then=Least(of_signs + of_lists, MOST)),
        default=NullIf(Least(of_lists, MOST), 0),
        output_field=IntegerField(),
    )


def account_of(parcel: Parcel, found: Findings, scope: Scope) -> Account:
    """Return what a parcel's urgency adds up from: its open signs, the newest of each kind, and the lists of reasons it is on."""
    scale = scale_of(scope.team)
    signs = [
        Sign(kind, one.counts_from, scale.weights[kind], one.row, one.confirmed_on is not None) for kind, one in found.open_signals.items()
    ]
    for row in fresh_memberships(counted_rows(scope).filter(parcel=parcel)).select_related("list").order_by("list__folded"):
        signs.append(Sign(f"on “{row.list.name}”", row.list.source_on or row.added_on, row.list.weight))
    return account(signs, scale, scope.today)
