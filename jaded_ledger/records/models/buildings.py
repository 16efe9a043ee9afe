"""Buildings, dwelling units, and condominium and co-operative projects."""

from __future__ import annotations

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q

from jaded_ledger.core.property import Amenity, Tenure
from jaded_ledger.records.models.filed import Filed, OnParcel, filed
from jaded_ledger.records.models.parcels import Parcel
from jaded_ledger.records.models.provenance import choices, holds, one_of


class Project(Filed):
    """A condominium or co-operative project; its units are the parcels whose parent is its ground."""

    natural = ("number",)
    without_number = ("name",)
    sizes = ("year_built",)

    number = models.CharField(max_length=40, blank=True)
    name = models.CharField(max_length=120)
    tenure = models.CharField(max_length=20, choices=choices(Tenure), blank=True)
    amenities = ArrayField(models.CharField(max_length=20, choices=choices(Amenity)), default=list)
    units = models.PositiveSmallIntegerField(null=True)
    year_built = models.PositiveSmallIntegerField(null=True)
    parcel = models.ForeignKey(Parcel, verbose_name="ground", null=True, on_delete=models.PROTECT, related_name="projects")

    class Meta:
        constraints = [
            *filed("project"),
            one_of("project", "tenure", Tenure, or_blank=True),
            holds("project_amenities_known", Q(amenities__contained_by=[one.value for one in Amenity]), "an amenity is not known"),
            holds("project_has_name", ~Q(name=""), "has no name"),
            holds("project_year_plausible", Q(year_built=None) | Q(year_built__gte=1600), "was not built before 1600"),
        ]


class Building(OnParcel):
    """One building as the assessor measured it."""

    natural = ("parcel", "number")
    sizes = ("year_built", "stories", "living_area")

    number = models.PositiveSmallIntegerField("no.", default=1)
    use = models.CharField(max_length=60, blank=True)
    year_built = models.PositiveSmallIntegerField(null=True)
    stories = models.FloatField(null=True)
    living_area = models.PositiveIntegerField("living area, sq ft", null=True)
    basement_area = models.PositiveIntegerField("basement, sq ft", null=True)
    garage_spaces = models.PositiveSmallIntegerField(null=True)
    has_pool = models.BooleanField("pool", null=True)
    main_floor_beds = models.PositiveSmallIntegerField("beds on the main floor", null=True)
    construction = models.CharField(max_length=40, blank=True)
    condition = models.CharField(max_length=20, blank=True)

    class Meta:
        constraints = [
            *filed("building"),
            holds("building_year_plausible", Q(year_built=None) | Q(year_built__gte=1600), "was not built before 1600"),
            holds("building_area_positive", Q(living_area=None) | Q(living_area__gt=0), "a living area of 0 is unknown"),
            holds("building_stories_positive", Q(stories=None) | Q(stories__gt=0), "0 stories are unknown"),
        ]


class Unit(OnParcel):
    """A dwelling unit within a building."""

    natural = ("parcel", "designator")
    sizes = ("living_area",)

    designator = models.CharField("unit", max_length=20)
    beds = models.PositiveSmallIntegerField(null=True)
    baths = models.FloatField(null=True)
    living_area = models.PositiveIntegerField("living area, sq ft", null=True)

    class Meta:
        constraints = [
            *filed("unit"),
            holds("unit_has_designator", ~Q(designator=""), "has no designator"),
            holds("unit_area_positive", Q(living_area=None) | Q(living_area__gt=0), "a living area of 0 is unknown"),
        ]
