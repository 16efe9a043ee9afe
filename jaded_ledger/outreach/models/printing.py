"""What mail costs a team, and how far off its printers are."""

from __future__ import annotations

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q

from jaded_ledger.accounts.models import Team

MOST_OFF = 20
"""Millimeters; what is further off is no printer's doing."""


class MailSettings(models.Model):
    """What a team's mail costs and who sends it; without one the shipped prices hold, and no sender is named."""

    team = models.OneToOneField(Team, on_delete=models.CASCADE, related_name="mail_settings")
    prices = models.JSONField(default=dict, help_text="Dollars, by the names of core.mail.postage.Prices.")
    export_limits = models.JSONField(default=dict, help_text="By role how many rows a contact file has at most; without, none.")
    sender = ArrayField(models.CharField(max_length=60), default=list, blank=True, help_text="The lines of the return address.")


class Printer(models.Model):
    """A printer, and what its sheets are off: how many millimeters its print has to be moved to the right, and down."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="printers")
    name = models.CharField(max_length=40)
    right = models.FloatField(default=0)
    down = models.FloatField(default=0)
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint("team", "name", name="printer_once"),
            models.CheckConstraint(
                condition=Q(right__range=(-MOST_OFF, MOST_OFF), down__range=(-MOST_OFF, MOST_OFF)), name="printer_not_far_off"
            ),
        ]

    def __str__(self) -> str:
        return self.name
