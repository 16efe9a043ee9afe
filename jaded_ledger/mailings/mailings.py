"""Mailings: begun from what was chosen, their terms changed, planned as a ledger, and made: only then anything is kept of their pieces."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from functools import cached_property
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import CONTACTS
from jaded_ledger.contacts.exports import Export, allowed, require_rows
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.core.mail import pieces as mail
from jaded_ledger.core.mail.envelopes import ENVELOPES, fits_envelope
from jaded_ledger.core.mail.label_pdf import Label, LabelFit, sheets_needed
from jaded_ledger.core.mail.letter_layout import PAPERS, LetterFit, Written
from jaded_ledger.core.mail.letters import Letters, Recipient
from jaded_ledger.core.mail.pieces import Addressing, Reason, Terms, make_pieces
from jaded_ledger.core.mail.postage import CostLine, cost
from jaded_ledger.core.mail.sheets import SHEETS, SMALL_TYPE
from jaded_ledger.find.models import Selection
from jaded_ledger.find.named_things import search_from
from jaded_ledger.find.selections import parcels_of
from jaded_ledger.lists.staleness import stale_on
from jaded_ledger.mailings.candidates import candidates
from jaded_ledger.mailings.letter_fields import PARCEL_LIST, PHONE, letter_context, sale_of
from jaded_ledger.mailings.letters import fields_of, keep_sent, letters_for
from jaded_ledger.mailings.mail_settings import prices_of, signature_of
from jaded_ledger.mailings.mailing_terms import WRITTEN, MailingError
from jaded_ledger.mailings.models import Mailing, MailPiece
from jaded_ledger.mailings.stopped import go_on, stopped_of
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import ParcelFacts

Form = Mailing.Form
_TERMS = (
    "to", "form", "stock", "start", "batch", "note", "return_address", "printer", "postage", "relaxed", "bought_within", "mailed_within",
    "letter", "against", "letter_of",
)  # fmt: skip
_LETTERS, _DIGITS = "ABCDEFGHJKLMNPQRSTUVWXYZ", "23456789"
"""Of a code that is read aloud and written by hand: without those that are taken for one another."""


@dataclass(frozen=True)
class LedgerLine:
    """A reason of a mailing's ledger: how many parcels it takes off, how many are left, and whether it was let go."""

    reason: Reason
    words: str
    off: int
    left: int
    is_relaxed: bool = False


@dataclass(frozen=True)
class Plan:
    """A mailing as it would be made: its pieces, who is left out and why, and what it costs."""

    mailing: Mailing
    terms: Terms
    made: mail.Mailing
    labels: list[Label]
    costs: list[CostLine]
    letters: Letters | None = None
    written: Mapping[int, Written] = field(default_factory=dict)

    @cached_property
    def ledger(self) -> list[LedgerLine]:
        """Every reason that takes parcels off, or would if it had not been let go, in the order in which they are asked."""
        left, lines, counts = self.made.parcels, [], self.made.reasons
        for reason in Reason:
            off = counts[reason]
            left -= off
            relaxed = self.made.relaxed[reason]
            if off or relaxed:
                lines.append(LedgerLine(reason, self.words(reason), off or relaxed, left, is_relaxed=not off))
        return lines

    @property
    def relaxed_unseen(self) -> list[str]:
        """The reasons that are let go and would take nobody off now: they stay let go."""
        shown = [line.reason.value for line in self.ledger]
        return [reason for reason in self.mailing.relaxed if reason not in shown]

    def words(self, reason: Reason) -> str:
        """Return a reason in words, with its length of time where it has one."""
        days = {Reason.RECENT: ("bought", self.terms.bought_within), Reason.MAILED: ("mailed", self.terms.mailed_within)}
        verb, count = days.get(reason, ("", 0))
        return f"{verb} in the last {count:,} days" if verb else reason.words

    @cached_property
    def written_to(self) -> Counter[tuple[Recipient, int]]:
        """How many pieces each letter goes to, by kind of owner and the letter's key."""
        return Counter((one.recipient, one.letter.key) for piece in self.made.pieces if (one := self.written.get(piece.parcel_id)))

    @property
    def owners(self) -> int:
        return len({piece.owner_id for piece in self.made.pieces if piece.owner_id is not None})

    @property
    def parcels_told(self) -> int:
        """How many parcels the pieces are about, each once, those of owners of several among them."""
        return len({parcel for piece in self.made.pieces for parcel in piece.parcels})

    @property
    def sheets(self) -> int:
        if self.mailing.form == Form.LABELS:
            return sheets_needed(len(self.made.pieces), SHEETS[self.mailing.stock], self.mailing.start)
        return len(self.made.pieces)

    @property
    def total(self) -> Decimal:
        return sum((line.amount for line in self.costs), Decimal(0))

    @property
    def in_small_type(self) -> list[Label]:
        """Labels whose type is below what everybody reads."""
        return [label for label in self.labels if label.fitted.size < SMALL_TYPE]

    def as_json(self) -> dict[str, Any]:
        """Return the ledger as it is kept with a mailing, and as the command tells it."""
        return {
            "parcels": self.made.parcels,
            "refused": {str(reason): count for reason, count in sorted(self.made.reasons.items())},
            "relaxed": {str(reason): count for reason, count in sorted(self.made.relaxed.items())},
            "pieces": len(self.made.pieces),
            "owners": self.owners,
            "parcels_told": self.parcels_told,
            "sheets": self.sheets,
            "costs": [
                {"label": line.label, "count": line.count, "each": line.each_text, "amount": str(line.amount)} for line in self.costs
            ],
            "cost": str(self.total),
        }


