"""Permits, code violations, vacancy and rentals: what a town knows of a house's state and use."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jaded_ledger.records.models.filed import OnParcel, filed
from jaded_ledger.records.models.names import RecordedName
from jaded_ledger.records.models.provenance import holds, in_order, not_negative


class Permit(OnParcel):
    """A building permit."""

    natural = ("number",)
    without_number = ("parcel", "issued_on", "kind")

    number = models.CharField(max_length=40, blank=True)
    kind = models.CharField(max_length=40, blank=True)
    description = models.TextField(blank=True)
    issued_on = models.DateField("issued")
    closed_on = models.DateField("closed", null=True)
    cost = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    contractor = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [*filed("permit"), not_negative("permit", "cost"), in_order("permit", "issued_on", "closed_on")]


class Violation(OnParcel):
    """A code violation."""

    natural = ("number",)
    needed = ("closed_on",)
    without_number = ("parcel", "opened_on", "description")

    number = models.CharField(max_length=40, blank=True)
    description = models.TextField(blank=True)
    opened_on = models.DateField("opened")
    closed_on = models.DateField("closed", null=True)
    fine = models.DecimalField(max_digits=12, decimal_places=2, null=True)

    class Meta:
        constraints = [*filed("violation"), not_negative("violation", "fine"), in_order("violation", "opened_on", "closed_on")]


class Vacancy(OnParcel):
    """A spell in which a building stood empty, as its source noticed it."""

    natural = ("parcel", "since", "noticed_by")
    needed = ("until",)

    since = models.DateField()
    until = models.DateField(null=True)
    noticed_by = models.CharField(max_length=60, blank=True)

    class Meta:
        verbose_name_plural = "vacancies"
        constraints = [*filed("vacancy"), in_order("vacancy", "since", "until")]


class Rental(OnParcel):
    """A let dwelling, as a rental register or a lease records it."""

    natural = ("parcel", "unit", "since")
    needed = ("until",)

    unit = models.CharField(max_length=20, blank=True)
    since = models.DateField()
    until = models.DateField(null=True)
    rent = models.DecimalField("rent a month", max_digits=10, decimal_places=2, null=True)
    beds = models.PositiveSmallIntegerField(null=True)
    tenant = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    noted_by = models.CharField(max_length=60, blank=True)

    class Meta:
        constraints = [
            *filed("rental"),
            not_negative("rental", "rent"),
            in_order("rental", "since", "until"),
            holds("rental_beds_plausible", Q(beds=None) | Q(beds__lte=50), "has more than 50 beds"),
        ]
