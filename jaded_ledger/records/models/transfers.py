"""Recorded instruments that pass title."""

from __future__ import annotations

from django.db import models

from jaded_ledger.core.title.sales import DeedType
from jaded_ledger.records.models.filed import Covered, Filed, filed
from jaded_ledger.records.models.names import RecordedName
from jaded_ledger.records.models.parcels import Parcel
from jaded_ledger.records.models.provenance import choices, in_order, not_negative, one_of


class Transfer(Filed):
    """One recorded transfer of title; a document may cover many parcels."""

    natural = ("document_number",)
    without_number = ("recorded_on", "grantor", "grantee", "parcels")

    document_number = models.CharField(max_length=40, blank=True)
    deed = models.CharField(max_length=30, choices=choices(DeedType))
    sold_on = models.DateField("dated", help_text="The instrument's own date; the recording date where it has none.")
    recorded_on = models.DateField("recorded")
    price = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    seller_financed = models.BooleanField("seller financed", null=True, help_text="Whether the deed recites it; blank where it is silent.")
    grantor = models.ForeignKey(RecordedName, verbose_name="from", null=True, on_delete=models.PROTECT, related_name="+")
    grantee = models.ForeignKey(RecordedName, verbose_name="to", null=True, on_delete=models.PROTECT, related_name="+")
    parcels = models.ManyToManyField(Parcel, through="TransferParcel", related_name="transfers")

    class Meta:
        constraints = [
            *filed("transfer"),
            not_negative("transfer", "price"),
            one_of("transfer", "deed", DeedType),
            in_order("transfer", "sold_on", "recorded_on"),
        ]


class TransferParcel(Covered):
    """A parcel that a transfer covers."""

    transfer = models.ForeignKey(Transfer, on_delete=models.CASCADE, related_name="covered")

    class Meta:
        constraints = [models.UniqueConstraint("transfer", "parcel", name="transfer_parcel_once")]
