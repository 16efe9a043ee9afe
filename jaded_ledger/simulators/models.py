"""What the stand-ins keep."""

from __future__ import annotations

from django.db import models

from jaded_ledger.accounts.models import Team


class MailHouseJob(models.Model):
    """A batch that the stand-in for a mail house took. What is reported of it follows from its number and its day."""

    reference = models.CharField(max_length=20, unique=True)
    form = models.CharField(max_length=10)
    pieces = models.PositiveIntegerField()
    taken_on = models.DateField()
    csv = models.BinaryField()
    pdf = models.BinaryField()

    def __str__(self) -> str:
        return self.reference


class KeptMail(models.Model):
    """A mail that was sent while no relay is set: whole, as it would have left."""

    team = models.ForeignKey(Team, null=True, on_delete=models.CASCADE, related_name="+")
    kept_at = models.DateTimeField()
    to = models.TextField()
    subject = models.TextField()
    message = models.BinaryField()

    class Meta:
        ordering = ["-kept_at", "-id"]
        indexes = [models.Index(fields=["team", "-kept_at"], name="kept_mail_newest")]
