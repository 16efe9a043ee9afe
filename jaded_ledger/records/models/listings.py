"""Listings past and present, with fields named after the RESO Data Dictionary 2.0."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jaded_ledger.core.market.listings import (
    BuyerFinancing,
    OccupantType,
    Offer,
    PropertyType,
    SpecialListingConditions,
    StandardStatus,
    offer_of,
)
from jaded_ledger.records.models.filed import Filed, filed
from jaded_ledger.records.models.names import RecordedName
from jaded_ledger.records.models.parcels import Parcel
from jaded_ledger.records.models.provenance import choices, holds, in_order, not_negative, one_of


class Office(Filed):
    """A brokerage's office."""

    natural = ("office_mls_id",)

    office_mls_id = models.CharField(max_length=40)
    office_name = models.CharField(max_length=120)
    office_phone = models.CharField(max_length=40, blank=True)

    class Meta:
        constraints = [*filed("office"), holds("office_has_name", ~Q(office_name=""), "has no name")]


class Agent(Filed):
    """A listing service's member."""

    natural = ("member_mls_id",)

    member_mls_id = models.CharField(max_length=40)
    member_full_name = models.CharField(max_length=120)
    office_mls_id = models.CharField(max_length=40, blank=True)
    member_direct_phone = models.CharField(max_length=40, blank=True)

    class Meta:
        constraints = [*filed("agent"), holds("agent_has_name", ~Q(member_full_name=""), "has no name")]


class Listing(Filed):
    """A property offered for sale or to let: what the listing says, whatever the roll does.

    ``first_seen_on`` is the day of the first file that held it, for feeds that give no list date.
    """

    natural = ("originating_system_name", "listing_id")
    ahead = ("expiration_date",)
    sizes = ("living_area", "lot_size_square_feet", "year_built", "stories_total")
    carried = ("first_seen_on",)

    originating_system_name = models.CharField("source", max_length=60)
    listing_id = models.CharField("listing", max_length=40)
    parcel = models.ForeignKey(Parcel, null=True, on_delete=models.PROTECT, related_name="listings")
    parcel_number = models.CharField(max_length=60, blank=True, help_text="As the listing gives it.")
    unparsed_address = models.CharField("address", max_length=200, blank=True)
    standard_status = models.CharField("status", max_length=30, choices=choices(StandardStatus))
    property_type = models.CharField(max_length=30, choices=choices(PropertyType), blank=True)
    property_sub_type = models.CharField(max_length=40, blank=True)
    special_listing_conditions = models.CharField("conditions", max_length=40, choices=choices(SpecialListingConditions), blank=True)
    list_price = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    original_list_price = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    close_price = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    lease_amount = models.DecimalField("rent asked", max_digits=12, decimal_places=2, null=True)
    total_actual_rent = models.DecimalField(
        "rent in place", max_digits=12, decimal_places=2, null=True, help_text="What its tenants pay a month."
    )
    gross_scheduled_income = models.DecimalField(
        "scheduled income", max_digits=12, decimal_places=2, null=True, help_text="A year's rent with all of it let."
    )
    listing_contract_date = models.DateField("listed", null=True)
    on_market_date = models.DateField("on market", null=True)
    purchase_contract_date = models.DateField("under contract", null=True)
    expiration_date = models.DateField("expires", null=True)
    withdrawn_date = models.DateField("withdrawn", null=True)
    cancellation_date = models.DateField("canceled", null=True)
    close_date = models.DateField("closed", null=True)
    bedrooms_total = models.PositiveSmallIntegerField("beds", null=True)
    bathrooms_full = models.PositiveSmallIntegerField("full baths", null=True)
    bathrooms_half = models.PositiveSmallIntegerField("half baths", null=True)
    living_area = models.PositiveIntegerField("living area, sq ft", null=True)
    lot_size_square_feet = models.PositiveIntegerField("lot, sq ft", null=True)
    year_built = models.PositiveSmallIntegerField(null=True)
    stories_total = models.FloatField("stories", null=True)
    garage_spaces = models.PositiveSmallIntegerField(null=True)
    main_level_bedrooms = models.PositiveSmallIntegerField("beds on the main floor", null=True)
    waterfront_yn = models.BooleanField("waterfront", null=True)
    pool_private_yn = models.BooleanField("pool", null=True)
    association_fee = models.DecimalField("association fee", max_digits=10, decimal_places=2, null=True)
    buyer_financing = models.CharField(max_length=30, choices=choices(BuyerFinancing), blank=True)
    occupant_type = models.CharField("occupant", max_length=20, choices=choices(OccupantType), blank=True)
    owner_name = models.ForeignKey(RecordedName, verbose_name="seller as listed", null=True, on_delete=models.PROTECT, related_name="+")
    list_agent_mls_id = models.CharField("agent's number", max_length=40, blank=True)
    list_agent_full_name = models.CharField("agent", max_length=120, blank=True)
    list_office_mls_id = models.CharField("office's number", max_length=40, blank=True)
    list_office_name = models.CharField("office", max_length=120, blank=True)
    public_remarks = models.TextField(blank=True)
    private_remarks = models.TextField(blank=True)
    private_office_remarks = models.TextField("further remarks", blank=True)
    first_seen_on = models.DateField("first seen")

    class Meta:
        constraints = [
            *filed("listing"),
            one_of("listing", "standard_status", StandardStatus),
            one_of("listing", "property_type", PropertyType, or_blank=True),
            one_of("listing", "special_listing_conditions", SpecialListingConditions, or_blank=True),
            one_of("listing", "buyer_financing", BuyerFinancing, or_blank=True),
            one_of("listing", "occupant_type", OccupantType, or_blank=True),
            not_negative("listing", "list_price", "original_list_price", "close_price", "lease_amount", "association_fee"),
            in_order("listing", "listing_contract_date", "close_date"),
            holds("listing_has_id", ~Q(listing_id=""), "has no number"),
            holds("listing_area_positive", Q(living_area=None) | Q(living_area__gt=0), "a living area of 0 is unknown"),
            holds(
                "listing_closed_has_date",
                ~Q(standard_status=StandardStatus.CLOSED.value) | Q(close_date__isnull=False),
                "is closed without a date",
            ),
        ]
        indexes = [models.Index("county", "listing_id", name="listing_by_number")]

    @property
    def offer(self) -> Offer:
        return offer_of(self.property_type, self.special_listing_conditions, has_office=bool(self.list_office_name))


