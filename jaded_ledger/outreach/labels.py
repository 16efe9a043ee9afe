"""A label run: from parcels to pieces, labels and refusals."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType

from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.mail.label_pdf import Label, lay_out, sheets_needed, write_labels
from jaded_ledger.core.mail.pieces import Addressing, Candidate, Refusal, make_pieces
from jaded_ledger.core.mail.sheets import Sheet
from jaded_ledger.outreach.acts import CONTACTS
from jaded_ledger.outreach.export_log import log_export
from jaded_ledger.outreach.models import ContactExport
from jaded_ledger.records.models import ParcelFacts


@dataclass(frozen=True)
class LabelRun:
    """What a label run would print, and what it would not and why."""

    to: Addressing
    sheet: Sheet
    start: int
    parcels: int
    labels: list[Label]
    refusals: list[Refusal]

    @property
    def reasons(self) -> list[tuple[str, int]]:
        """Why pieces are refused, with counts, the most frequent first."""
        return Counter(refusal.reason for refusal in self.refusals).most_common()

    @property
    def account(self) -> list[dict[str, object]]:
        """The lines of the mailing's ledger: each reason, what it takes off, and what is left."""
        left, lines = self.parcels, []
        for reason, count in self.reasons:
            left -= count
            lines.append({"reason": reason, "count": count, "left": left})
        return lines

    @property
    def sheets(self) -> int:
        return sheets_needed(len(self.labels), self.sheet, self.start)


def _candidate(facts: ParcelFacts, stale_on: str) -> Candidate:
    name = facts.owner_name
    return Candidate(
        parcel_id=facts.parcel_id,
        number=facts.parcel.number,
        owner_id=facts.owner_id,
        owner_name=name.mailing_name if name else "",
        handler=name.handler if name else "",
        situs=facts.address.address if facts.address else None,
        mailing=facts.mailing_address.address if facts.mailing_address else None,
        improvement_value=facts.improvement_value,
        do_not_contact=facts.do_not_contact,
        stale_on=stale_on,
    )


def plan(
    parcels: QuerySet[ParcelFacts],
    to: Addressing,
    sheet: Sheet,
    start: int,
    stale: Mapping[int, str] = MappingProxyType({}),
    report: Callable[[int], None] = lambda read: None,
) -> LabelRun:
    """Return the run that parcels would make, without making it.

    ``stale`` are those that are left out, with the list they are stale on. ``report`` is told how many parcels are read.
    """
    facts = parcels.select_related("parcel", "owner_name", "address", "mailing_address")
    candidates = []
    for facts_ in facts.iterator(chunk_size=5000):
        candidates.append(_candidate(facts_, stale.get(facts_.parcel_id, "")))
        report(len(candidates))
    pieces, refusals = make_pieces(candidates, to)
    labels, too_long = lay_out(pieces, {candidate.parcel_id: candidate.number for candidate in candidates}, sheet)
    return LabelRun(to, sheet, start, len(candidates), labels, [*refusals, *too_long])


def log_labels(run: LabelRun, scope: Scope, search: str) -> None:
    """Note that the labels of a run left."""
    log_export(
        scope,
        ContactExport.Form.LABELS,
        search=search,
        count=len(run.labels),
        parcel_ids=[label.piece.parcel_id for label in run.labels],
        details={"to": run.to, "sheet": run.sheet.key, "start": run.start, "refused": dict(run.reasons)},
    )


def make(run: LabelRun, scope: Scope, search: str) -> bytes:
    """Return the PDF of a run and log it. Raises PermissionDenied for a reader."""
    require(scope, CONTACTS)
    pdf = write_labels(run.labels, run.sheet, run.start)
    log_labels(run, scope, search)
    return pdf
