"""What a listing is and where it stands, in the words of the RESO Data Dictionary 2.0."""

from __future__ import annotations

from enum import StrEnum


class StandardStatus(StrEnum):
    """RESO Data Dictionary 2.0, lookup StandardStatus."""

    COMING_SOON = "Coming Soon"
    ACTIVE = "Active"
    ACTIVE_UNDER_CONTRACT = "Active Under Contract"
    PENDING = "Pending"
    HOLD = "Hold"
    WITHDRAWN = "Withdrawn"
    CANCELED = "Canceled"
    EXPIRED = "Expired"
    CLOSED = "Closed"
    DELETE = "Delete"
    INCOMPLETE = "Incomplete"


class PropertyType(StrEnum):
    """RESO Data Dictionary 2.0, lookup PropertyType."""

    RESIDENTIAL = "Residential"
    RESIDENTIAL_INCOME = "Residential Income"
    RESIDENTIAL_LEASE = "Residential Lease"
    LAND = "Land"
    FARM = "Farm"
    MANUFACTURED_IN_PARK = "Manufactured In Park"
    COMMERCIAL_SALE = "Commercial Sale"
    COMMERCIAL_LEASE = "Commercial Lease"
    BUSINESS_OPPORTUNITY = "Business Opportunity"


LEASES = frozenset({PropertyType.RESIDENTIAL_LEASE, PropertyType.COMMERCIAL_LEASE})


class SpecialListingConditions(StrEnum):
    """RESO Data Dictionary 2.0, lookup SpecialListingConditions."""

    STANDARD = "Standard"
    AUCTION = "Auction"
    BANKRUPTCY_PROPERTY = "Bankruptcy Property"
    CONSERVATORSHIP = "Conservatorship"
    HUD_OWNED = "HUD Owned"
    IN_FORECLOSURE = "In Foreclosure"
    NOTICE_OF_DEFAULT = "Notice Of Default"
    PROBATE_LISTING = "Probate Listing"
    REAL_ESTATE_OWNED = "Real Estate Owned"
    SHORT_SALE = "Short Sale"
    THIRD_PARTY_APPROVAL = "Third Party Approval"
    TRUST = "Trust"


class BuyerFinancing(StrEnum):
    """RESO Data Dictionary 2.0, lookup BuyerFinancing."""

    ASSUMED = "Assumed"
    CASH = "Cash"
    CONTRACT = "Contract"
    CONVENTIONAL = "Conventional"
    FHA = "FHA"
    FHA_203B = "FHA 203(b)"
    FHA_203K = "FHA 203(k)"
    OTHER = "Other"
    PRIVATE = "Private"
    SELLER_FINANCING = "Seller Financing"
    TRUST_DEED = "Trust Deed"
    USDA = "USDA"
    VA = "VA"


class OccupantType(StrEnum):
    """RESO Data Dictionary 2.0, lookup OccupantType."""

    OWNER = "Owner"
    TENANT = "Tenant"
    VACANT = "Vacant"


class Offer(StrEnum):
    """Who offers a property, and how."""

    AGENCY = "agency"
    OWNER_FOR_SALE = "by owner, for sale"
    OWNER_FOR_RENT = "by owner, for rent"
    AGENCY_FOR_RENT = "agency, for rent"
    AUCTION = "auction"


def offer_of(property_type: str, special_conditions: str, *, has_office: bool) -> Offer:
    """Return the kind of offer. A listing without an office is its owner's.

    >>> offer_of("Residential", "Auction", has_office=True), offer_of("Residential Lease", "", has_office=False)
    (<Offer.AUCTION: 'auction'>, <Offer.OWNER_FOR_RENT: 'by owner, for rent'>)
    """
    if special_conditions == SpecialListingConditions.AUCTION:
        return Offer.AUCTION
    if property_type in LEASES:
        return Offer.AGENCY_FOR_RENT if has_office else Offer.OWNER_FOR_RENT
    return Offer.AGENCY if has_office else Offer.OWNER_FOR_SALE
