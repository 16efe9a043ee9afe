"""Whose signature a sale of one property needs, from its roll, its last deed and the cases that are open."""

from __future__ import annotations

from jaded_ledger.core.deals.signers import CaseParty, Ownership, Signer, signers
from jaded_ledger.core.distress.filings import CaseKind, CaseStatus
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.records import models
from jaded_ledger.records.models import Parcel

_TELLING = (CaseKind.PROBATE, CaseKind.DIVORCE, CaseKind.BANKRUPTCY)
_OVER = (CaseStatus.DISMISSED, CaseStatus.DISPOSED)


def signatures_of(parcel: Parcel, found: Findings) -> list[Signer]:
    """Return whose signature is needed; nobody where the parcel has no roll."""
    roll = found.roll
    if roll is None:
        return []
    last = found.transfers[-1] if found.transfers else None
    contract = found.open_contract
    owner = Ownership(
        roll.owner_name, roll.owner_kind, in_reading_case(last.grantee.name) if last else "", found.is_owner_not_on_deed,
        in_reading_case(contract.grantor.name) if contract else "",
    )  # fmt: skip
    return [
        one._replace(name=in_reading_case(one.name) if one.name.isupper() else one.name, role=_read(one.role), doubt=_read(one.doubt))
        for one in signers(owner, _parties(parcel, found))
    ]


def _read(text: str) -> str:
    """Return a text with the names in it, which are recorded in capitals, in reading case."""
    return " ".join(in_reading_case(word) if word.isupper() and len(word) > 1 else word for word in text.split(" "))


def _parties(parcel: Parcel, found: Findings) -> list[CaseParty]:
    since = found.holding.began.sold_on if found.holding else None
    cases = models.CourtCase.objects.filter(superseded_at=None, parcels=parcel, kind__in=_TELLING).exclude(status__in=_OVER)
    if since:
        cases = cases.filter(filed_on__gte=since)
    kinds = {(county, number): kind for county, number, kind in cases.values_list("county_id", "case_number", "kind")}
    rows = models.CaseParty.objects.filter(
        superseded_at=None, county=parcel.county, case_number__in=[number for _, number in kinds], name__isnull=False
    ).order_by("pk")
    return [
        CaseParty(kinds[parcel.county_id, number], number, part, name)
        for number, part, name in rows.values_list("case_number", "part", "name__text")
    ]
