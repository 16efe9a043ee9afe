"""What mailings add to the program."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date

from django.db.models import Func, Value
from django.urls import reverse

from jaded_ledger.accounts.deletion import Deletion
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import CONTACTS
from jaded_ledger.made_files.kinds import FileKind
from jaded_ledger.mailings.acts import ACTS, LETTERS, PRICES
from jaded_ledger.mailings.acts_on_property import ACTS_ON_PROPERTY
from jaded_ledger.mailings.file_kinds import FILE_KINDS
from jaded_ledger.mailings.mailings import deletion_refused, return_refused
from jaded_ledger.mailings.models import LetterTemplate, Mailing, MailPiece, Printer
from jaded_ledger.mailings.replies import pieces_of
from jaded_ledger.mailings.series import due_mailings
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Due, Happening, InnerPlace, NavigationPlace, PropertyAct, SelectionAct
from jaded_ledger.records.models import Parcel


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def deletions() -> list[Deletion]:
    return [
        Deletion(
            Mailing,
            CONTACTS,
            # A deleted one has no page.
            lambda one: reverse("mailings:mailings") if one.deleted_at else reverse("mailings:mailing", args=[one.pk]),
            refused=deletion_refused,
            return_refused=return_refused,
        ),
        Deletion(LetterTemplate, LETTERS, lambda letter: reverse("mailings:letters")),
        Deletion(Printer, PRICES, lambda printer: reverse("mailings:settings")),
    ]


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("outreach", "Outreach", "envelope-paper", "mailings:mailings", 40)]


@hookimpl
def inner_places() -> list[InnerPlace]:
    return [
        InnerPlace("outreach", "mailings", "Mailings", "mailings:mailings", 10),
        InnerPlace("outreach", "letters", "Letters", "mailings:letters", 20),
        InnerPlace("outreach", "ring", "The phone rings", "mailings:ring", 30),
        InnerPlace("outreach", "response", "Response", "mailings:response", 40),
        InnerPlace("outreach", "settings", "Prices and printers", "mailings:settings", 80),
    ]


@hookimpl
def selection_acts() -> list[SelectionAct]:
    return [SelectionAct("mail", "Mail", "mailings:begin", 90, is_main=True)]


@hookimpl
def property_acts() -> Sequence[PropertyAct]:
    return ACTS_ON_PROPERTY


@hookimpl
def file_kinds() -> tuple[FileKind, ...]:
    return FILE_KINDS


@hookimpl
def due(scope: Scope, until: date) -> Iterator[Due]:
    return due_mailings(scope, until)


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    for piece in pieces_of(scope).filter(parcels__contains=[parcel.pk]).select_related("mailing__user").prefetch_related("outcomes__user"):
        mailing, code = piece.mailing, f"{piece.mailing.code}-{piece.number}"
        assert mailing.made_at is not None
        yield Happening(mailing.made_at, f"mailed: {mailing.name}, piece {code}", mailing.user.display_name if mailing.user else "")
        for outcome in piece.outcomes.all():
            if outcome.undone_at is None:
                said = f"{code}: {outcome.get_kind_display()}{f' ({outcome.note})' if outcome.note else ''}"
                yield Happening(outcome.noted_at, said, outcome.user.display_name if outcome.user else "")


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    MailPiece.objects.filter(parcel=before).update(parcel=after)
    pieces = MailPiece.objects.filter(parcels__contains=[before])
    pieces.update(parcels=Func("parcels", Value(before), Value(after), function="array_replace"))
