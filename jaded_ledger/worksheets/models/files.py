"""Files that a team keeps of a property: inspection reports, bids, floor plans, its own photographs."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team
from jaded_ledger.records.models import Parcel
from jaded_ledger.worksheets.models.worksheets import Worksheet


class FileKind(models.TextChoices):
    """What a file is."""

    INSPECTION = "inspection", "inspection report"
    BID = "bid", "bid"
    PLAN = "plan", "floor plan"
    PHOTOGRAPH = "photograph", "photograph"
    OTHER = "other", "other"


class FileType(models.TextChoices):
    """The forms of files that are kept, as their bytes tell them."""

    PDF = "application/pdf", "PDF"
    JPEG = "image/jpeg", "JPEG"
    PNG = "image/png", "PNG"
    WEBP = "image/webp", "WebP"


class DealFile(Deletable):
    """A file of a property, and maybe of one worksheet. ``preview`` is its first page or the picture itself, small, as JPEG."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="deal_files")
    worksheet = models.ForeignKey(Worksheet, null=True, on_delete=models.SET_NULL, related_name="files")
    kind = models.CharField(max_length=12, choices=FileKind.choices)
    name = models.CharField(max_length=120)
    content_type = models.CharField(max_length=20, choices=FileType.choices)
    size = models.PositiveIntegerField(help_text="In bytes.")
    pages = models.PositiveSmallIntegerField(null=True, help_text="Of a PDF.")
    sha256 = models.CharField(max_length=64)
    content = models.BinaryField()
    preview = models.BinaryField()
    kept_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    kept_at = models.DateTimeField()

    class Meta:
        db_table = "deals_dealfile"
        ordering = ["-kept_at", "-pk"]
        constraints = [
            models.CheckConstraint(condition=Q(kind__in=FileKind.values), name="deal_file_kind_known"),
            models.CheckConstraint(condition=Q(content_type__in=FileType.values), name="deal_file_type_known"),
        ]

    def __str__(self) -> str:
        return self.name
