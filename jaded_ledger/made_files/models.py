"""Files that users asked for: what they hold, how far they have come, and their bytes."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from jaded_ledger.accounts.models import Team


class MadeFile(models.Model):
    """A file that somebody asked for. Its bytes are kept in parts for some days, then it is forgotten."""

    class State(models.TextChoices):
        WAITING = "waiting", "waiting its turn"
        MAKING = "making", "being made"
        READY = "ready", "ready"
        FAILED = "failed", "not made"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="made_files")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="made_files")
    kind = models.CharField(max_length=40)
    name = models.CharField(max_length=120)
    content_type = models.CharField(max_length=80)
    about = models.CharField(max_length=200, blank=True, help_text="What it holds, in words.")
    arguments = models.JSONField(default=dict)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    attempts = models.PositiveSmallIntegerField(default=0, help_text="How often it was begun.")
    done = models.PositiveIntegerField(default=0, help_text="How many of its rows are made.")
    rows = models.PositiveIntegerField(help_text="How many rows it was to have when it was asked for.")
    size = models.PositiveBigIntegerField(default=0, help_text="Bytes.")
    error = models.TextField(blank=True)
    asked_at = models.DateTimeField()
    ready_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-asked_at", "-id"]
        indexes = [models.Index(fields=["user", "-asked_at"])]
        constraints = [
            models.CheckConstraint(condition=Q(state__in=["waiting", "making", "ready", "failed"]), name="made_file_state_known"),
            models.CheckConstraint(condition=~Q(state="ready") | Q(ready_at__isnull=False), name="made_file_ready_at"),
        ]

    def __str__(self) -> str:
        return f"{self.name} ({self.get_state_display()})"

    @property
    def is_under_way(self) -> bool:
        return self.state in (self.State.WAITING, self.State.MAKING)


class MadeFilePart(models.Model):
    """A piece of a file, in order."""

    file = models.ForeignKey(MadeFile, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    content = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint("file", "number", name="made_file_part_once")]
