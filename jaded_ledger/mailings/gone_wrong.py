"""Before a batch is posted: the pieces that have become wrong since it was made, by their place in the stack."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.do_not_contact import Refused, refused_by
from jaded_ledger.core.mail.pieces import Addressing
from jaded_ledger.mailings.models import Mailing, MailPiece
from jaded_ledger.records.models import ParcelFacts


class GoneWrong(NamedTuple):
    """A piece to take out of the stack, and why."""

    piece: MailPiece
    why: str


def gone_wrong(mailing: Mailing, scope: Scope) -> Iterator[GoneWrong]:
    """Yield the pieces of a made mailing that should not be posted any more, in the order of the stack."""
    refused = refused_by(scope)
    pieces = list(mailing.pieces.select_related("parcel").order_by("number"))
    facts = {one.pk: one for one in ParcelFacts.objects.filter(pk__in=[piece.parcel_id for piece in pieces])}
    for piece in pieces:
        if why := why_wrong(piece, mailing, facts.get(piece.parcel_id), refused):
            yield GoneWrong(piece, why)


def why_wrong(piece: MailPiece, mailing: Mailing, facts: ParcelFacts | None, refused: Refused) -> str:
    """Return why a piece about a parcel should not be posted any more; blank where it may be."""
    if piece.owner_id in refused.owners or piece.place in refused.places or (facts and facts.do_not_contact):
        return "asked not to be contacted"
    if piece.place in refused.returned:
        return "mail came back from there"
    if not Addressing(mailing.to).is_for_owner:
        return ""
    if facts is None or facts.owner_id != piece.owner_id:
        return "has another owner now"
    if facts.is_active and not _was_active(facts, mailing):
        return "was listed with an agent"
    return ""


def _was_active(facts: ParcelFacts, mailing: Mailing) -> bool:
    """Whether it was on the market when the mailing was made; of a listing without a day nothing new is known."""
    return facts.list_date is None or mailing.made_on is None or facts.list_date <= mailing.made_on
