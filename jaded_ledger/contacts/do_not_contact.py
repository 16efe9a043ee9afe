"""Who must get nothing, as every path asks it: mailings, files, and whatever else takes contact data out."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property
from typing import Any, NamedTuple

from django.db import IntegrityError, connection, transaction
from django.db.models import Q, QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import DO_NOT_CONTACT
from jaded_ledger.contacts.models import DoNotContact
from jaded_ledger.contacts.suppression_file import Entry
from jaded_ledger.core.mail.addresses import standardize
from jaded_ledger.records.bulk import allot_ids, among, copy_rows
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Contact, Owner, ParcelFacts, RecordedAddress

Kind, Source = DoNotContact.Kind, DoNotContact.Source
_EMAIL = re.compile(r"[^@\s]+@[^@\s]+\.[^@\s]+")
_DIGITS = 10


class DoNotContactError(ValueError):
    """What can't be noted; the message says why, and what to write."""


@dataclass(frozen=True)
class Refused:
    """Whom a team's notes refuse, as they stand."""

    team_id: int

    @property
    def _rows(self) -> QuerySet[DoNotContact]:
        return DoNotContact.objects.filter(team_id=self.team_id, ended_at=None)

    @cached_property
    def owners(self) -> frozenset[int]:
        return frozenset(self._rows.filter(kind=Kind.PERSON).values_list("owner_id", flat=True))

    @cached_property
    def places(self) -> frozenset[str]:
        """Households that want nothing."""
        return frozenset(self._rows.filter(kind=Kind.ADDRESS).exclude(source=Source.RETURNED).values_list("value", flat=True))

    @cached_property
    def returned(self) -> dict[str, date]:
        """Households from which mail came back, and when."""
        return dict(self._rows.filter(kind=Kind.ADDRESS, source=Source.RETURNED).values_list("value", "since"))

    @cached_property
    def lines(self) -> frozenset[str]:
        """Phone numbers and email addresses that the team noted, and those recorded as do not contact for any owner."""
        noted = self._rows.filter(kind__in=[Kind.TELEPHONE, Kind.EMAIL]).values_list("value", flat=True)
        recorded = Contact.objects.filter(do_not_contact=True, superseded_at=None).values_list("value", flat=True)
        return frozenset(noted.union(recorded))

    def address_ids(self) -> list[int]:
        """Return the addresses on record at households that want nothing, however they are written."""
        streets = {place.split("|", 1)[0] for place in self.places}
        found = RecordedAddress.objects.filter(street__in=among(streets)) if streets else RecordedAddress.objects.none()
        return [one.pk for one in found if one.address.household_key in self.places]


def refused_by(scope: Scope) -> Refused:
    """Return whom the team must not contact."""
    return Refused(scope.team.pk)


def may_be_contacted(parcels: QuerySet[ParcelFacts], scope: Scope) -> QuerySet[ParcelFacts]:
    """Return the parcels about which somebody may be contacted: a file holds no others, and nobody can have it otherwise."""
    refused = refused_by(scope)
    asked = Q(do_not_contact=True)
    if refused.owners:
        asked |= Q(owner__in=refused.owners)
    if ids := refused.address_ids():
        asked |= Q(mailing_address__in=ids) | Q(address__in=ids)
    # What is unknown refuses nothing: a parcel without an owner on record stays.
    return parcels.exclude(pk__in=ParcelFacts.objects.filter(asked).values("pk"))


def telephone(text: str) -> str:
    """Return a telephone number as contacts have it. Raises DoNotContactError."""
    digits = re.sub(r"\D", "", text, flags=re.ASCII)
    digits = digits[1:] if len(digits) == _DIGITS + 1 and digits.startswith("1") else digits
    if len(digits) != _DIGITS:
        raise DoNotContactError(f"“{text.strip()[:40]}” is no telephone number of ten digits; write it as 414 555 0123")
    return f"+1{digits}"


def _place(text: str) -> str:
    """Return the household of an address written in a line. Raises DoNotContactError."""
    street, _, rest = text.partition(",")
    match = re.fullmatch(r"(?P<city>.*?)[,\s]+(?P<state>[A-Za-z]{2})[,\s]+(?P<zip>[0-9]{5})(?:-[0-9]{4})?\s*", rest.strip())
    if match is None:
        raise DoNotContactError(f"“{text.strip()[:60]}” is no whole address; write it as 103 Capstan St, Alder Bay, WI 53301")
    found = standardize(street, "", match["city"].strip(" ,"), match["state"].upper(), match["zip"])
    if found.undeliverable:
        raise DoNotContactError(f"“{text.strip()[:60]}” can't be read as an address: {found.undeliverable}")
    return found.household_key


