"""A letter as it would read: to real owners, those of the latest mailing of its kind, or the first on record."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.mail.letter_layout import PAPERS, LaidPage, LetterFit, lay_out
from jaded_ledger.core.mail.letters import Letter, Letters
from jaded_ledger.core.mail.pieces import Addressing, Piece, Reason, Terms, make_pieces
from jaded_ledger.find.named_things import search_from
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.selections import parcels_of
from jaded_ledger.mailings.candidates import candidates
from jaded_ledger.mailings.letter_fields import CODE, letter_context, sale_of
from jaded_ledger.mailings.letters import fields_of
from jaded_ledger.mailings.mail_settings import sender_of
from jaded_ledger.mailings.mailing_terms import STOCK
from jaded_ledger.mailings.mailings import addresses_in, mailings_of
from jaded_ledger.mailings.models import LetterTemplate, Mailing

SAMPLE = 60


@dataclass(frozen=True)
class Sample:
    """Some owners' letters: the pieces, how many of so many parcels lack a field, and from which mailing they are."""

    pieces: list[Piece]
    lacking: dict[str, int]
    mailing: Mailing | None
    pages: tuple[LaidPage, ...]


def sample(scope: Scope, letter: Letter, form: str, number: int) -> Sample:
    """Return what a letter says to some owners, that of a piece (from 1) laid out."""
    mailing = mailings_of(scope).filter(form=form).first()
    search, chosen = Search(), parcels(scope).filter(owner__isnull=False).order_by("pk")
    if mailing is not None:
        try:
            search, chosen = search_from(mailing.selection.search, scope.team), parcels_of(mailing.selection, scope)
        except CriteriaError:
            mailing = None
    paper = PAPERS[next(iter(STOCK[Mailing.Form(form)]))]
    letters = Letters(letter, {})
    context = letter_context(scope, sale_of(search, scope))
    terms = Terms(Addressing(mailing.to) if mailing else Addressing.OWNER_MAILING, scope.today, frozenset(Reason))
    found = list(islice(candidates(chosen[:SAMPLE], terms, scope, letter_fields=fields_of(letters), context=context), SAMPLE))
    fit = LetterFit(letters, paper, addresses_in(found), "A2-100")
    made = make_pieces(found, terms, fit)
    lacking: dict[str, int] = {}
    for one in made.refusals:
        if one.reason is Reason.NO_FIELD:
            lacking[one.detail] = lacking.get(one.detail, 0) + 1
    pages: tuple[LaidPage, ...] = ()
    if made.pieces:
        piece = made.pieces[max(0, min(number, len(made.pieces)) - 1)]
        values = {**fit.written[piece.parcel_id].values, CODE: f"A2-{number}"}
        pages = lay_out(letter, values, piece.lines, paper, sender_of(scope))
    return Sample(made.pieces, lacking, mailing, pages)


def names_free(scope: Scope, wanted: str) -> str:
    """Return a name that none of the team's letters has."""
    taken = set(LetterTemplate.objects.filter(team=scope.team, deleted_at=None).values_list("name", flat=True))
    return next(name for number in range(1, len(taken) + 2) if (name := wanted if number == 1 else f"{wanted} {number}") not in taken)