def mailings_of(scope: Scope) -> QuerySet[Mailing]:
    """Return the team's mailings, the newest first."""
    return Mailing.objects.filter(team=scope.team, deleted_at=None).select_related(
        "selection", "user", "printer", "letter", "against", "series"
    )


def code_of(number: int) -> str:
    """Return the code of a team's mailing, counted from 0: short, and told apart on paper and by ear.

    >>> code_of(0), code_of(8), code_of(24 * 8)
    ('A2', 'B2', 'AA2')
    """
    rest, digit = divmod(number, len(_DIGITS))
    letters = ""
    while True:
        letters = _LETTERS[rest % len(_LETTERS)] + letters
        rest = rest // len(_LETTERS) - 1
        if rest < 0:
            return letters + _DIGITS[digit]


@transaction.atomic
def begin(scope: Scope, selection: Selection, **chosen: Any) -> Mailing:
    """Begin a mailing to what was chosen. Raises PermissionDenied for a reader."""
    require(scope, CONTACTS)
    Team.objects.select_for_update().get(pk=scope.team.pk)
    code = code_of(Mailing.objects.filter(team=scope.team).count())
    name = f"Mailing {code}, {scope.today:%-d %b %Y}"
    return Mailing.objects.create(team=scope.team, user=scope.user, name=name, begun_at=now(), selection=selection, code=code, **chosen)


def terms_of(mailing: Mailing, scope: Scope) -> Terms:
    """Return on what terms a mailing goes out."""
    relaxed = frozenset(map(Reason, mailing.relaxed))
    return Terms(Addressing(mailing.to), scope.today, relaxed, mailing.bought_within, mailing.mailed_within)


def code_of_piece(mailing: Mailing, number: int) -> str:
    """Return the reply code of a piece."""
    return f"{mailing.code}-{number}"


def note_of(mailing: Mailing, number: int) -> str:
    """Return the small line of a piece."""
    return mailing.note.replace("{code}", code_of_piece(mailing, number))


def addresses_in(found: Sequence[mail.Candidate]) -> dict[int, str]:
    """Return by parcel how it is listed in a letter to the owner of several."""
    return {one.parcel_id: one.values.get(PARCEL_LIST) or f"parcel {one.number}" for one in found}


def plan_of(mailing: Mailing, parcels: QuerySet[ParcelFacts], stale: Mapping[int, str], scope: Scope,
            report: Callable[[int], None] = lambda read: None) -> Plan:  # fmt: skip
    """Return a mailing to some parcels as it would be made. Nothing is kept of it."""
    terms = terms_of(mailing, scope)
    letters, sale = None, None
    if mailing.form in WRITTEN:
        letters, sale = letters_for(mailing), sale_of(search_from(mailing.selection.search, scope.team), scope)
    context = letter_context(scope, sale)
    fields = fields_of(letters)
    found = list(candidates(parcels, terms, scope, stale, report, fields, context if fields else None, stopped_of(mailing, scope)))
    if letters is not None:
        fit = LetterFit(letters, PAPERS[mailing.stock], addresses_in(found), code_of_piece(mailing, len(found)))
        made = make_pieces(found, terms, fit)
        return Plan(mailing, terms, made, [], _costs(mailing, made, scope), letters, fit.written)
    if mailing.form == Form.LABELS:
        room = LabelFit(SHEETS[mailing.stock], note=bool(mailing.note))
        made = make_pieces(found, terms, lambda candidate, lines: room(lines))
        labels = room.labels(made.pieces, [note_of(mailing, number) for number in range(1, len(made.pieces) + 1)])
    else:
        fits = fits_envelope(ENVELOPES[mailing.stock])
        made, labels = make_pieces(found, terms, lambda candidate, lines: fits(lines)), []
    return Plan(mailing, terms, made, labels, _costs(mailing, made, scope))


