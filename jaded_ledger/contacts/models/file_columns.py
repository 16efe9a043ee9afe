"""Columns of a contact file under a name."""

from __future__ import annotations

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team


class FileColumns(Deletable):
    """Columns that a team's files have again and again, such as those that its mail house wants; traits and contact columns by key."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="file_columns")
    name = models.CharField(max_length=60)
    columns = ArrayField(models.CharField(max_length=140))

    class Meta:
        db_table = "outreach_filecolumns"
        ordering = ["name"]
        verbose_name_plural = "file columns"
        constraints = [
            models.UniqueConstraint("team", "name", condition=Q(deleted_at=None), name="file_columns_once"),
            models.CheckConstraint(condition=~Q(columns=[]), name="file_columns_not_empty"),
        ]

    def __str__(self) -> str:
        return self.name
