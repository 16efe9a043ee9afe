"""What was recorded, and the facts derived from it."""

from jaded_ledger.records.models.coverage import Coverage, FillRate, World
from jaded_ledger.records.models.facts import ParcelFacts
from jaded_ledger.records.models.names import Area, Owner, RecordedAddress, RecordedName, Street
from jaded_ledger.records.models.parcels import County, Parcel, ParcelShape, RollEntry
from jaded_ledger.records.models.provenance import SourceFile
from jaded_ledger.records.models.transfers import Transfer, TransferParcel

__all__ = [
    "Area",
    "County",
    "Coverage",
    "FillRate",
    "Owner",
    "Parcel",
    "ParcelFacts",
    "ParcelShape",
    "RecordedAddress",
    "RecordedName",
    "RollEntry",
    "SourceFile",
    "Street",
    "Transfer",
    "TransferParcel",
    "World",
]
