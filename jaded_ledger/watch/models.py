"""The private addresses of users' calendars."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class CalendarFeed(models.Model):
    """A user's calendar. Its address holds ``serial``, signed: a new serial makes the address before it worth nothing."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="calendar_feed")
    serial = models.PositiveIntegerField(default=1)
    made_at = models.DateTimeField()
    read_at = models.DateTimeField(null=True, help_text="When a calendar program last read it.")
    ended_at = models.DateTimeField(null=True, help_text="When its user ended it.")
