"""What was recorded, and the facts derived from it."""

from jaded_ledger.records.models.buildings import Building, Project, Unit
from jaded_ledger.records.models.contacts import Contact
from jaded_ledger.records.models.county_columns import CountyColumn
from jaded_ledger.records.models.courts import (
    Auction,
    CaseDocument,
    CasePaper,
    CaseParcel,
    CaseParty,
    CourtCase,
    ForeclosureStep,
    StoredPaper,
)
from jaded_ledger.records.models.coverage import CountyFactsVersion, Coverage, FactsVersion, FillRate, World, earliest_days, percent_known
from jaded_ledger.records.models.facts import AreaFigures, ParcelFacts, ParcelSale
from jaded_ledger.records.models.filed import Filed
from jaded_ledger.records.models.ground import OutlineGround
from jaded_ledger.records.models.layers import OF_WAY, AreaEntry, MapFeature
from jaded_ledger.records.models.liens import Lien, LienParcel, LienRelease
from jaded_ledger.records.models.listings import Agent, Listing, ListingEvent, Office, Photograph, StoredImage
from jaded_ledger.records.models.loans import Loan, LoanEvent, LoanParcel
from jaded_ledger.records.models.map_files import MapFile
from jaded_ledger.records.models.names import (
    Area,
    Owner,
    OwnerDecision,
    OwnerSpelling,
    RecordedAddress,
    RecordedName,
    RecordedText,
    Remarks,
    Street,
)
from jaded_ledger.records.models.parcels import County, Parcel
from jaded_ledger.records.models.provenance import SourceFile
from jaded_ledger.records.models.roll import ParcelShape, RollEntry
from jaded_ledger.records.models.rounds import RoundFault
from jaded_ledger.records.models.taxes import Exemption, TaxRate, TaxYear
from jaded_ledger.records.models.transfers import Transfer, TransferParcel
from jaded_ledger.records.models.upkeep import Permit, Rental, Vacancy, Violation

__all__ = [
    "OF_WAY",
    "Agent",
    "Area",
    "AreaEntry",
    "AreaFigures",
    "Auction",
    "Building",
    "CaseDocument",
    "CasePaper",
    "CaseParcel",
    "CaseParty",
    "Contact",
    "County",
    "CountyColumn",
    "CountyFactsVersion",
    "CourtCase",
    "Coverage",
    "Exemption",
    "FactsVersion",
    "Filed",
    "FillRate",
    "ForeclosureStep",
    "Lien",
    "LienParcel",
    "LienRelease",
    "Listing",
    "ListingEvent",
    "Loan",
    "LoanEvent",
    "LoanParcel",
    "MapFeature",
    "MapFile",
    "Office",
    "OutlineGround",
    "Owner",
    "OwnerDecision",
    "OwnerSpelling",
    "Parcel",
    "ParcelFacts",
    "ParcelSale",
    "ParcelShape",
    "Permit",
    "Photograph",
    "Project",
    "RecordedAddress",
    "RecordedName",
    "RecordedText",
    "Remarks",
    "Rental",
    "RollEntry",
    "RoundFault",
    "SourceFile",
    "StoredImage",
    "StoredPaper",
    "Street",
    "TaxRate",
    "TaxYear",
    "Transfer",
    "TransferParcel",
    "Unit",
    "Vacancy",
    "Violation",
    "World",
    "earliest_days",
    "percent_known",
]
