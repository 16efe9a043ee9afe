"""Recorded loans and what is recorded on them later."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jaded_ledger.core.finance.loans import LoanEventKind, LoanKind, RateKind
from jaded_ledger.records.models.filed import Covered, Filed, filed
from jaded_ledger.records.models.names import RecordedName
from jaded_ledger.records.models.parcels import Parcel
from jaded_ledger.records.models.provenance import choices, holds, in_order, not_negative, one_of


class Loan(Filed):
    """A mortgage or deed of trust on record."""

    natural = ("document_number",)
    without_number = ("recorded_on", "borrower", "lender", "amount", "parcels")
    ahead = ("matures_on",)

    document_number = models.CharField(max_length=40, blank=True)
    recorded_on = models.DateField("recorded")
    dated_on = models.DateField("dated", null=True)
    kind = models.CharField(max_length=20, choices=choices(LoanKind), blank=True)
    amount = models.DecimalField(max_digits=12, decimal_places=2, null=True, help_text="A credit line's full limit.")
    rate = models.DecimalField("rate, %", max_digits=5, decimal_places=3, null=True, help_text="Percent a year.")
    rate_kind = models.CharField(max_length=20, choices=choices(RateKind), blank=True)
    term_months = models.PositiveSmallIntegerField("months", null=True)
    matures_on = models.DateField("matures", null=True)
    borrower = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    lender = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    parcels = models.ManyToManyField(Parcel, through="LoanParcel", related_name="loans")

    class Meta:
        constraints = [
            *filed("loan"),
            not_negative("loan", "amount", "rate"),
            one_of("loan", "kind", LoanKind, or_blank=True),
            one_of("loan", "rate_kind", RateKind, or_blank=True),
            in_order("loan", "recorded_on", "matures_on"),
            holds("loan_rate_plausible", Q(rate=None) | Q(rate__lte=40), "a rate above 40 % is none"),
            holds("loan_term_plausible", Q(term_months=None) | Q(term_months__range=(1, 600)), "a term runs from 1 to 600 months"),
        ]


class LoanParcel(Covered):
    """A parcel that secures a loan."""

    loan = models.ForeignKey(Loan, on_delete=models.CASCADE, related_name="covered")

    class Meta:
        constraints = [models.UniqueConstraint("loan", "parcel", name="loan_parcel_once")]


class LoanEvent(Filed):
    """A release, an assignment or the like. ``loan_number`` is the loan's document number, on record or not."""

    natural = ("document_number", "loan_number")
    without_number = ("recorded_on", "kind", "loan_number")
    about = ("Loan", "document_number", "loan_number")

    document_number = models.CharField(max_length=40, blank=True)
    recorded_on = models.DateField("recorded")
    kind = models.CharField(max_length=20, choices=choices(LoanEventKind))
    loan_number = models.CharField("on loan", max_length=40)
    by = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    to = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    amount = models.DecimalField(max_digits=12, decimal_places=2, null=True)

    class Meta:
        constraints = [
            *filed("loan_event"),
            one_of("loan_event", "kind", LoanEventKind),
            not_negative("loan_event", "amount"),
            holds("loan_event_names_loan", ~Q(loan_number=""), "names no loan"),
        ]
        indexes = [models.Index("county", "loan_number", name="loan_event_by_loan")]
