"""Property taxes year by year, who levies them at what rate, and exemptions."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jaded_ledger.records.models.filed import Filed, OnParcel, filed
from jaded_ledger.records.models.names import Area
from jaded_ledger.records.models.provenance import holds, in_order, not_negative


class TaxYear(OnParcel):
    """What a parcel was valued at and billed for a year, and what is still due of it."""

    natural = ("parcel", "year")

    year = models.PositiveSmallIntegerField()
    land_value = models.DecimalField("land", max_digits=12, decimal_places=2, null=True)
    improvement_value = models.DecimalField("improvements", max_digits=12, decimal_places=2, null=True)
    market_value = models.DecimalField("market value", max_digits=12, decimal_places=2, null=True, help_text="As the roll estimates it.")
    billed = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    paid = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    due = models.DecimalField(max_digits=12, decimal_places=2, null=True, help_text="With interest, as of the file's day.")

    class Meta:
        constraints = [
            *filed("tax_year"),
            not_negative("tax_year", "land_value", "improvement_value", "market_value", "billed", "paid", "due"),
            holds("tax_year_plausible", Q(year__range=(1800, 2200)), "is not a year of tax"),
        ]


class TaxRate(Filed):
    """What an authority levies in a year, in all of the county or in one area of it."""

    natural = ("authority", "year")

    authority = models.CharField(max_length=80)
    year = models.PositiveSmallIntegerField()
    area = models.ForeignKey(Area, verbose_name="in", null=True, on_delete=models.PROTECT, related_name="+")
    per_thousand = models.DecimalField("per $1,000", max_digits=8, decimal_places=4, help_text="Dollars per $1,000 of assessed value.")

    class Meta:
        constraints = [
            *filed("tax_rate"),
            not_negative("tax_rate", "per_thousand"),
            holds("tax_rate_has_authority", ~Q(authority=""), "names no authority"),
        ]


class Exemption(OnParcel):
    """What lowers or lifts a parcel's tax."""

    natural = ("parcel", "kind", "since")
    needed = ("until",)

    kind = models.CharField(max_length=40, help_text="In the county's words.")
    since = models.DateField()
    until = models.DateField(null=True)
    amount = models.DecimalField(max_digits=12, decimal_places=2, null=True)

    class Meta:
        constraints = [
            *filed("exemption"),
            not_negative("exemption", "amount"),
            in_order("exemption", "since", "until"),
            holds("exemption_has_kind", ~Q(kind=""), "says not of what kind"),
        ]
