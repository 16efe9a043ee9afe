"""Series: a mailing that is repeated at an interval to those who have not answered."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from jaded_ledger.accounts.models import Team


class Series(models.Model):
    """Mailings of the same terms, every so many days, until so many were made. ``next_on`` is when the next is due; None ends it.

    Its rounds are mailings; who gets the later ones is among those who got the first.
    """

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="mail_series")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    name = models.CharField(max_length=80)
    begun_at = models.DateTimeField()
    every_days = models.PositiveSmallIntegerField()
    rounds = models.PositiveSmallIntegerField(help_text="How many mailings in all, the first among them.")
    next_on = models.DateField(null=True)
    ended_at = models.DateTimeField(null=True, help_text="When somebody ended it before its last.")

    class Meta:
        db_table = "outreach_series"
        ordering = ["next_on", "pk"]
        verbose_name_plural = "series"
        constraints = [
            models.CheckConstraint(condition=Q(every_days__range=(1, 730), rounds__range=(2, 24)), name="series_bounds"),
        ]

    def __str__(self) -> str:
        return self.name
