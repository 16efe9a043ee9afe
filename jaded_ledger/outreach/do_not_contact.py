"""Who must get nothing, as every path asks it: mailings, files, and whatever else takes contact data out."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from functools import cached_property
from typing import NamedTuple

from django.db import IntegrityError, transaction
from django.db.models import Q, QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.mail.addresses import standardize
from jaded_ledger.outreach.acts import DO_NOT_CONTACT
from jaded_ledger.outreach.models import DoNotContact
from jaded_ledger.outreach.suppression_file import Entry
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Owner, ParcelFacts, RecordedAddress

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
        """Telephone numbers and e-mail addresses."""
        return frozenset(self._rows.filter(kind__in=[Kind.TELEPHONE, Kind.EMAIL]).values_list("value", flat=True))

    def address_ids(self) -> list[int]:
        """Return the addresses on record at households that want nothing, however they are written."""
        streets = {place.split("|", 1)[0] for place in self.places}
        found = RecordedAddress.objects.filter(street__in=streets) if streets else RecordedAddress.objects.none()
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
    told = {
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
            return DoNotContact.objects.create(**who, **told)
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
    """Note each entry of a text or a file; return how many stand noted for them, and what is wrong with the others."""
    noted: set[int] = set()
    wrong = []
    for entry in given:
        try:
            kind, value = told_apart(entry.text)
        except DoNotContactError as error:
            wrong.append(Wrong(entry, str(error)))
            continue
        noted.add(note(scope, kind, source, label=" ".join(entry.text.split()), value=value, text=text, since=since).pk)
    return len(noted), wrong


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
