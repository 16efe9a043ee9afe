"""The lists that the demo's team keeps: five, of different reasons and ages. Rows added long ago show who held the property then."""

from __future__ import annotations

from datetime import date, timedelta

from django.db import transaction
from django.db.models import F, QuerySet

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue.choices import STATUSES
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists import services
from jaded_ledger.lists.models import Activity, Membership, ParcelList
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import ParcelFacts, TransferParcel

LISTS = (
    ("Tax unpaid 2026", "reason", "liens", "TX", 40, "county: Tamarack\ntax-years-delinquent: 1.."),
    ("Absentee, Harbour", "reason", "owner", "AH", 400, "county: Tamarack\nowner-occupied: no\nneighborhood: Harbour Wards"),
    ("Vacant per city", "reason", "condition", "VA", 150, "county: Tamarack\nvacancy: any"),
    ("Owned 20 years or more", "reason", "owner", "20", 700, "county: Tamarack\nyears-owned: 20..\nclass: single-family, duplex"),
    ("Estates, spring letters", "campaign", "life event", "EL", 230, "any of:\n  probate: any\n  inherited: any"),
)
"""Name, type, reason, mark, how many days ago it was made, and from which search."""


@transaction.atomic
def make_lists(team: Team, today: date) -> None:
    """Make the demo's lists for a team that never did anything with lists."""
    if Activity.objects.filter(team=team).exists():
        return
    user = User.objects.filter(team=team).order_by("pk").first()
    for name, kind, reason, mark, days, text in LISTS:
        day = today - timedelta(days=days)
        scope = Scope(team, user, today)
        made = services.make_list(scope, name, type=kind, reason=reason, mark=mark, source_on=day)
        ids = list(_matches(text, scope).values_list("parcel_id", flat=True))
        services.add(scope, made, ids, text)
        _add_those_of_before(scope, made, day)
        if made.mark == "TX":
            _add_those_who_paid(scope, made)
        Activity.objects.filter(team=team, about=name).update(at=now() - timedelta(days=days))
        Membership.objects.filter(list=made).update(added_on=day)
        _held_as_of(made, day)
        _offered_as_of(made, day)
    _work_on_some(Scope(team, user, today))


def _matches(text: str, scope: Scope) -> QuerySet[ParcelFacts]:
    return Answer(SearchPage(parse(text)), scope).matches


def _work_on_some(scope: Scope) -> None:
    """Give some of the lists' parcels tags and stages, as a team that has worked with them for a while."""

    def some(text: str, every: int) -> list[int]:
        ids = _matches(text, scope).order_by("pk").values_list("parcel_id", flat=True)
        return [pk for place, pk in enumerate(ids) if place % every == 0]

    services.tag(scope, "drive by", some('on-list: any of "Vacant per city"', 2))
    services.tag(scope, "corner lot", some('on-list: any of "Absentee, Harbour"', 25))
    for stage, every in (("to look at", 9), ("comping", 27), ("offer out", 81), ("passed", 40)):
        services.set_stage(scope, stage, some('on-list: any of "Tax unpaid 2026", "Absentee, Harbour"', every))


def _add_those_of_before(scope: Scope, made: ParcelList, day: date) -> None:
    """Add some that were sold since: who made the list then could not know."""
    if made.type == ParcelList.Type.CAMPAIGN:
        return
    sold = _matches("county: Tamarack\nclass: single-family, duplex", scope).filter(owned_since__gt=day)
    share = 3 if made.mark != "20" else 2
    services.add(scope, made, [pk for place, pk in enumerate(sold.order_by("pk").values_list("pk", flat=True)) if place % share == 0])


def _offered_as_of(made: ParcelList, day: date) -> None:
    """Have rows say how the property was offered on a day, as far as its latest listing tells."""
    rows = Membership.objects.filter(list=made)
    rows.filter(parcel__facts__last_listed__gt=day).update(status=None)
    offered = rows.filter(parcel__facts__last_listed__lte=day, parcel__facts__status_since__gt=day)
    offered.update(status=next(choice.code for choice in STATUSES if choice.key == "active"))


def _add_those_who_paid(scope: Scope, made: ParcelList) -> None:
    """Add some whose tax was still due when the list was made, and is paid by now."""
    paid = _matches("county: Tamarack\ntax-due: 0\ntax-bill: 500..", scope).order_by("pk")
    bills = {pk: bill for place, (pk, bill) in enumerate(paid.values_list("pk", "tax_bill")) if place % 400 == 7}
    services.add(scope, made, bills)
    for row in Membership.objects.filter(list=made, parcel__in=bills):
        row.tax_due = bills[row.parcel_id]
        row.save(update_fields=["tax_due"])


def _held_as_of(made: ParcelList, day: date) -> None:
    """Have rows say who held the property on a day."""
    passed = Membership.objects.filter(list=made, parcel__facts__owned_since__gt=day)
    deeds = TransferParcel.objects.filter(
        parcel__in=passed.values("parcel"), transfer__superseded_at=None, transfer__sold_on=F("parcel__facts__owned_since")
    )
    grantors = dict(deeds.values_list("parcel_id", "transfer__grantor_id"))
    for row in passed:
        row.owner_id, row.owner_name_id, row.owned_since = None, grantors.get(row.parcel_id), None
        row.save(update_fields=["owner", "owner_name", "owned_since"])
