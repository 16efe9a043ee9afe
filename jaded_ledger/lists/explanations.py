"""How what a team keeps of a parcel came about: who put it on which list, and when; its tags; its stages; its urgency."""

from __future__ import annotations

from collections.abc import Iterator

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue.choices import STATUSES
from jaded_ledger.core.criteria.display import UNKNOWN, day_text
from jaded_ledger.core.distress.signals import TOLD_BY
from jaded_ledger.core.distress.urgency import MOST
from jaded_ledger.core.facts.explanations.entries import Entry, Source, money
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.find.named_things import current_text
from jaded_ledger.lists.current_rows import memberships, stage_history, taggings
from jaded_ledger.lists.models import Activity, Membership, ParcelList, Tagging
from jaded_ledger.lists.staleness import stale_memberships
from jaded_ledger.lists.urgency import account_of, scale_of
from jaded_ledger.records.models import Parcel

_STATUSES = {choice.code: choice.key for choice in STATUSES}


def _by(act: Activity) -> str:
    return f"by {act.user}" if act.user else "from the command line"


def _as_it_stood(row: Membership) -> Iterator[str]:
    """Yield how a parcel stood when it was put on a list, as far as that is known."""
    if row.owner_name:
        yield f"then {in_reading_case(row.owner_name.text)}"
    if row.value is not None:
        yield f"worth {money(row.value)}"
    if row.status is not None:
        yield f"listing {_STATUSES[row.status]}"
    if row.tax_due:
        yield f"{money(row.tax_due)} of tax due"


def explain_lists(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
    """The lists it is on, how it came there, and how it stood then."""
    rows = memberships(scope).filter(parcel=parcel)
    stale = set(stale_memberships(rows).values_list("pk", flat=True))
    for row in rows.select_related("list", "added__user", "owner_name").order_by("-added_on", "list__folded"):
        note = f"{row.list.get_type_display()}; added {_by(row.added)}; {', '.join(_as_it_stood(row)) or 'nothing else known of it then'}"
        if row.added.search:
            note += f"; from the search “{' · '.join(current_text(row.added.search, scope.team).splitlines())}”"
        yield Entry(row.list.name, day_text(row.added_on), f"{note}{'; stale: passed to somebody else since' if row.pk in stale else ''}")
    if not rows:
        yield Entry("On a list", "none")


def explain_tags(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
    """Its tags, with their days."""
    rows: list[Tagging] = list(
        taggings(scope).filter(parcel=parcel).select_related("tag", "added__user").order_by("-tagged_on", "tag__folded")
    )
    for row in rows:
        yield Entry(row.tag.name, day_text(row.tagged_on), _by(row.added))
    if not rows:
        yield Entry("Tags", "none")


def explain_stages(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
    """Its stages, those before it too."""
    rows = list(stage_history(scope).filter(parcel=parcel).select_related("stage", "added__user").order_by("-pk"))
    for row in rows:
        yield Entry(row.stage.name if row.stage else "taken off its stage", day_text(row.since), _by(row.added))
    if not rows:
        yield Entry("Stage", "none")


def explain_urgency(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
    """Yield the account of a parcel's urgency, line by line."""
    counted = account_of(parcel, found, scope)
    for item in counted.items:
        sign = item.sign
        when = f"to come on {day_text(sign.on)}" if sign.on > scope.today else day_text(sign.on)
        if sign.is_going_on:
            when = f"goes on, last confirmed {when}"
        note = f"{when}: weight {sign.weight} × {item.decay:.2f}"
        yield Entry(f"{sign.what[:1].upper()}{sign.what[1:]}", str(item.points), note, (Source(*sign.row),) if sign.row else ())
    for row in stale_memberships(memberships(scope).filter(parcel=parcel, list__type=ParcelList.Type.REASON)).select_related("list"):
        yield Entry(f"On “{row.list.name}”", "0", "stale: it has passed to somebody else since it was added")
    if not any(map(found.county.has, TOLD_BY.values())):
        yield Entry("Signs of distress", UNKNOWN, f"none of the records that tell of them are on file of {found.county.name}")
    cap = f"no more than {MOST} is shown" if counted.total > MOST else f"points halve every {scale_of(scope.team).half_life} months"
    yield Entry("In all", str(counted.total), cap, is_sum=True)
