"""The searchable row of each parcel: derived, indexed, and at any time thrown away and rebuilt."""

from __future__ import annotations

from typing import Any

from django.contrib.gis.db import models
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GistIndex
from django.core.serializers.json import DjangoJSONEncoder

from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.records.models.names import Area, Owner, RecordedAddress, RecordedName, RecordedText, Remarks, Street
from jaded_ledger.records.models.parcels import County, Parcel


def pointer(to: type[models.Model], **options: Any) -> models.ForeignKey:
    """Return a reference without an index or a constraint: the row is rebuilt with what it points at."""
    return models.ForeignKey(to, null=True, on_delete=models.DO_NOTHING, db_constraint=False, db_index=False, related_name="+", **options)


def several(of: models.Field) -> ArrayField:
    """Return a column for a set; empty is none, null is unknown."""
    return ArrayField(of, null=True)


class ParcelFacts(models.Model):
    """One parcel as searches see it. Columns of fixed width first: a scan then reads each at a known place.

    A column is called after its trait. Choices are the codes declared with it, money is whole dollars, and what grows with
    time is kept as a day (``owned_since``; ``active_since`` beside days closed). None is unknown; where an event's flag is
    false, what it would tell of is none.
    """

    parcel = models.OneToOneField(Parcel, primary_key=True, on_delete=models.CASCADE, related_name="facts")
    county = models.ForeignKey(County, on_delete=models.PROTECT, related_name="+")
    changes_on = models.DateField(null=True, db_index=True, help_text="When a fact changes by itself, nothing new being recorded.")

    # Place
    state = pointer(Area)
    municipality = pointer(Area)
    city = pointer(Area)
    zip = pointer(Area)
    subdivision = pointer(Area)
    neighborhood = pointer(Area)
    school_district = pointer(Area)
    area = pointer(Area)
    address = pointer(RecordedAddress)
    street = pointer(Street)
    flood_zone = pointer(RecordedText)
    road_class = pointer(RecordedText)
    house_number = models.IntegerField(null=True)
    house_side = models.SmallIntegerField(null=True)
    longitude = models.FloatField(null=True)
    latitude = models.FloatField(null=True)
    highway_distance = models.IntegerField(null=True)
    arterial_distance = models.IntegerField(null=True)
    collector_distance = models.IntegerField(null=True)
    rail_distance = models.IntegerField(null=True)
    water_distance = models.IntegerField(null=True)
    elevation = models.IntegerField(null=True)
    slope = models.FloatField(null=True)
    in_flood_zone = models.BooleanField(null=True)
    waterfront = models.BooleanField(null=True)

    # Property
    project = pointer(RecordedText)
    land_use_code = pointer(RecordedText)
    condition = pointer(RecordedText)
    zoning = pointer(RecordedText)
    sewer = pointer(RecordedText)
    water_source = pointer(RecordedText)
    last_permit_kind = pointer(RecordedText)
    property_class = models.SmallIntegerField(null=True)
    tenure = models.SmallIntegerField(null=True)
    beds = models.SmallIntegerField(null=True)
    baths = models.FloatField(null=True)
    living_area = models.IntegerField(null=True)
    lot_sqft = models.IntegerField(null=True)
    lot_acres = models.FloatField(null=True)
    frontage = models.FloatField(null=True)
    depth = models.FloatField(null=True)
    frontage_of_usual = models.FloatField(null=True)
    possible_lots = models.IntegerField(null=True)
    year_built = models.SmallIntegerField(null=True)
    stories = models.FloatField(null=True)
    units = models.SmallIntegerField(null=True)
    garage = models.SmallIntegerField(null=True)
    main_floor_beds = models.SmallIntegerField(null=True)
    hoa_fee = models.IntegerField(null=True)
    listed_beds = models.SmallIntegerField(null=True)
    listed_baths = models.FloatField(null=True)
    listed_living_area = models.IntegerField(null=True)
    listed_lot_sqft = models.IntegerField(null=True)
    listed_year_built = models.SmallIntegerField(null=True)
    last_permit = models.DateField(null=True)
    last_permit_cost = models.IntegerField(null=True)
    in_project = models.BooleanField(null=True)
    pool = models.BooleanField(null=True)
    raw_land = models.BooleanField(null=True)
    has_permit = models.BooleanField(null=True)

    # Owner
    owner = models.ForeignKey(Owner, null=True, on_delete=models.DO_NOTHING, db_constraint=False, related_name="facts")
    owner_name = pointer(RecordedName)
    mailing_address = pointer(RecordedAddress)
    mailing_city = pointer(RecordedText)
    mailing_state = pointer(Area)
    mailing_zip = pointer(RecordedText)
    owner_kind = models.SmallIntegerField(null=True)
    owner_role = models.SmallIntegerField(null=True)
    mailing_distance = models.FloatField(null=True)
    owned_since = models.DateField(null=True)
    parcels_owned = models.IntegerField(null=True)
    acquired = models.SmallIntegerField(null=True)
    owner_occupied = models.BooleanField(null=True)
    owner_not_on_deed = models.BooleanField(null=True)
    out_of_state = models.BooleanField(null=True)
    out_of_county = models.BooleanField(null=True)
    has_telephone = models.BooleanField(null=True)
    has_email = models.BooleanField(null=True)
    do_not_contact = models.BooleanField(null=True)

    # Value and equity
    estimated_value = models.IntegerField(null=True)
    value_low = models.IntegerField(null=True)
    value_high = models.IntegerField(null=True)
    assessed_value = models.IntegerField(null=True)
    market_value = models.IntegerField(null=True)
    market_value_1y = models.FloatField(null=True)
    market_value_5y = models.FloatField(null=True)
    land_value = models.IntegerField(null=True)
    improvement_value = models.IntegerField(null=True)
    value_sqft = models.FloatField(null=True)
    loan_balance = models.IntegerField(null=True)
    open_loans = models.SmallIntegerField(null=True)
    last_loan = models.DateField(null=True)
    last_loan_kind = models.SmallIntegerField(null=True)
    lender = pointer(RecordedName)
    ltv = models.FloatField(null=True)
    equity = models.IntegerField(null=True)
    equity_pct = models.FloatField(null=True)
    tax_bill = models.IntegerField(null=True)
    has_loan = models.BooleanField(null=True)
    free_and_clear = models.BooleanField(null=True)
    is_let = models.BooleanField(null=True)
    is_advertised_to_let = models.BooleanField(null=True)
    rent_in_place = models.IntegerField(null=True)
    rent_advertised = models.IntegerField(null=True)
    rent_potential = models.IntegerField(null=True)
    rent_area = models.IntegerField(null=True)
    blanket_loan = models.BooleanField(null=True)

    # Sale history
    last_sale = models.DateField(null=True)
    last_sale_price = models.IntegerField(null=True)
    sale_parcels = models.SmallIntegerField(null=True)
    sale_sqft = models.FloatField(null=True)
    last_transfer = models.DateField(null=True)
    last_deed = models.SmallIntegerField(null=True)
    sales_10y = models.SmallIntegerField(null=True)
    flips = models.SmallIntegerField(null=True)
    flip_margin = models.IntegerField(null=True)
    flip_days = models.IntegerField(null=True)
    cash_purchase = models.BooleanField(null=True)
    seller_financed = models.BooleanField(null=True)
    was_flipped = models.BooleanField(null=True)
    never_sold = models.BooleanField(null=True)

    # Distress
    tax_years_delinquent = models.SmallIntegerField(null=True)
    tax_due = models.IntegerField(null=True)
    tax_suit = models.SmallIntegerField(null=True)
    tax_judgment = models.DateField(null=True)
    foreclosure_stage = models.SmallIntegerField(null=True)
    foreclosure_step = models.DateField(null=True)
    auction = models.DateField(null=True)
    auction_kind = models.SmallIntegerField(null=True)
    auction_result = models.SmallIntegerField(null=True)
    mechanics_lien = models.DateField(null=True)
    hoa_lien = models.DateField(null=True)
    judgment_lien = models.DateField(null=True)
    federal_tax_lien = models.DateField(null=True)
    state_tax_lien = models.DateField(null=True)
    municipal_lien = models.DateField(null=True)
    child_support_lien = models.DateField(null=True)
    lien_total = models.IntegerField(null=True)
    code_violation = models.DateField(null=True)
    vacancy = models.DateField(null=True)
    probate = models.DateField(null=True)
    inherited = models.DateField(null=True)
    divorce = models.DateField(null=True)
    bankruptcy = models.DateField(null=True)
    evictions = models.SmallIntegerField(null=True)
    open_signals = models.SmallIntegerField(null=True)
    newest_signal = models.DateField(null=True)
    has_tax_judgment = models.BooleanField(null=True)
    in_foreclosure = models.BooleanField(null=True)
    has_auction = models.BooleanField(null=True)
    has_mechanics_lien = models.BooleanField(null=True)
    has_hoa_lien = models.BooleanField(null=True)
    has_judgment_lien = models.BooleanField(null=True)
    has_federal_tax_lien = models.BooleanField(null=True)
    has_state_tax_lien = models.BooleanField(null=True)
    has_municipal_lien = models.BooleanField(null=True)
    has_child_support_lien = models.BooleanField(null=True)
    has_violation = models.BooleanField(null=True)
    is_vacant = models.BooleanField(null=True)
    has_probate = models.BooleanField(null=True)
    is_inherited = models.BooleanField(null=True)
    has_divorce = models.BooleanField(null=True)
    has_bankruptcy = models.BooleanField(null=True)
    has_signal = models.BooleanField(null=True)
    tired_landlord = models.BooleanField(null=True)

    # Listing
    listing_number = pointer(RecordedText)
    seller_name = pointer(RecordedName)
    source = pointer(RecordedText)
    remarks = pointer(Remarks)
    offer = models.SmallIntegerField(null=True)
    last_listed = models.DateField(null=True)
    list_date = models.DateField(null=True)
    first_seen = models.DateField(null=True)
    seller_kind = models.SmallIntegerField(null=True)
    seller_role = models.SmallIntegerField(null=True)
    ownership = models.SmallIntegerField(null=True)
    status = models.SmallIntegerField(null=True)
    status_since = models.DateField(null=True)
    list_price = models.IntegerField(null=True)
    original_price = models.IntegerField(null=True)
    price_cut = models.FloatField(null=True)
    price_cuts = models.SmallIntegerField(null=True)
    list_sqft = models.FloatField(null=True)
    days_on_market = models.IntegerField(null=True, help_text="Days of the closed spells.")
    active_since = models.DateField(null=True)
    cumulative_days = models.IntegerField(null=True, help_text="Days of the closed spells.")
    cumulative_since = models.DateField(null=True)
    relistings = models.SmallIntegerField(null=True)
    expires = models.DateField(null=True)
    list_to_assessed = models.FloatField(null=True)
    percent_of_median = models.FloatField(null=True)
    asking_yield = models.FloatField(null=True)
    sale_to_list = models.FloatField(null=True)
    occupant = models.SmallIntegerField(null=True)
    ever_listed = models.BooleanField(null=True)
    is_active = models.BooleanField(null=True)
    was_sold_listed = models.BooleanField(null=True)
    short_sale = models.BooleanField(null=True)

    # What has no fixed width
    parcel_number = models.CharField(max_length=40, db_collation="C", help_text="The parcel's number key.")
    amenities = several(models.SmallIntegerField())
    disagreement = several(models.SmallIntegerField())
    exemptions = several(models.TextField())
    signals = several(models.SmallIntegerField())
    signal_days = several(models.DateField())
    # What lift counts; null where there is nothing.
    signs_ever = several(models.SmallIntegerField())
    signs_ever_days = several(models.DateField())
    outcome_days = several(models.DateField())
    on_offer = several(models.SmallIntegerField())
    competition = several(models.SmallIntegerField())
    place = models.GeneratedField(
        expression=models.Func("longitude", "latitude", template="ST_SetSRID(ST_MakePoint(%(expressions)s), 4326)"),
        output_field=models.PointField(srid=4326, null=True),
        db_persist=True,
        help_text="The point that represents the parcel, in degrees (WGS 84): it is in an area when this point is.",
    )
    further = models.JSONField(
        default=dict,
        encoder=DjangoJSONEncoder,
        help_text="The county's own columns by their key: a number, a day, a choice's code, or text.",
    )

    area_basis = models.JSONField(
        null=True, encoder=DjangoJSONEncoder, help_text="What its area's figures are put to: see core.facts.by_area.AreaBasis."
    )

    class Meta:
        verbose_name_plural = "parcel facts"
        indexes = [
            models.Index("county", "parcel_number", name="facts_by_number"),
            GistIndex(fields=["place"], name="facts_by_place"),
        ]

    @property
    def street_line(self) -> str:
        """The property's street address in reading case; blank when none is on record."""
        return in_reading_case(self.address.address.delivery_line) if self.address else ""


