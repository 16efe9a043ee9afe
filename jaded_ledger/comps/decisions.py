"""What a team decides of comps: in or out with the reason, and the condition it sees. Nothing is lost: what was set can be set back."""

from __future__ import annotations

from datetime import date

from django.db import transaction

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.acts import COMPS
from jaded_ledger.comps.circumstances import Key
from jaded_ledger.comps.models import CompDecision, ConditionGrade
from jaded_ledger.comps.sales_on_record import county_sales
from jaded_ledger.core.comps.terms import GRADES
from jaded_ledger.find.parcel_lookup import NoSuchParcelError, parcel_named
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel

LONGEST_REASON = 200
REASONS = (
    "condition is not like it", "sold within a family", "sold in distress", "on a busier road", "on the water; this is not",
    "across a barrier", "another kind of house", "price is in doubt",
)  # fmt: skip
"""What is offered as a reason; any other can be typed."""


class DecisionError(ValueError):
    """Something that can't be decided; the message says why, and what to do."""


def key_of(text: str) -> Key:
    """Read a sale's key, parcel and day. Raises DecisionError."""
    number, _, day = text.partition("-")
    try:
        return int(number), date.fromisoformat(day)
    except ValueError:
        raise DecisionError("that comp can't be told; reload the page and choose it again") from None


def decide(scope: Scope, subject: Parcel, key: Key, *, is_in: bool, reason: str = "") -> None:
    """Have a sale in or out of a subject's comps. Raises DecisionError and PermissionDenied."""
    require(scope, COMPS)
    said = " ".join(reason.replace("\x00", "").split())
    if len(said) > LONGEST_REASON:
        raise DecisionError(f"a reason has at most {LONGEST_REASON} characters; this one has {len(said)}")
    if not Parcel.objects.filter(pk=key[0], county=subject.county).exists():
        raise DecisionError("that comp is no longer on record; reload the page")
    CompDecision.objects.update_or_create(
        team=scope.team, subject=subject, comp_id=key[0], sold_on=key[1],
        defaults={"is_in": is_in, "reason": said, "decided_by": scope.user, "decided_at": now()},
    )  # fmt: skip


def take_back(scope: Scope, subject: Parcel, key: Key) -> None:
    """Have a sale be as the lines have it. Raises PermissionDenied."""
    require(scope, COMPS)
    CompDecision.objects.filter(team=scope.team, subject=subject, comp_id=key[0], sold_on=key[1]).delete()


def put_in(scope: Scope, subject: Parcel, typed: str) -> Key:
    """Put the latest sale of a parcel in by hand, whatever the lines say. Raises DecisionError and PermissionDenied."""
    require(scope, COMPS)
    try:
        parcel = parcel_named(typed.strip())
    except NoSuchParcelError as error:
        raise DecisionError(f"{error}; write the comp’s parcel number") from error
    if parcel.pk == subject.pk:
        raise DecisionError("that is the property itself; a comp is another one")
    if parcel.county_id != subject.county_id:
        raise DecisionError(f"{parcel.number} is in {parcel.county.name} County; comps are of the subject’s own")
    sales = county_sales(parcel.county, scope.today).before(scope.today, 730)
    days = sales.day[sales.parcel == parcel.pk]
    if not len(days):
        raise DecisionError(f"no sale of {parcel.number} is on record in the last 24 months")
    key = parcel.pk, date.fromordinal(int(days[-1]))
    decide(scope, subject, key, is_in=True, reason="put in by hand")
    return key


@transaction.atomic
def set_grade(scope: Scope, parcel_id: int, sold_on: date | None, grade: str) -> None:
    """Grade the condition of a property, as it was sold on a day or as it stands; blank for none. Raises DecisionError."""
    require(scope, COMPS)
    if grade and grade not in GRADES:
        raise DecisionError(f"a condition is graded {', '.join(GRADES.values())}, or not at all")
    if not Parcel.objects.filter(pk=parcel_id).exists():
        raise DecisionError("that comp is no longer on record; reload the page")
    if not grade:
        ConditionGrade.objects.filter(team=scope.team, parcel_id=parcel_id, sold_on=sold_on).delete()
        return
    ConditionGrade.objects.update_or_create(
        team=scope.team, parcel_id=parcel_id, sold_on=sold_on,
        defaults={"grade": grade, "graded_by": scope.user, "graded_at": now()},
    )  # fmt: skip


def following_grade(grade: str) -> str:
    """Return the grade after one, as a key that is pressed again and again goes through them: none after the last."""
    every = ["", *GRADES]
    return every[(every.index(grade) + 1) % len(every)] if grade in every else ""
