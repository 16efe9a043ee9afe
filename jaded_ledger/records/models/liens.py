"""Involuntary liens and their releases."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jaded_ledger.core.distress.filings import LienKind
from jaded_ledger.records.models.filed import Covered, Filed, filed
from jaded_ledger.records.models.names import RecordedName
from jaded_ledger.records.models.parcels import Parcel
from jaded_ledger.records.models.provenance import choices, holds, not_negative, one_of


class Lien(Filed):
    """A lien that somebody filed against a parcel or its owner."""

    natural = ("document_number",)
    without_number = ("recorded_on", "kind", "claimant", "parcels")

    document_number = models.CharField(max_length=40, blank=True)
    recorded_on = models.DateField("recorded")
    kind = models.CharField(max_length=20, choices=choices(LienKind))
    amount = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    claimant = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    debtor = models.ForeignKey(RecordedName, verbose_name="against", null=True, on_delete=models.PROTECT, related_name="+")
    parcels = models.ManyToManyField(Parcel, through="LienParcel", related_name="liens")

    class Meta:
        constraints = [*filed("lien"), not_negative("lien", "amount"), one_of("lien", "kind", LienKind)]


class LienParcel(Covered):
    """A parcel that a lien lies on."""

    lien = models.ForeignKey(Lien, on_delete=models.CASCADE, related_name="covered")

    class Meta:
        constraints = [models.UniqueConstraint("lien", "parcel", name="lien_parcel_once")]


class LienRelease(Filed):
    """The release of a lien. ``lien_number`` is the lien's document number, on record or not."""

    natural = ("document_number", "lien_number")
    without_number = ("recorded_on", "lien_number")
    about = ("Lien", "document_number", "lien_number")

    document_number = models.CharField(max_length=40, blank=True)
    recorded_on = models.DateField("recorded")
    lien_number = models.CharField("of lien", max_length=40)
    amount = models.DecimalField("paid", max_digits=12, decimal_places=2, null=True)

    class Meta:
        constraints = [
            *filed("lien_release"),
            not_negative("lien_release", "amount"),
            holds("lien_release_names_lien", ~Q(lien_number=""), "names no lien"),
        ]
        indexes = [models.Index("county", "lien_number", name="lien_release_by_lien")]
