"""The telephone rings: pieces found by what the caller reads out, and what came of them noted."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import reduce
from operator import and_

from django.db import transaction
from django.db.models import Func, Q, QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts import do_not_contact
from jaded_ledger.contacts.do_not_contact import DoNotContactError, Kind, Source, telephone
from jaded_ledger.contacts.models import DoNotContact
from jaded_ledger.core.words import words_of
from jaded_ledger.find.parcel_lookup import NoSuchParcelError, parcel_named
from jaded_ledger.mailings.acts import REPLIES
from jaded_ledger.mailings.models import MailPiece, PieceOutcome
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Contact, Owner, ParcelFacts

MOST_FOUND = 50
_MOST_PARCELS = 500
_CODE = re.compile(r"([A-Za-z]{1,6}[2-9])[-– ]?(\d{1,7})")
Outcome = PieceOutcome.Kind
ENDS_CONTACT = {Outcome.OPTED_OUT, Outcome.RETURNED}
"""What has the person, or the address, be left alone from now on."""


def pieces_of(scope: Scope) -> QuerySet[MailPiece]:
    """Return the pieces that the team made, the newest mailing's first."""
    rows = MailPiece.objects.filter(mailing__team=scope.team, mailing__made_at__isnull=False)
    rows = rows.select_related("mailing__selection", "parcel__facts__address", "owner__name", "letter")
    return rows.order_by("-mailing__made_at", "number")


def pieces_about(scope: Scope, typed: str) -> QuerySet[MailPiece]:
    """Return the pieces that somebody may mean who reads out what they hold.

    A reply code, a telephone number, words of a name or street as they stand on the piece, or the property that it is about: its parcel
    number, or words of its address.
    """
    said = " ".join(typed.split())[:200]
    pieces = pieces_of(scope)
    if match := _CODE.fullmatch(said):
        return pieces.filter(mailing__code=match[1].upper(), number=int(match[2]))
    words = words_of(said)
    if not words:
        return pieces.none()
    try:
        number = telephone(said)
    except DoNotContactError:
        pass
    else:
        # A parcel number with a unit has as many digits as a phone number.
        owners = Contact.objects.filter(kind="telephone", value=number, superseded_at=None).values("owner")
        return pieces.filter(Q(owner__in=owners) | Q(parcels__overlap=_parcels_called(said, words, pieces)))
    # What stands on the piece, one line after the other; or what it is about.
    on_piece = reduce(and_, (Q(lines__icontains=word) for word in words))
    about = _parcels_called(said, words, pieces)
    return pieces.filter(on_piece | Q(parcels__overlap=about)) if about else pieces.filter(on_piece)


def _parcels_called(said: str, words: Sequence[str], pieces: QuerySet[MailPiece]) -> list[int]:
    """Return the parcel that has a number, else those that some pieces are about and whose address has some words in it."""
    try:
        return [parcel_named(said).pk]
    except NoSuchParcelError:
        pass
    at = reduce(and_, (Q(address__text__icontains=word) for word in words))
    # Only what was mailed about: a county's addresses are too many to look through for each key that is pressed.
    mailed = pieces.order_by().annotate(one=Func("parcels", function="unnest")).values("one")
    return list(ParcelFacts.objects.filter(at, pk__in=mailed).values_list("pk", flat=True)[:_MOST_PARCELS])


@transaction.atomic
def note_outcome(scope: Scope, piece: MailPiece, kind: PieceOutcome.Kind, text: str = "") -> PieceOutcome:
    """Note what came of a piece; who wants no more, and an address from which it came back, is left alone from now on.

    The same note of the same day is noted once, however often it is sent. Raises PermissionDenied.
    """
    require(scope, REPLIES)
    MailPiece.objects.select_for_update(of=("self",)).get(pk=piece.pk)
    said = {"kind": kind, "on": scope.today, "note": " ".join(text.split())[:500]}
    if there := piece.outcomes.filter(undone_at=None, **said).first():
        return there
    noted = PieceOutcome.objects.create(piece=piece, user=scope.user, noted_at=now(), **said)
    if kind in ENDS_CONTACT:
        _leave_alone(scope, piece, kind)
    return noted


def _leave_alone(scope: Scope, piece: MailPiece, kind: PieceOutcome.Kind) -> DoNotContact:
    about = f"{piece.mailing.code}-{piece.number} of {piece.mailing.name}"
    if kind == Outcome.RETURNED or piece.owner is None:
        source = Source.RETURNED if kind == Outcome.RETURNED else Source.CALL
        label = ", ".join(piece.lines[-2:])
        return do_not_contact.note(scope, Kind.ADDRESS, source, label=label, value=piece.place, text=about)
    owner: Owner = piece.owner
    return do_not_contact.note(scope, Kind.PERSON, Source.CALL, label=piece.lines[0], owner=owner, text=about)


@transaction.atomic
def undo_outcome(scope: Scope, outcome: PieceOutcome) -> None:
    """Take a note back, and with it that somebody is left alone for it. Raises PermissionDenied."""
    require(scope, REPLIES)
    PieceOutcome.objects.filter(pk=outcome.pk, undone_at=None).update(undone_at=now())
    if outcome.kind in ENDS_CONTACT:
        about = f"{outcome.piece.mailing.code}-{outcome.piece.number} of {outcome.piece.mailing.name}"
        for row in DoNotContact.objects.filter(team=scope.team, note=about, ended_at=None):
            do_not_contact.end(scope, row)
