"""Where a recorded row came from, and which version of it is current."""

from __future__ import annotations

from datetime import date
from enum import StrEnum

from django.db import models
from django.db.models import F, Q


class SourceFile(models.Model):
    """One file taken in. Rows of every recorded kind point back to theirs."""

    county = models.ForeignKey(
        "records.County", null=True, on_delete=models.PROTECT, related_name="source_files", help_text="Blank where each row names its own."
    )
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
    gone = models.PositiveIntegerField(default=0, help_text="Rows on record that a complete file no longer holds.")
    refused = models.PositiveIntegerField(default=0)
    doubtful = models.PositiveIntegerField(default=0, help_text="Rows that went in with a value left unknown that can't be so.")
    seconds = models.FloatField(default=0, help_text="How long it took to take in.")
    columns = models.JSONField(default=dict, help_text="How its columns were mapped.")
    note = models.TextField(blank=True, help_text="What is to be known of it beside the counts.")

    @property
    def went_in(self) -> int:
        return self.read - self.refused

    @property
    def written(self) -> int:
        return self.went_in - self.same

    def __str__(self) -> str:
        return f"{self.name} ({self.kind}, {self.as_of})"


class Recorded(models.Model):
    """A version of a recorded row. Nothing is overwritten: a correction supersedes and the earlier stays readable.

    ``valid_from`` is the day the file speaks of, ``recorded_at`` the moment it was taken in; ``valid_until`` and
    ``superseded_at`` are the same of the file that corrected or ended it. ``digest`` tells whether a row that comes
    again says the same. ``further`` holds the file's own further columns, by their names. ``doubts`` holds what of the row could
    not be so and was left unknown: by our column's name, what it said and why that can't be. ``corrects`` is the digest of the doubtful
    row that this one corrects: it says nothing new when it comes again.
    """

    source_file = models.ForeignKey(SourceFile, on_delete=models.PROTECT, related_name="+", db_index=False)
    source_line = models.PositiveIntegerField()
    valid_from = models.DateField()
    valid_until = models.DateField(null=True)
    recorded_at = models.DateTimeField()
    superseded_at = models.DateTimeField(null=True)
    digest = models.CharField(max_length=32)
    corrects = models.CharField(max_length=32, blank=True, default="")
    further = models.JSONField(default=dict)
    doubts = models.JSONField(default=dict)

    class Meta:
        abstract = True


def versions(name: str, *natural_key: str) -> list[models.BaseConstraint]:
    """Return the constraints of a versioned model: one current row per key, each superseded only after it was recorded."""
    return [
        models.UniqueConstraint(fields=natural_key, condition=Q(superseded_at=None), name=f"{name}_one_current"),
        models.CheckConstraint(condition=Q(superseded_at=None) | Q(superseded_at__gte=F("recorded_at")), name=f"{name}_superseded_later"),
        models.CheckConstraint(
            condition=Q(superseded_at=None, valid_until=None)
            | Q(superseded_at__isnull=False, valid_until__isnull=False, valid_until__gte=F("valid_from")),
            name=f"{name}_valid_in_order",
        ),
    ]


def as_of(day: date) -> Q:
    """Return the condition on a versioned model that keeps what was on record as of a day."""
    return Q(valid_from__lte=day) & (Q(valid_until=None) | Q(valid_until__gt=day))


def holds(name: str, condition: Q, says: str) -> models.CheckConstraint:
    """Return a constraint that the database keeps; ``says`` is what a refused row is told."""
    return models.CheckConstraint(condition=condition, name=name, violation_error_message=says)


def not_negative(name: str, *fields: str) -> models.CheckConstraint:
    """Return the constraint that none of some amounts is below zero; unknown ones may be."""
    condition = Q()
    for field in fields:
        condition &= Q(**{field: None}) | Q(**{f"{field}__gte": 0})
    return holds(f"{name}_not_negative", condition, "an amount is negative")


def in_order(name: str, earlier: str, later: str) -> models.CheckConstraint:
    """Return the constraint that one day does not lie after another, where both are known."""
    says = f"{later.replace('_', ' ')} lies before {earlier.replace('_', ' ')}"
    return holds(f"{name}_in_order", Q(**{earlier: None}) | Q(**{later: None}) | Q(**{f"{later}__gte": F(earlier)}), says)


def one_of(name: str, field: str, words: type[StrEnum], *, or_blank: bool = False) -> models.CheckConstraint:
    """Return the constraint that a column holds one of a vocabulary's words."""
    allowed = [word.value for word in words] + ([""] if or_blank else [])
    return holds(f"{name}_{field}_known", Q(**{f"{field}__in": allowed}), f"{field.replace('_', ' ')} is none of {', '.join(words)}")


def choices(words: type[StrEnum]) -> list[tuple[str, str]]:
    """Return a vocabulary as a column's choices."""
    return [(word.value, word.value) for word in words]
