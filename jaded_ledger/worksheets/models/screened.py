"""What worksheets that nobody has touched say of many properties, kept so that searches can ask for it."""

from __future__ import annotations

from django.db import models

from jaded_ledger.accounts.models import Team
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.records.models import Parcel


class ScreenedParcel(models.Model):
    """A property by a team's assumptions: whole dollars and percent to the hundredth; null where it is not known or not defined."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    cap_rate = models.FloatField(null=True)
    cash_on_cash = models.FloatField(null=True)
    discount_to_value = models.FloatField(null=True)
    highest_offer = models.IntegerField(null=True)
    value_needed = models.IntegerField(null=True)
    net_to_seller = models.IntegerField(null=True)
    screened_on = models.DateField()

    class Meta:
        db_table = "deals_screenedparcel"
        constraints = [models.UniqueConstraint("team", "parcel", name="screened_parcel_once")]


class ScreenedList(models.Model):
    """A list whose properties are screened, whether or not they are on the market."""

    list = models.OneToOneField(ParcelList, primary_key=True, on_delete=models.CASCADE, related_name="screened")

    class Meta:
        db_table = "deals_screenedlist"


class Screening(models.Model):
    """How a team's screening stands: whether it waits for the worker, and of which facts and day it is."""

    team = models.OneToOneField(Team, primary_key=True, on_delete=models.CASCADE, related_name="screening")
    is_waiting = models.BooleanField(default=True)
    facts_version = models.IntegerField(default=0)
    screened_on = models.DateField(null=True)
    count = models.PositiveIntegerField(default=0)

    class Meta:
        db_table = "deals_screening"
