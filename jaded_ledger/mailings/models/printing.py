"""How far off a team's printers are."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team

MOST_OFF = 20
"""Millimeters; what is further off is no printer's doing."""


class Printer(Deletable):
    """A printer, and what its sheets are off: how many millimeters its print has to be moved to the right, and down."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="printers")
    name = models.CharField(max_length=40)
    right = models.FloatField(default=0)
    down = models.FloatField(default=0)

    class Meta:
        db_table = "outreach_printer"
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint("team", "name", name="printer_once"),
            models.CheckConstraint(
                condition=Q(right__range=(-MOST_OFF, MOST_OFF), down__range=(-MOST_OFF, MOST_OFF)), name="printer_not_far_off"
            ),
        ]

    def __str__(self) -> str:
        return self.name
