"""How signs of distress are explained."""

from __future__ import annotations

from collections.abc import Iterator

from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.distress.filings import CaseKind
from jaded_ledger.core.distress.signals import AHEAD, Signal, SignalKind
from jaded_ledger.core.facts.explanations.entries import Entry, Source, day, kind_text, money, not_on_file
from jaded_ledger.core.facts.findings import Findings

KIND_OF = {
    "mechanics-lien": SignalKind.MECHANICS_LIEN, "hoa-lien": SignalKind.HOA_LIEN, "judgment-lien": SignalKind.JUDGMENT_LIEN,
    "federal-tax-lien": SignalKind.FEDERAL_TAX_LIEN, "state-tax-lien": SignalKind.STATE_TAX_LIEN,
    "municipal-lien": SignalKind.MUNICIPAL_LIEN, "child-support-lien": SignalKind.CHILD_SUPPORT_LIEN,
    "tax-judgment": SignalKind.TAX_JUDGMENT, "code-violation": SignalKind.CODE_VIOLATION, "vacancy": SignalKind.VACANCY,
    "probate": SignalKind.PROBATE, "inherited": SignalKind.INHERITED, "divorce": SignalKind.DIVORCE, "bankruptcy": SignalKind.BANKRUPTCY,
}  # fmt: skip
"""The kind of signal that a trait of its own tells of."""
_TOLD_BY = {"liens": "lien", "violations": "violation", "vacancies": "vacancy", "deeds": "inherited", "cases": ""}


def _line(one: Signal) -> Entry:
    closed = f"closed{f' {day(one.closed_on)}' if one.closed_on else ''}"
    confirmed = f", last confirmed {day(one.confirmed_on)}" if one.confirmed_on else ""
    note = f"{'open' if one.is_open else closed}{f', {money(one.amount)}' if one.amount is not None else ''}{confirmed}"
    return Entry(one.kind.capitalize() if one.kind[0].islower() else one.kind, day(one.on), note, (Source(*one.row),))


def of_kind(found: Findings, trait: Trait) -> Iterator[Entry]:
    """All signs of one kind, open and closed."""
    kind = KIND_OF[trait.key]
    told_by = next(record for record, word in _TOLD_BY.items() if word in trait.key)
    yield from not_on_file(found, told_by)
    mine = [signal for signal in found.signals if signal.kind is kind]
    for one in mine:
        yield _line(one)
    if not mine and found.county.has(told_by):
        yield Entry("On record", "none")


def all_signals(found: Findings, trait: Trait) -> Iterator[Entry]:
    """All signs, open ones first."""
    for signal in sorted(found.signals, key=lambda signal: (not signal.is_open, -signal.on.toordinal())):
        yield _line(signal)
    yield Entry("Kinds with one that is open", str(len(found.open_signals)), is_sum=True)


def liens(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The open liens, added up."""
    yield from not_on_file(found, "liens")
    for lien in found.open_liens:
        label = f"{kind_text(lien.kind)} lien of {day(lien.recorded_on)}"
        yield Entry(label, money(lien.amount), "not released", (Source("lien", lien.key),))
    yield Entry("Liens in all", money(found.lien_total), is_sum=True)


def suits(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Cases for tax, or evictions."""
    yield from not_on_file(found, "cases")
    kind = CaseKind.TAX if trait.key == "tax-suit" else CaseKind.EVICTION
    mine = [case for case in found.record.filed.cases if case.kind == kind]
    for one in sorted(mine, key=lambda one: one.filed_on):
        note = "" if kind is CaseKind.TAX or one in found.evictions else "; before the present owner"
        yield Entry(
            f"Case {one.case_number}, filed {day(one.filed_on)}",
            one.status,
            f"since {day(one.status_on)}{note}",
            (Source("case", one.key),),
        )
    if not mine and found.county.has("cases"):
        yield Entry("On record", "none")


def foreclosure(found: Findings, trait: Trait) -> Iterator[Entry]:
    """The steps that count, and those that a reinstatement, a dismissal or a sale has made void."""
    yield from not_on_file(found, "foreclosures")
    for step in sorted(found.record.filed.steps):
        note = "counts" if step in found.foreclosure else "over"
        yield Entry(kind_text(step.step), day(step.taken_on), note, (Source("foreclosure", step.key),))
    stage = found.foreclosure_stage
    yield Entry("Furthest step", stage.step.replace("-", " ") if stage else "none", is_sum=True)


def auctions(found: Findings, trait: Trait) -> Iterator[Entry]:
    """Auctions held and to be held."""
    yield from not_on_file(found, "auctions")
    for auction in sorted(found.record.filed.auctions):
        ahead = "to be held" if auction == found.next_auction else found.auction_result(auction).replace("-", " ")
        if auction.status in AHEAD and found.reach("auctions") < auction.held_on < found.today:
            ahead = f"{ahead}; its day has passed, and the records reach only {day(found.reach('auctions'))}"
        yield Entry(f"{auction.kind.capitalize()} auction", day(auction.held_on), ahead, (Source("auction", auction.key),))
    if not found.record.filed.auctions and found.county.has("auctions"):
        yield Entry("On record", "none")