_PRICE = r"^\d+(\.\d+)?$"


class ListingEvent(Filed):
    """A change of a listing's price or status (RESO resource HistoryTransactional)."""

    natural = ("originating_system_name", "resource_record_id", "modification_timestamp", "field_name", "new_value")
    about = ("Listing", "listing_id", "resource_record_id")

    originating_system_name = models.CharField("source", max_length=60)
    resource_record_id = models.CharField("listing", max_length=40)
    modification_timestamp = models.DateField("on", help_text="The day of the change.")
    field_name = models.CharField("what", max_length=40)
    previous_value = models.CharField("from", max_length=60, blank=True)
    new_value = models.CharField("to", max_length=60)

    class Meta:
        constraints = [
            *filed("listing_event"),
            holds(
                "listing_event_field",
                Q(field_name__in=["ListPrice", "StandardStatus"]),
                "is a change of neither ListPrice nor StandardStatus",
            ),
            holds(
                "listing_event_value",
                Q(field_name="ListPrice", new_value__regex=_PRICE)
                | Q(field_name="StandardStatus", new_value__in=[status.value for status in StandardStatus]),
                "changes to what is neither a price nor a status",
            ),
            holds(
                "listing_event_price_before",
                Q(field_name="StandardStatus") | Q(previous_value="") | Q(previous_value__regex=_PRICE),
                "changes from what is not a price",
            ),
        ]
        indexes = [models.Index("county", "resource_record_id", name="listing_event_by_listing")]


class StoredImage(models.Model):
    """An image's bytes, kept once however often it is shown."""

    sha256 = models.CharField(max_length=64, unique=True)
    content_type = models.CharField(max_length=20)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    content = models.BinaryField()


class Photograph(Filed):
    """A photograph of a listing, or of a parcel without one."""

    natural = ("listing_id", "parcel", "order")

    listing_id = models.CharField("listing", max_length=40, blank=True)
    parcel = models.ForeignKey(Parcel, null=True, on_delete=models.PROTECT, related_name="photographs")
    order = models.PositiveSmallIntegerField()
    caption = models.CharField(max_length=200, blank=True)
    image = models.ForeignKey(StoredImage, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            *filed("photograph"),
            holds("photograph_of_something", ~Q(listing_id="") | Q(parcel__isnull=False), "is of neither a listing nor a parcel"),
        ]
        indexes = [models.Index("county", "listing_id", name="photograph_by_listing")]
