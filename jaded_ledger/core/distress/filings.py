"""The kinds of liens, court cases and notices that speak of distress. Names are the trade's own."""

from __future__ import annotations

from enum import StrEnum


class LienKind(StrEnum):
    """An involuntary lien, by who may file it."""

    MECHANICS = "mechanics"
    HOA = "hoa"
    JUDGMENT = "judgment"
    FEDERAL_TAX = "federal-tax"
    STATE_TAX = "state-tax"
    MUNICIPAL = "municipal"
    CHILD_SUPPORT = "child-support"


class CaseKind(StrEnum):
    """What a court case is about."""

    TAX = "tax"
    FORECLOSURE = "foreclosure"
    PROBATE = "probate"
    DIVORCE = "divorce"
    BANKRUPTCY = "bankruptcy"
    EVICTION = "eviction"
    QUIET_TITLE = "quiet-title"
    PARTITION = "partition"
    CIVIL = "civil"


class CaseStatus(StrEnum):
    """How far a case has come."""

    FILED = "filed"
    JUDGMENT = "judgment"
    DISMISSED = "dismissed"
    DISPOSED = "disposed"


class PartyPart(StrEnum):
    """What part somebody has in a case. A lender may be served for its interest in the land only."""

    PLAINTIFF = "plaintiff"
    DEFENDANT = "defendant"
    LIENHOLDER = "lienholder"
    HEIR = "heir"
    PERSONAL_REPRESENTATIVE = "personal-representative"
    DECEDENT = "decedent"
    PETITIONER = "petitioner"
    RESPONDENT = "respondent"
    DEBTOR = "debtor"
    TRUSTEE = "trustee"
    TENANT = "tenant"
    ATTORNEY = "attorney"


class ForeclosureStepKind(StrEnum):
    """The steps of a foreclosure, from the first notice to the lender's own deed."""

    NOTICE_OF_DEFAULT = "notice-of-default"
    LIS_PENDENS = "lis-pendens"
    JUDGMENT = "judgment"
    SALE_SCHEDULED = "sale-scheduled"
    SALE_POSTPONED = "sale-postponed"
    SOLD = "sold"
    BANK_OWNED = "bank-owned"
    REINSTATED = "reinstated"
    DISMISSED = "dismissed"


class AuctionKind(StrEnum):
    """Why a property is auctioned."""

    FORECLOSURE = "foreclosure"
    TAX = "tax"
    ESTATE = "estate"
    VOLUNTARY = "voluntary"


class AuctionStatus(StrEnum):
    """What became of an auction."""

    SCHEDULED = "scheduled"
    POSTPONED = "postponed"
    CANCELED = "canceled"
    SOLD = "sold"
    NO_SALE = "no-sale"
