"""Mailings, their pieces, and what came of each."""

from __future__ import annotations

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team
from jaded_ledger.core.mail.pieces import Addressing, Reason
from jaded_ledger.find.models import Selection
from jaded_ledger.mailings.models.letters import LetterTemplate, SentLetter
from jaded_ledger.mailings.models.printing import Printer
from jaded_ledger.mailings.models.series import Series
from jaded_ledger.records.models import Owner, Parcel


class Mailing(Deletable):
    """A mailing: to whom, on what terms, as what; and once it is made, the ledger as it was then and what it cost.

    ``code`` stands before the number of each piece: what somebody answers with tells the piece.
    """

    class Form(models.TextChoices):
        LABELS = "labels", "labels"
        ENVELOPES = "envelopes", "envelopes"
        LETTERS = "letters", "letters"
        POSTCARDS = "postcards", "postcards"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="mailings")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    name = models.CharField(max_length=80)
    begun_at = models.DateTimeField()
    selection = models.ForeignKey(Selection, on_delete=models.PROTECT, related_name="+")
    to = models.CharField(max_length=20, choices=[(one.value, one.words) for one in Addressing], default=Addressing.OWNER_MAILING.value)
    form = models.CharField(max_length=10, choices=Form.choices, default=Form.LABELS)
    stock = models.CharField(max_length=12, default="letter-30", help_text="The sheet of labels, the envelope, or the letter’s paper.")
    start = models.PositiveSmallIntegerField(default=1)
    batch = models.PositiveIntegerField(default=0, help_text="Pieces a file; 0 for one file.")
    note = models.CharField(max_length=60, blank=True, help_text="The small line at the foot; {code} stands for the reply code.")
    return_address = models.BooleanField(default=False)
    printer = models.ForeignKey(Printer, null=True, on_delete=models.SET_NULL, related_name="+")
    postage = models.CharField(max_length=20, default="first_class")
    relaxed = ArrayField(models.CharField(max_length=20, choices=[(one.value, one.words) for one in Reason]), default=list)
    bought_within = models.PositiveSmallIntegerField(default=365, help_text="Days.")
    mailed_within = models.PositiveSmallIntegerField(default=60, help_text="Days.")
    letter = models.ForeignKey(LetterTemplate, null=True, on_delete=models.PROTECT, related_name="+")
    against = models.ForeignKey(
        LetterTemplate, null=True, on_delete=models.PROTECT, related_name="+", help_text="Goes to a random half in the place of letter."
    )
    letter_of = models.JSONField(default=dict, help_text="By kind of owner another letter’s id; 0 for none. core.mail.letters.Recipient")
    series = models.ForeignKey(Series, null=True, on_delete=models.PROTECT, related_name="mailings")
    round = models.PositiveSmallIntegerField(default=0, help_text="Which mailing of its series it is, from 1; 0 without one.")
    code = models.CharField(max_length=8)
    made_at = models.DateTimeField(null=True)
    made_on = models.DateField(null=True, help_text="The team's day.")
    account = models.JSONField(default=dict, help_text="Parcels, refusals by reason, and costs, as they were when it was made.")
    pieces_made = models.PositiveIntegerField(default=0)
    cost = models.DecimalField(max_digits=12, decimal_places=2, default=0)

    class Meta:
        db_table = "outreach_mailing"
        ordering = ["-begun_at", "-pk"]
        constraints = [
            models.UniqueConstraint("team", "code", name="mailing_code_once"),
            models.CheckConstraint(condition=Q(form__in=["labels", "envelopes", "letters", "postcards"]), name="mailing_form_known"),
            models.CheckConstraint(condition=Q(series=None, round=0) | Q(series__isnull=False, round__gte=1), name="mailing_round"),
            models.UniqueConstraint("series", "round", condition=Q(deleted_at=None), name="mailing_round_once"),
            models.CheckConstraint(condition=Q(made_at=None) | Q(made_on__isnull=False), name="mailing_made_on"),
        ]
        indexes = [models.Index("team", F("begun_at").desc(), name="mailing_newest")]

    def __str__(self) -> str:
        return self.name


class MailPiece(models.Model):
    """A piece as it was made: its lines, and of which parcels of its owner. ``number`` is its place in the stack, from 1."""

    mailing = models.ForeignKey(Mailing, on_delete=models.CASCADE, related_name="pieces")
    number = models.PositiveIntegerField()
    parcel = models.ForeignKey(Parcel, on_delete=models.PROTECT, related_name="+")
    owner = models.ForeignKey(Owner, null=True, on_delete=models.PROTECT, related_name="+")
    lines = ArrayField(models.TextField())
    place = models.CharField(max_length=200, help_text="The household or dwelling, as core.mail.addresses tells it.")
    parcels = ArrayField(models.BigIntegerField(), default=list)
    letter = models.ForeignKey(SentLetter, null=True, on_delete=models.PROTECT, related_name="pieces")
    values = models.JSONField(default=dict, help_text="What the letter’s fields said, by field.")

    class Meta:
        db_table = "outreach_mailpiece"
        ordering = ["number"]
        constraints = [models.UniqueConstraint("mailing", "number", name="mail_piece_once")]
        indexes = [
            models.Index(fields=["parcel"]),
            models.Index(fields=["owner"]),
            models.Index(fields=["place"]),
        ]


class PieceOutcome(models.Model):
    """What came of a piece. ``undone_at`` is when somebody took the note back."""

    class Kind(models.TextChoices):
        REPLY = "reply", "replied"
        MEETING = "meeting", "met"
        LISTING = "listing", "gave a listing"
        DEAL = "deal", "sold to us"
        RETURNED = "returned", "came back"
        OPTED_OUT = "opted-out", "wants no more"

    piece = models.ForeignKey(MailPiece, on_delete=models.CASCADE, related_name="outcomes")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    on = models.DateField()
    note = models.CharField(max_length=500, blank=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    noted_at = models.DateTimeField()
    undone_at = models.DateTimeField(null=True)

    class Meta:
        db_table = "outreach_pieceoutcome"
        ordering = ["-noted_at", "-pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(kind__in=["reply", "meeting", "listing", "deal", "returned", "opted-out"]), name="piece_outcome_known"
            )
        ]
