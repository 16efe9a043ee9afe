"""Files on their way in, how each source's files are read, and rows that were refused."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from jaded_ledger.records.models import County, SourceFile


class Source(models.Model):
    """Where files come from, recognized by their columns: how its files of a kind are laid out and mapped.

    A blank county is a file in which each row names its own.
    """

    kind = models.CharField(max_length=20)
    county = models.ForeignKey(County, null=True, on_delete=models.CASCADE, related_name="sources")
    header_key = models.CharField(max_length=32)
    header = models.JSONField()
    layout = models.JSONField(default=dict)
    columns = models.JSONField(default=dict)
    is_complete = models.BooleanField(default=False)
    used_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint("kind", "county", "header_key", name="source_once", nulls_distinct=False)]


class Upload(models.Model):
    """A file that somebody brought: what it is taken for, how far it has come, and what came of it.

    Its bytes are kept in parts until it is taken in, so that any worker can run it, and again after one was killed.
    """

    class State(models.TextChoices):
        NEW = "new", "to be mapped"
        WAITING = "waiting", "waiting its turn"
        RUNNING = "running", "being taken in"
        DONE = "done", "taken in"
        FAILED = "failed", "not taken in"

    uploaded_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="uploads")
    uploaded_at = models.DateTimeField()
    name = models.CharField(max_length=255)
    size = models.PositiveBigIntegerField()
    form = models.CharField(max_length=20)
    layout = models.JSONField(default=dict, help_text="What was corrected of the layout found in the file.")
    header = models.JSONField(default=list)
    sample = models.JSONField(default=list, help_text="The first rows, each a list of cells in the header's order after its line.")
    rows_about = models.PositiveIntegerField(null=True, help_text="How many rows it seems to have.")
    kind = models.CharField(max_length=20, blank=True)
    county = models.ForeignKey(County, null=True, on_delete=models.PROTECT, related_name="uploads")
    as_of = models.DateField()
    is_complete = models.BooleanField(default=False)
    may_end_most = models.BooleanField(default=False)
    begins = models.BooleanField(null=True, help_text="Whether it begins parcels that are not on record; blank until somebody says.")
    columns = models.JSONField(default=dict)
    state = models.CharField(max_length=10, choices=State.choices, default=State.NEW)
    attempts = models.PositiveSmallIntegerField(default=0, help_text="How often a worker began with it.")
    read = models.PositiveIntegerField(default=0)
    refused = models.PositiveIntegerField(default=0)
    step = models.CharField(max_length=80, blank=True)
    started_at = models.DateTimeField(null=True)
    stirred_at = models.DateTimeField(null=True, help_text="When the worker last gave a sign of life.")
    ended_at = models.DateTimeField(null=True)
    error = models.TextField(blank=True)
    source_file = models.OneToOneField(SourceFile, null=True, on_delete=models.PROTECT, related_name="upload")

    class Meta:
        ordering = ["-uploaded_at", "-id"]
        constraints = [
            models.CheckConstraint(condition=Q(state__in=["new", "waiting", "running", "done", "failed"]), name="upload_state_known"),
            models.CheckConstraint(condition=~Q(state="done") | Q(source_file__isnull=False), name="upload_done_has_file"),
        ]

    def __str__(self) -> str:
        return f"{self.name} ({self.get_state_display()})"

    @property
    def is_under_way(self) -> bool:
        return self.state in (self.State.WAITING, self.State.RUNNING)


class UploadPart(models.Model):
    """A piece of an uploaded file, in order."""

    upload = models.ForeignKey(Upload, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    content = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint("upload", "number", name="upload_part_once")]


class Refusal(models.Model):
    """What was wrong with a row: where it stood, which value, and all the row said by the file's own names.

    A row that can't do without the value was not taken in; others went in with that value left unknown, and are doubtful.
    """

    source_file = models.ForeignKey(SourceFile, on_delete=models.CASCADE, related_name="refusals")
    line = models.PositiveIntegerField()
    column = models.CharField(max_length=60, help_text="The file's name for it; blank for the row as a whole.")
    value = models.TextField(blank=True)
    reason = models.TextField()
    is_doubtful = models.BooleanField(default=False, help_text="Whether the row went in, this value left unknown.")
    row = models.JSONField(help_text="Pairs of column and cell, in the file's order.")
    settled_in = models.ForeignKey(
        SourceFile, null=True, on_delete=models.SET_NULL, related_name="settled", help_text="The file that brought the row corrected."
    )

    class Meta:
        indexes = [models.Index(fields=["source_file", "line"])]

    def __str__(self) -> str:
        return f"line {self.line}, {self.column}: {self.reason}"
