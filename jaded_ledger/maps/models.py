"""What a team keeps of the map: areas that it drew or took over, and the sales that some were drawn around."""

from __future__ import annotations

from django.conf import settings
from django.contrib.gis.db import models
from django.contrib.postgres.fields import ArrayField
from django.db.models import Q

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team
from jaded_ledger.records.models import Parcel


class DrawnArea(Deletable):
    """A part of the map under a name, in degrees (WGS 84). ``center`` and ``radius``, in meters, are of one that was drawn as a circle."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="drawn_areas")
    name = models.CharField(max_length=80)
    folded = models.CharField(max_length=80, help_text="The name in the form in which names are compared.")
    geometry = models.MultiPolygonField(srid=4326)
    center = models.PointField(srid=4326, null=True, spatial_index=False)
    radius = models.FloatField(null=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField()
    changed_at = models.DateTimeField()

    class Meta:
        ordering = ["folded"]
        constraints = [
            models.UniqueConstraint("team", "folded", condition=Q(deleted_at=None), name="drawn_area_once"),
            models.CheckConstraint(condition=~Q(name=""), name="drawn_area_has_name"),
            models.CheckConstraint(
                condition=Q(center=None, radius=None) | Q(center__isnull=False, radius__gt=0), name="drawn_area_circle_whole"
            ),
        ]

    def __str__(self) -> str:
        return self.name


class SaleOfArea(models.Model):
    """The sale that an area was drawn around, as it was told then: it goes with every search and list of the area."""

    area = models.OneToOneField(DrawnArea, on_delete=models.CASCADE, related_name="sale")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    listing_id = models.CharField(max_length=40)
    address = models.CharField(max_length=200)
    closed_on = models.DateField(null=True)
    list_price = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    close_price = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    days = models.PositiveIntegerField(null=True, help_text="On the market.")
    signs = ArrayField(models.CharField(max_length=60), default=list, help_text="That several buyers competed.")

    class Meta:
        verbose_name_plural = "sales of areas"

    def __str__(self) -> str:
        return self.address
