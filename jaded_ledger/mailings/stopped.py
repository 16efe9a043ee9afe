"""Series go on to those who have not answered: who gets no more of one and why, and when the next mailing of it is due."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import timedelta
from types import MappingProxyType

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.do_not_contact import refused_by
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.mailings.gone_wrong import why_wrong
from jaded_ledger.mailings.models import Mailing, MailPiece, PieceOutcome, Series
from jaded_ledger.records.models import ParcelFacts


def go_on(series: Series, made: Mailing) -> None:
    """Have the next mailing of a series be due so many days after one that was made, unless that was the last."""
    assert made.made_on is not None
    is_last = made.round >= series.rounds
    series.next_on = None if is_last else made.made_on + timedelta(days=series.every_days)
    series.save(update_fields=["next_on"])


def first_pieces(series: Series) -> list[MailPiece]:
    """Return the pieces that a series began with: nobody else gets the later ones."""
    return list(MailPiece.objects.filter(mailing__series=series, mailing__round=1, mailing__deleted_at=None).select_related("mailing"))


def stopped_of(mailing: Mailing, scope: Scope) -> Mapping[int, str]:
    """Return the parcels that get no more of a mailing's series, with why.

    Whatever came of a piece, it stops all of its owner's parcels; that one was sold or listed with an agent stops that one.
    """
    if mailing.series is None or mailing.round < 2:
        return MappingProxyType({})
    began = first_pieces(mailing.series)
    pairs = [(parcel, piece) for piece in began for parcel in (piece.parcel_id, *piece.parcels)]
    facts = ParcelFacts.objects.in_bulk({parcel for parcel, _ in pairs})
    refused, answered = refused_by(scope), _answered(mailing.series, began)
    found = {}
    for parcel, piece in pairs:
        if why := answered.get(piece.pk) or why_wrong(piece, piece.mailing, facts.get(parcel), refused):
            found[parcel] = why
    return found


def _answered(series: Series, began: Iterable[MailPiece]) -> dict[int, str]:
    """Return by the first piece to somebody what came of any piece of the series to them."""
    outcomes = PieceOutcome.objects.filter(piece__mailing__series=series, undone_at=None).select_related("piece").order_by("-pk")
    owners: dict[int, str] = {}
    parcels: dict[int, str] = {}
    for one in outcomes:
        why = f"{one.get_kind_display()}, {day_text(one.on)}"
        parcels[one.piece.parcel_id] = why
        if one.piece.owner_id is not None:
            owners[one.piece.owner_id] = why
    found = {}
    for piece in began:
        if came := owners.get(piece.owner_id) if piece.owner_id is not None else parcels.get(piece.parcel_id):
            found[piece.pk] = came
    return found
