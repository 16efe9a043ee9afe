"""Names of listing fields and their values against the RESO Data Dictionary.

No package of the registries carries the dictionary, so that the spellings below are written from memory of version 2.0
(fields of the resources Property, Member, Office, Media and HistoryTransactional, and their lookups).
"""

from __future__ import annotations

import unittest

from jaded_ledger.core.market import listings
from jaded_ledger.intake.kinds import KINDS

PROPERTY = """AssociationFee BathroomsFull BathroomsHalf BedroomsTotal BuyerFinancing CancellationDate CloseDate ClosePrice ExpirationDate
GarageSpaces GrossScheduledIncome LeaseAmount ListAgentFullName ListAgentMlsId ListOfficeMlsId ListOfficeName ListPrice
ListingContractDate ListingId LivingArea
LotSizeSquareFeet MainLevelBedrooms OccupantType OnMarketDate OriginalListPrice OriginatingSystemName OwnerName ParcelNumber PoolPrivateYN
PrivateOfficeRemarks PrivateRemarks PropertySubType PropertyType PublicRemarks PurchaseContractDate SpecialListingConditions
StandardStatus StoriesTotal UnparsedAddress WaterfrontYN WithdrawnDate TotalActualRent YearBuilt"""
MEMBER = "MemberDirectPhone MemberFullName MemberMlsId OfficeMlsId"
OFFICE = "OfficeMlsId OfficeName OfficePhone"
HISTORY = "FieldName ModificationTimestamp NewValue OriginatingSystemName PreviousValue ResourceRecordID"
LOOKUPS = {
    listings.StandardStatus: "Active|Active Under Contract|Canceled|Closed|Coming Soon|Delete|Expired|Hold|Incomplete|Pending|Withdrawn",
    listings.PropertyType: "Business Opportunity|Commercial Lease|Commercial Sale|Farm|Land|Manufactured In Park|Residential|"
    "Residential Income|Residential Lease",
    listings.SpecialListingConditions: "Auction|Bankruptcy Property|Conservatorship|HUD Owned|In Foreclosure|Notice Of Default|"
    "Probate Listing|Real Estate Owned|Short Sale|Standard|Third Party Approval|Trust",
    listings.OccupantType: "Owner|Tenant|Vacant",
    listings.BuyerFinancing: "Assumed|Cash|Contract|Conventional|FHA|FHA 203(b)|FHA 203(k)|Other|Private|"
    "Seller Financing|Trust Deed|USDA|VA",
}


class Names(unittest.TestCase):
    def test_fields(self) -> None:
        for kind, fields in (("listings", PROPERTY), ("agents", MEMBER), ("offices", OFFICE), ("listing-events", HISTORY)):
            with self.subTest(kind):
                self.assertEqual(sorted(KINDS[kind].columns), sorted(fields.split()))

    def test_lookups(self) -> None:
        for words, expected in LOOKUPS.items():
            with self.subTest(words.__name__):
                self.assertEqual(sorted(word.value for word in words), sorted(expected.split("|")))
