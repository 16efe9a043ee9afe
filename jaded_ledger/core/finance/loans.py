"""What a recorded loan is for, and what is recorded on it later."""

from __future__ import annotations

from enum import StrEnum


class LoanKind(StrEnum):
    """What a loan was taken for, as far as the record says."""

    PURCHASE = "purchase"
    REFINANCE = "refinance"
    SECOND = "second"
    CREDIT_LINE = "credit-line"
    CONSTRUCTION = "construction"
    OTHER = "other"


class RateKind(StrEnum):
    """Whether the rate stays as it is."""

    FIXED = "fixed"
    ADJUSTABLE = "adjustable"


class LoanEventKind(StrEnum):
    """A later instrument on a loan."""

    RELEASE = "release"
    PARTIAL_RELEASE = "partial-release"
    ASSIGNMENT = "assignment"
    ASSUMPTION = "assumption"
    MODIFICATION = "modification"
