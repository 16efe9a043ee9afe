"""Recorded instruments that pass title."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jaded_ledger.core.market.sales import DeedType
from jaded_ledger.records.models.names import RecordedName
from jaded_ledger.records.models.parcels import County, Parcel
from jaded_ledger.records.models.provenance import Recorded, versions


class Transfer(Recorded):
    """One recorded transfer of title; a document may cover many parcels.

    ``natural_key`` is the document number, or where that is blank the recording date, parties and parcels.
    """

    county = models.ForeignKey(County, on_delete=models.PROTECT, related_name="transfers")
    natural_key = models.TextField()
    document_number = models.CharField(max_length=40, blank=True)
    deed = models.CharField(max_length=30, choices=[(deed.value, deed.value) for deed in DeedType])
    sold_on = models.DateField(help_text="The instrument's own date; the recording date where it has none.")
    recorded_on = models.DateField()
    price = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    grantor = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    grantee = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    parcels = models.ManyToManyField(Parcel, through="TransferParcel", related_name="transfers")

    class Meta:
        constraints = [
            *versions("transfer", "county", "natural_key"),
            models.CheckConstraint(condition=Q(price=None) | Q(price__gte=0), name="transfer_price_not_negative"),
        ]

    def __str__(self) -> str:
        return self.document_number or self.natural_key


class TransferParcel(models.Model):
    """A parcel that a transfer covers."""

    transfer = models.ForeignKey(Transfer, on_delete=models.CASCADE)
    parcel = models.ForeignKey(Parcel, on_delete=models.PROTECT)

    class Meta:
        constraints = [models.UniqueConstraint("transfer", "parcel", name="transfer_parcel_once")]
