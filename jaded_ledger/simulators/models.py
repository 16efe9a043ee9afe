"""What the stand-ins keep."""

from __future__ import annotations

from django.db import models


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
