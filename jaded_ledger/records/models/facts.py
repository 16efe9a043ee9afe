"""The searchable row of each parcel: derived, indexed, and at any time thrown away and rebuilt."""

from __future__ import annotations

from django.core.serializers.json import DjangoJSONEncoder
from django.db import models

from jaded_ledger.records.models.names import Area, Owner, RecordedAddress, RecordedName, Street
from jaded_ledger.records.models.parcels import County, Parcel


def pointer(to: type[models.Model], **options: object) -> models.ForeignKey:
    """Return a reference without an index or a constraint: the row is rebuilt with what it points at."""
    return models.ForeignKey(to, null=True, on_delete=models.DO_NOTHING, db_constraint=False, db_index=False, related_name="+", **options)


class ParcelFacts(models.Model):
    """One parcel as searches see it. Columns of fixed width first: a scan then reads each at a known place.

    Choices are the codes declared with their trait, money is whole dollars, and what depends on the day is kept as
    a date. None is unknown.
    """

    parcel = models.OneToOneField(Parcel, primary_key=True, on_delete=models.CASCADE, related_name="facts")
    county = models.ForeignKey(County, on_delete=models.PROTECT, related_name="+")
    municipality = pointer(Area)
    city = pointer(Area)
    zip = pointer(Area)
    subdivision = pointer(Area)
    address = pointer(RecordedAddress)
    street = pointer(Street)
    owner = models.ForeignKey(Owner, null=True, on_delete=models.DO_NOTHING, db_constraint=False, related_name="facts")
    owner_name = pointer(RecordedName)
    mailing_address = pointer(RecordedAddress)
    mailing_state = pointer(Area)
    house_number = models.IntegerField(null=True)
    living_area = models.IntegerField(null=True)
    lot_sqft = models.IntegerField(null=True)
    assessed_value = models.IntegerField(null=True)
    improvement_value = models.IntegerField(null=True)
    last_sale_price = models.IntegerField(null=True)
    last_sale = models.DateField(null=True)
    baths = models.FloatField(null=True)
    lot_acres = models.FloatField(null=True)
    property_class = models.SmallIntegerField(null=True)
    beds = models.SmallIntegerField(null=True)
    year_built = models.SmallIntegerField(null=True)
    house_side = models.SmallIntegerField(null=True)
    owner_kind = models.SmallIntegerField(null=True)
    owner_occupied = models.BooleanField(null=True)
    parcel_number = models.CharField(max_length=40, db_collation="C", help_text="The parcel's number key.")
    further = models.JSONField(
        default=dict,
        encoder=DjangoJSONEncoder,
        help_text="The county's own columns by their key: a number, a day, a choice's code, or text.",
    )

    class Meta:
        verbose_name_plural = "parcel facts"
        indexes = [models.Index("county", "parcel_number", name="facts_by_number")]
