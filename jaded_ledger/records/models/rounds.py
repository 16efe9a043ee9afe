"""Failures in background rounds."""

from __future__ import annotations

from django.db import models


class RoundFault(models.Model):
    """An item of a round that failed the last time. The row is deleted when the item succeeds."""

    round = models.CharField(max_length=60, help_text="Which round, in words.")
    item = models.CharField(max_length=80, help_text="Model and key of what failed.")
    about = models.CharField(max_length=200, help_text="What it is called.")
    error = models.CharField(max_length=500)
    first_at = models.DateTimeField()
    last_at = models.DateTimeField()
    times = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["-last_at", "-id"]
        constraints = [models.UniqueConstraint("round", "item", name="round_fault_once")]

    def __str__(self) -> str:
        return f"{self.round}: {self.about}"
