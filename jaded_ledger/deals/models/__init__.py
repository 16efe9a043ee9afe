"""What deals keep: comps and what was decided of them, worksheets and their versions, what was screened, and files."""

from jaded_ledger.deals.models.comps import CompDecision, CompedList, CompRange, CompSettings, ConditionGrade, KeptComps
from jaded_ledger.deals.models.files import DealFile
from jaded_ledger.deals.models.screened import ScreenedList, ScreenedParcel, Screening
from jaded_ledger.deals.models.worksheets import Worksheet, WorksheetDefaults, WorksheetVersion

__all__ = [
    "CompDecision",
    "CompRange",
    "CompSettings",
    "CompedList",
    "ConditionGrade",
    "DealFile",
    "KeptComps",
    "ScreenedList",
    "ScreenedParcel",
    "Screening",
    "Worksheet",
    "WorksheetDefaults",
    "WorksheetVersion",
]
