"""A made mailing is given to a mail house, and what the house reports is taken in: a piece that came back ends mail to its address."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal

from django.db import transaction

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.mailings.gone_wrong import gone_wrong
from jaded_ledger.mailings.mail_houses import Batch, MailHouse, mail_houses
from jaded_ledger.mailings.mailing_files import merge_data, pdf_of
from jaded_ledger.mailings.mailing_terms import MailingError
from jaded_ledger.mailings.mailings import export_of
from jaded_ledger.mailings.models import Mailing, MailOrder, MailPiece, MailReport, PieceOutcome
from jaded_ledger.mailings.replies import note_outcome
from jaded_ledger.records.clock import now, today
from jaded_ledger.records.rounds import go_round

WATCHED_FOR = timedelta(days=60)
"""How long reports are asked for: what comes back later is noted by hand."""


@dataclass(frozen=True)
class Offer:
    """What a mail house asks for a mailing."""

    house: MailHouse
    each: Decimal
    total: Decimal


def offers(mailing: Mailing) -> list[Offer]:
    """Return what each mail house that makes such pieces asks for a made mailing."""
    found = []
    for house in mail_houses().values():
        each = house.price(mailing.form)
        if each is not None:
            found.append(Offer(house, each, (each * mailing.pieces_made).quantize(Decimal("0.01"))))
    return found


@transaction.atomic
def give_to(scope: Scope, mailing: Mailing, key: str) -> MailOrder:
    """Give a made mailing to a mail house, which charges for it. Raises MailingError and MailHouseError, and as ``allowed`` does.

    The charge takes the place of what printing and postage of one's own would cost. Pieces that have become wrong have to be let go
    of first: a mail house takes none out of the stack.
    """
    kept = Mailing.objects.select_for_update().get(pk=mailing.pk)
    if kept.made_at is None:
        raise MailingError("make the mailing first: a mail house takes what is made")
    if MailOrder.objects.filter(mailing=kept).exists():
        raise MailingError(f"{kept.name} was given to a mail house before")
    offer = next((one for one in offers(kept) if one.house.key == key), None)
    if offer is None:
        raise MailingError(f"no such mail house makes {kept.form}")
    if wrong := next(gone_wrong(kept, scope), None):
        raise MailingError(
            f"piece {wrong.piece.number:,} {wrong.why}; begin another mailing on these terms, which leaves out what has become wrong"
        )
    export = export_of(kept, scope, ContactExport.Form.HOUSE)
    pieces = list(kept.pieces.select_related("letter").order_by("number"))
    batch = Batch(kept.form, len(pieces), "".join(merge_data(kept, export)).encode(), pdf_of(kept, pieces, export), scope.today)
    reference = offer.house.take(batch)
    records = sum((Decimal(line["amount"]) for line in kept.account["costs"] if line["label"] == "records"), Decimal(0))
    charged = {"label": offer.house.name, "count": len(pieces), "each": str(offer.each), "amount": str(offer.total)}
    account = kept.account | {"costs": [charged, *(line for line in kept.account["costs"] if line["label"] == "records")]}
    Mailing.objects.filter(pk=kept.pk).update(cost=offer.total + records, account=account)
    export.note()
    return MailOrder.objects.create(
        mailing=kept, house=key, reference=reference, placed_at=now(), placed_on=scope.today, user=scope.user, charge=offer.total
    )


@transaction.atomic
def catch_up(scope: Scope, order: MailOrder) -> int:
    """Take in what a mail house reports through today, each report once, and return how many were new."""
    order = MailOrder.objects.select_for_update(of=("self",)).select_related("mailing").get(pk=order.pk)
    house = mail_houses().get(order.house)
    if house is None:
        return 0
    pieces = {piece.number: piece for piece in MailPiece.objects.filter(mailing=order.mailing).select_related("mailing", "owner")}
    new = 0
    for report in house.reports(order.reference, order.asked_through, scope.today):
        piece = pieces.get(report.piece) if report.piece is not None else None
        if report.kind not in MailReport.Kind or (piece is None and report.piece is not None):
            continue
        _, is_new = MailReport.objects.get_or_create(order=order, kind=report.kind, on=report.on, piece=piece)
        new += is_new
        if is_new and piece is not None and report.kind == MailReport.Kind.RETURNED:
            note_outcome(scope, piece, PieceOutcome.Kind.RETURNED, f"reported by {house.name}")
    MailOrder.objects.filter(pk=order.pk).update(asked_through=scope.today)
    return new


def catch_up_all() -> None:
    """Take in what mail houses report of all teams' mailings."""
    day = today()
    watched = MailOrder.objects.filter(placed_on__gte=day - WATCHED_FOR).exclude(asked_through=day).select_related("mailing__team")
    go_round("reports of mail houses", watched, lambda order: catch_up(Scope(order.mailing.team, None, day), order))


def report_counts(order: MailOrder) -> list[tuple[str, int]]:
    """Return how many pieces each report was about; of all of them where it names none."""
    counts: Counter[str] = Counter()
    for kind, piece in order.reports.values_list("kind", "piece"):
        counts[kind] += order.mailing.pieces_made if piece is None else 1
    return [(label, counts[kind]) for kind, label in MailReport.Kind.choices if counts[kind]]
