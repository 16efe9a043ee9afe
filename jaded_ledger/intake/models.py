"""Rows that were refused, kept with their text."""

from __future__ import annotations

from django.db import models

from jaded_ledger.records.models import SourceFile


class Refusal(models.Model):
    """A row that was not taken in: where it stood, what was wrong with it, and all it said."""

    source_file = models.ForeignKey(SourceFile, on_delete=models.CASCADE, related_name="refusals")
    line = models.PositiveIntegerField()
    column = models.CharField(max_length=60)
    value = models.TextField(blank=True)
    reason = models.TextField()
    row = models.JSONField()

    def __str__(self) -> str:
        return f"line {self.line}, {self.column}: {self.reason}"
