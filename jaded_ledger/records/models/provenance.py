"""Where a recorded row came from, and which version of it is current."""

from __future__ import annotations

from django.db import models
from django.db.models import F, Q


class SourceFile(models.Model):
    """One file taken in. Rows of every recorded kind point back to theirs."""

    county = models.ForeignKey("records.County", on_delete=models.PROTECT, related_name="source_files")
    kind = models.CharField(max_length=20)
    name = models.CharField(max_length=255)
    sha256 = models.CharField(max_length=64)
    as_of = models.DateField(help_text="The day the file speaks of; records reach through it.")
    is_complete = models.BooleanField(help_text="Whether it holds everything of its kind, so that what is missing is gone.")
    taken_in_at = models.DateTimeField()
    read = models.PositiveIntegerField(default=0)
    new = models.PositiveIntegerField(default=0)
    changed = models.PositiveIntegerField(default=0)
    same = models.PositiveIntegerField(default=0)
    refused = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"{self.name} ({self.kind}, {self.as_of})"


class Recorded(models.Model):
    """A version of a recorded row. Nothing is overwritten: a correction supersedes and the earlier stays readable.

    ``valid_from`` is the day the file speaks of, ``recorded_at`` the moment it was taken in; ``digest`` tells
    whether a row that comes again says the same.
    """

    source_file = models.ForeignKey(SourceFile, on_delete=models.PROTECT, related_name="+")
    source_line = models.PositiveIntegerField()
    valid_from = models.DateField()
    recorded_at = models.DateTimeField()
    superseded_at = models.DateTimeField(null=True)
    digest = models.CharField(max_length=32)

    class Meta:
        abstract = True


def versions(name: str, *natural_key: str) -> list[models.BaseConstraint]:
    """Return the constraints of a versioned model: one current row per key, superseded only after it was recorded."""
    return [
        models.UniqueConstraint(fields=natural_key, condition=Q(superseded_at=None), name=f"{name}_one_current"),
        models.CheckConstraint(condition=Q(superseded_at=None) | Q(superseded_at__gte=F("recorded_at")), name=f"{name}_superseded_later"),
    ]
