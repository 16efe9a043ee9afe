"""Court cases, foreclosures and auctions."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from jaded_ledger.core.distress.filings import AuctionKind, AuctionStatus, CaseKind, CaseStatus, ForeclosureStepKind, PartyPart
from jaded_ledger.records.models.filed import Covered, Filed, OnParcel, filed
from jaded_ledger.records.models.names import RecordedName
from jaded_ledger.records.models.parcels import Parcel
from jaded_ledger.records.models.provenance import choices, holds, in_order, not_negative, one_of


class CourtCase(Filed):
    """A suit, or a probate, divorce, bankruptcy or eviction filing."""

    natural = ("case_number",)

    case_number = models.CharField(max_length=40)
    kind = models.CharField(max_length=20, choices=choices(CaseKind))
    court = models.CharField(max_length=80, blank=True)
    filed_on = models.DateField("filed")
    status = models.CharField(max_length=20, choices=choices(CaseStatus))
    status_on = models.DateField("since", null=True)
    amount = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    parcels = models.ManyToManyField(Parcel, through="CaseParcel", related_name="cases")

    class Meta:
        constraints = [
            *filed("case"),
            one_of("case", "kind", CaseKind),
            one_of("case", "status", CaseStatus),
            not_negative("case", "amount"),
            in_order("case", "filed_on", "status_on"),
        ]


class CaseParcel(Covered):
    """A parcel that a case is about."""

    case = models.ForeignKey(CourtCase, on_delete=models.CASCADE, related_name="covered")

    class Meta:
        constraints = [models.UniqueConstraint("case", "parcel", name="case_parcel_once")]


class CaseParty(Filed):
    """Somebody in a case, and in which part."""

    natural = ("case_number", "part", "name")
    about = ("CourtCase", "case_number", "case_number")

    case_number = models.CharField(max_length=40)
    part = models.CharField(max_length=30, choices=choices(PartyPart))
    name = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    served_on = models.DateField("served", null=True)

    class Meta:
        verbose_name_plural = "case parties"
        constraints = [
            *filed("case_party"),
            one_of("case_party", "part", PartyPart),
            holds("case_party_has_case", ~Q(case_number=""), "names no case"),
        ]
        indexes = [models.Index("county", "case_number", name="case_party_by_case")]


class CaseDocument(Filed):
    """A paper filed in a case."""

    natural = ("case_number", "filed_on", "title")
    about = ("CourtCase", "case_number", "case_number")

    case_number = models.CharField(max_length=40)
    filed_on = models.DateField("filed")
    title = models.CharField(max_length=120)

    class Meta:
        constraints = [
            *filed("case_document"),
            holds("case_document_has_case", ~Q(case_number=""), "names no case"),
            holds("case_document_has_title", ~Q(title=""), "has no title"),
        ]
        indexes = [models.Index("county", "case_number", name="case_document_by_case")]


class StoredPaper(models.Model):
    """A paper's bytes as PDF, kept once however often it is filed."""

    sha256 = models.CharField(max_length=64, unique=True)
    pages = models.PositiveSmallIntegerField()
    content = models.BinaryField()


class CasePaper(Filed):
    """A paper filed in a case, to be read: the PDF itself."""

    natural = ("case_number", "filed_on", "title")
    about = ("CourtCase", "case_number", "case_number")

    case_number = models.CharField(max_length=40)
    filed_on = models.DateField("filed", null=True)
    title = models.CharField(max_length=120)
    paper = models.ForeignKey(StoredPaper, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            *filed("case_paper"),
            holds("case_paper_has_case", ~Q(case_number=""), "names no case"),
            holds("case_paper_has_title", ~Q(title=""), "has no title"),
        ]
        indexes = [models.Index("county", "case_number", name="case_paper_by_case")]


class ForeclosureStep(OnParcel):
    """A step of a foreclosure."""

    natural = ("parcel", "taken_on", "step")

    step = models.CharField(max_length=20, choices=choices(ForeclosureStepKind))
    taken_on = models.DateField("on")
    case_number = models.CharField(max_length=40, blank=True)
    lender = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    amount = models.DecimalField(max_digits=12, decimal_places=2, null=True)

    class Meta:
        constraints = [
            *filed("foreclosure_step"),
            one_of("foreclosure_step", "step", ForeclosureStepKind),
            not_negative("foreclosure_step", "amount"),
        ]


class Auction(OnParcel):
    """A public sale, held or to be held."""

    natural = ("parcel", "held_on", "kind")
    ahead = ("held_on",)

    kind = models.CharField(max_length=20, choices=choices(AuctionKind))
    held_on = models.DateField("on")
    place = models.CharField(max_length=120, blank=True)
    status = models.CharField(max_length=20, choices=choices(AuctionStatus))
    case_number = models.CharField(max_length=40, blank=True)
    minimum_bid = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    sold_for = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    buyer = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            *filed("auction"),
            one_of("auction", "kind", AuctionKind),
            one_of("auction", "status", AuctionStatus),
            not_negative("auction", "minimum_bid", "sold_for"),
            holds("auction_price_of_sale", Q(sold_for=None) | Q(status=AuctionStatus.SOLD.value), "has a price without being sold"),
        ]