class ParcelSale(models.Model):
    """An arm's-length sale of a parcel, with what its area's figures need of it. Derived, as facts are."""

    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    county = models.ForeignKey(County, on_delete=models.PROTECT, related_name="+")
    area = pointer(Area)
    sold_on = models.DateField()
    recorded_on = models.DateField()
    price = models.DecimalField(max_digits=12, decimal_places=2)
    property_class = models.SmallIntegerField(null=True)
    living_area = models.IntegerField(null=True)
    dwellings = models.SmallIntegerField(null=True)
    is_resale = models.BooleanField(help_text="Whether it was a resale for more within 24 months.")

    class Meta:
        indexes = [models.Index("county", "area", "recorded_on", name="sale_by_area")]


class AreaFigures(models.Model):
    """What the records say of an area as a whole. Derived, as facts are. None is unknown.

    ``price`` and those after it are traits; ``counts`` says on how many rows each stands. ``context`` holds what the facts of
    the area's parcels are computed from: when it changes, they are derived again.
    """

    area = models.OneToOneField(Area, primary_key=True, on_delete=models.CASCADE, related_name="figures")
    price = models.IntegerField(null=True)
    rental_yield = models.FloatField(null=True)
    growth = models.FloatField(null=True)
    days = models.IntegerField(null=True)
    supply = models.FloatField(null=True)
    population = models.IntegerField(null=True)
    resales = models.FloatField(null=True)
    counts = models.JSONField(default=dict)
    context = models.JSONField(default=dict)
    through = models.DateField(null=True, help_text="The end of the last month through which deeds are on file, and of its twelve months.")

    class Meta:
        verbose_name_plural = "area figures"
