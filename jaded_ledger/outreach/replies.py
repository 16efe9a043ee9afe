"""The telephone rings: pieces found by a reply code, a name, a number or a street, and what came of them noted."""

from __future__ import annotations

import re

from django.db import transaction
from django.db.models import Q, QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.words import words_of
from jaded_ledger.outreach import do_not_contact
from jaded_ledger.outreach.acts import REPLIES
from jaded_ledger.outreach.do_not_contact import DoNotContactError, Kind, Source, telephone
from jaded_ledger.outreach.models import DoNotContact, MailPiece, PieceOutcome
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Contact, Owner

MOST_FOUND = 50
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
    """Return the pieces that somebody may mean who says a reply code, a telephone number, or words of a name or a street."""
    said = " ".join(typed.split())[:200]
    pieces = pieces_of(scope)
    if match := _CODE.fullmatch(said):
        return pieces.filter(mailing__code=match[1].upper(), number=int(match[2]))
    try:
        number = telephone(said)
    except DoNotContactError:
        pass
    else:
        owners = Contact.objects.filter(kind="telephone", value=number, superseded_at=None).values("owner")
        return pieces.filter(owner__in=owners)
    asked = Q()
    for word in words_of(said):
        # What stands on the piece, one line after the other.
        asked &= Q(lines__icontains=word)
    return pieces.filter(asked) if asked else pieces.none()


@transaction.atomic
def note_outcome(scope: Scope, piece: MailPiece, kind: PieceOutcome.Kind, text: str = "") -> PieceOutcome:
    """Note what came of a piece; who wants no more, and an address from which it came back, is left alone from now on.

    Raises PermissionDenied.
    """
    require(scope, REPLIES)
    noted = PieceOutcome.objects.create(
        piece=piece, kind=kind, on=scope.today, note=" ".join(text.split())[:500], user=scope.user, noted_at=now()
    )
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
