"""What a team keeps of deals: worksheets and their versions, what was screened, and files."""

from jaded_ledger.worksheets.models.files import DealFile
from jaded_ledger.worksheets.models.screened import ScreenedList, ScreenedParcel, Screening
from jaded_ledger.worksheets.models.worksheets import Worksheet, WorksheetDefaults, WorksheetVersion

__all__ = ["DealFile", "ScreenedList", "ScreenedParcel", "Screening", "Worksheet", "WorksheetDefaults", "WorksheetVersion"]
