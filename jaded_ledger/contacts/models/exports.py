"""The log of contact data that left the application as a file."""

from __future__ import annotations

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models


class ContactExport(models.Model):
    """One time that owners' names and addresses left as a file: who, when, from which search, how many."""

    class Form(models.TextChoices):
        CSV = "csv", "Contact file"
        LABELS = "labels", "Mailing"
        MERGE = "merge", "Merge data"
        HOUSE = "house", "To a mail house"

    team = models.ForeignKey("accounts.Team", on_delete=models.PROTECT, related_name="contact_exports")
    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="contact_exports",
        help_text="Blank when it was made from the command line.",
    )  # fmt: skip
    made_at = models.DateTimeField()
    form = models.CharField(max_length=10, choices=Form.choices)
    search = models.TextField(help_text="The search's text form.")
    count = models.PositiveIntegerField(help_text="Rows in the file, or pieces printed.")
    parcel_ids = ArrayField(models.BigIntegerField(), default=list, help_text="The parcels whose contact data it holds.")
    details = models.JSONField(default=dict, help_text="The columns of a file; sheet, addressing and refusals of labels.")

    class Meta:
        db_table = "outreach_contactexport"
        ordering = ["-made_at", "-id"]
        indexes = [models.Index(fields=["team", "-made_at"])]