def told_apart(text: str) -> tuple[DoNotContact.Kind, str]:
    """Return what a line is that names nobody on record: an e-mail address, a telephone number or an address, and its value.

    Raises DoNotContactError.
    """
    said = " ".join(text.split())
    if _EMAIL.fullmatch(said):
        return Kind.EMAIL, said.casefold()
    if re.fullmatch(r"[+()0-9 .\-/]{7,20}", said):
        return Kind.TELEPHONE, telephone(said)
    return Kind.ADDRESS, _place(said)


def note(
    scope: Scope,
    kind: DoNotContact.Kind,
    source: DoNotContact.Source,
    *,
    label: str,
    value: str = "",
    owner: Owner | None = None,
    since: date | None = None,
    text: str = "",
) -> DoNotContact:
    """Note that somebody is to be left alone; what is noted already stays as it is. Raises PermissionDenied."""
    require(scope, DO_NOT_CONTACT)
    values = {
        "label": label[:200],
        "source": source,
        "since": since or scope.today,
        "note": text[:300],
        "noted_by": scope.user,
        "noted_at": now(),
    }
    who = {"team": scope.team, "kind": kind, "owner": owner, "value": value[:200], "ended_at": None}
    try:
        with transaction.atomic():
            return DoNotContact.objects.create(**who, **values)
    except IntegrityError:
        # Somebody noted it in the same moment, or before.
        return DoNotContact.objects.get(**who)


class Wrong(NamedTuple):
    """An entry that could not be noted, and why."""

    entry: Entry
    why: str


def note_entries(
    scope: Scope, given: Iterable[Entry], source: DoNotContact.Source, *, text: str = "", since: date | None = None
) -> tuple[int, list[Wrong]]:
    """Note each entry of a text or a file; return how many stand noted for them, and what is wrong with the others.

    What is noted already stays as it is. Raises PermissionDenied.
    """
    require(scope, DO_NOT_CONTACT)
    labels: dict[tuple[DoNotContact.Kind, str], str] = {}
    wrong = []
    for entry in given:
        try:
            kind, value = told_apart(entry.text)
        except DoNotContactError as error:
            wrong.append(Wrong(entry, str(error)))
            continue
        labels.setdefault((kind, value[:200]), " ".join(entry.text.split())[:200])
    values = {
        "team_id": scope.team.pk, "source": source, "since": since or scope.today, "note": text[:300],
        "noted_by_id": scope.user.pk if scope.user else None, "noted_at": now(), "owner_id": None, "ended_at": None, "ended_by_id": None,
    }  # fmt: skip
    ids = allot_ids(DoNotContact, len(labels))
    _add(
        [
            {"id": pk, "kind": kind, "value": value, "label": label, **values}
            for pk, ((kind, value), label) in zip(ids, labels.items(), strict=True)
        ]
    )
    return len(labels), wrong


@transaction.atomic
def _add(rows: Sequence[Mapping[str, Any]]) -> None:
    """Add many rows, except those that exist or that another request adds at the same time."""
    table = connection.ops.quote_name(DoNotContact._meta.db_table)
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE TEMPORARY TABLE noted_at_once (LIKE {table}) ON COMMIT DROP")
        copy_rows(DoNotContact, rows, table="noted_at_once")
        cursor.execute(f"INSERT INTO {table} SELECT * FROM noted_at_once ON CONFLICT DO NOTHING")  # noqa: S608 - a name of ours
        cursor.execute("DROP TABLE noted_at_once")


def day_said(text: str, today: date) -> date | None:
    """Return the day since when somebody is to be left alone; None where none is said. Raises DoNotContactError."""
    if not text.strip():
        return None
    try:
        found = date.fromisoformat(text.strip())
    except ValueError:
        raise DoNotContactError(f"“{text.strip()[:20]}” is no day; write it as 2026-11-24") from None
    if found > today:
        raise DoNotContactError(f"{found} is yet to come; nothing is mailed from the day on that it is noted")
    return found


def end(scope: Scope, row: DoNotContact) -> None:
    """Take a note back; that it was there stays on record. Raises PermissionDenied."""
    require(scope, DO_NOT_CONTACT)
    DoNotContact.objects.filter(pk=row.pk, ended_at=None).update(ended_at=now(), ended_by=scope.user)


def put_back(scope: Scope, row: DoNotContact) -> None:
    """Undo that a note was taken back. Raises PermissionDenied."""
    require(scope, DO_NOT_CONTACT)
    rows = DoNotContact.objects.filter(team=scope.team, kind=row.kind, owner=row.owner, value=row.value, ended_at=None)
    if not rows.exists():
        DoNotContact.objects.filter(pk=row.pk).update(ended_at=None, ended_by=None)