def _costs(mailing: Mailing, made: mail.Mailing, scope: Scope) -> list[CostLine]:
    return cost(prices_of(scope), mailing.postage, mailing.form, len(made.pieces), made.parcels)


def planned(mailing: Mailing, scope: Scope, report: Callable[[int], None] = lambda read: None) -> Plan:
    """Return a mailing as it would be made now. Raises CriteriaError where its search can't be asked any more."""
    stale = stale_on(search_from(mailing.selection.search, scope.team), scope)
    return plan_of(mailing, parcels_of(mailing.selection, scope), stale, scope, report)


def lacks_phone(plan: Plan, scope: Scope) -> str:
    """Return which letter of a plan asks to be called and gives no number, and what to do; blank where none does."""
    if plan.letters is None:
        return ""
    phone = signature_of(scope).phone
    for letter in plan.letters.every:
        if letter.asks_to_call and not (phone and letter.has(PHONE)):
            remedy = "write {phone} into it" if phone else "set one under Prices and printers, and write {phone} into the letter"
            return f"“{letter.name}” asks owners to call, and gives no phone number; {remedy}"
    return ""


@transaction.atomic
def make(mailing: Mailing, scope: Scope, plan: Plan) -> None:
    """Keep the pieces of a plan. Raises MailingError where it was made before, and as ``require_rows`` does."""
    require_rows(scope, len(plan.made.pieces))
    current = Mailing.objects.select_for_update().get(pk=mailing.pk)
    if current.made_at is not None:
        raise MailingError(f"{mailing.name} was made before; its files can be had again")
    if not plan.made.pieces:
        raise MailingError("nothing was made: every parcel was left out")
    if wrong := lacks_phone(plan, scope):
        raise MailingError(wrong)
    sent = keep_sent(mailing, plan.letters) if plan.letters else {}
    said = {pk: (sent[one.letter.key], dict(one.values)) for pk, one in plan.written.items()}
    MailPiece.objects.bulk_create(
        [
            MailPiece(mailing=mailing, number=number, parcel_id=piece.parcel_id, owner_id=piece.owner_id, lines=list(piece.lines),
                      place=piece.address.household_key[:200], parcels=list(piece.parcels),
                      letter=said.get(piece.parcel_id, (None,))[0], values=said.get(piece.parcel_id, (None, {}))[1])
            for number, piece in enumerate(plan.made.pieces, start=1)
        ],
        batch_size=2_000,
    )  # fmt: skip
    account = plan.as_json()
    values = {"made_at": now(), "made_on": scope.today, "account": account, "pieces_made": len(plan.made.pieces), "cost": plan.total}
    Mailing.objects.filter(pk=mailing.pk).update(**values)
    for name, value in values.items():
        setattr(mailing, name, value)
    if mailing.series:
        go_on(mailing.series, mailing)


def export_of(mailing: Mailing, scope: Scope, form: ContactExport.Form = ContactExport.Form.LABELS) -> Export:
    """Return the export that the pieces of a made mailing are. Raises as ``require_rows`` does."""
    return allowed(
        scope, form, rows=mailing.pieces_made, search=mailing.selection.search,
        parcel_ids=list(mailing.pieces.order_by("number").values_list("parcel_id", flat=True)),
        details={
            "mailing": mailing.pk, "to": mailing.to, "sheet": mailing.stock, "start": mailing.start, "refused": mailing.account["refused"],
        },
    )  # fmt: skip


def copy_of(mailing: Mailing, scope: Scope) -> Mailing:
    """Begin another mailing on the same terms. Raises PermissionDenied."""
    return begin(scope, mailing.selection, **terms_to_repeat(mailing))


def terms_to_repeat(mailing: Mailing) -> dict[str, Any]:
    """Return the terms of a mailing, for another on the same."""
    return {name: getattr(mailing, name) for name in _TERMS}


def deletion_refused(scope: Scope, mailing: Mailing) -> str:
    """Return why a mailing can't be deleted; blank where it can."""
    return "" if mailing.made_at is None else f"“{mailing.name}” was made, and stays on record."


def return_refused(scope: Scope, mailing: Mailing) -> str:
    """Return why a deleted mailing can't come back, as where its series has another in its place; blank where it can."""
    rounds = Mailing.objects.filter(series=mailing.series, round=mailing.round, deleted_at=None)
    return "Another is prepared in its place." if mailing.series_id is not None and rounds.exists() else ""
