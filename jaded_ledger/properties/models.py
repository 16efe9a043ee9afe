"""The log of contact data that was looked at."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class ContactView(models.Model):
    """One time that somebody had an owner's telephone numbers and e-mail addresses shown."""

    team = models.ForeignKey("accounts.Team", on_delete=models.PROTECT, related_name="contact_views")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="contact_views")
    seen_at = models.DateTimeField()
    parcel = models.ForeignKey("records.Parcel", on_delete=models.PROTECT, related_name="contact_views")
    count = models.PositiveSmallIntegerField(help_text="How many numbers and addresses were shown.")

    class Meta:
        ordering = ["-seen_at", "-id"]
        indexes = [models.Index(fields=["team", "parcel", "-seen_at"])]
