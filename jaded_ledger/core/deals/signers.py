"""Whose signature a sale needs: from the owner's recorded name, the last deed, and the cases that are open. Common practice throughout.

It tells whom to ask for, not what a court or a title company will find: each doubt is said.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from jaded_ledger.core.distress.filings import CaseKind, PartyPart
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.ownership.people import read_people


class Signer(NamedTuple):
    """Somebody who has to sign: who, as what, where that is on record, and what is doubtful about it."""

    name: str
    role: str
    source: str
    doubt: str = ""


class CaseParty(NamedTuple):
    """Somebody in an open case about the property or its owner."""

    kind: str
    case_number: str
    part: str
    name: str


class Ownership(NamedTuple):
    """Who owns: the name on the roll, its kind, the name in the last deed, and whether the two can be one owner (None where unknown)."""

    name: str
    kind: str | None
    on_deed: str = ""
    differs: bool | None = None
    seller_keeps_title: str = ""


_OFFICERS = {
    OwnerKind.COMPANY: ("a member or officer with authority", "which one, the company's own papers say"),
    OwnerKind.LENDER: ("an officer with authority", "lenders sell through their own department"),
    OwnerKind.GOVERNMENT: ("an officer with authority", "public owners sell by resolution or at auction"),
    OwnerKind.NON_PROFIT: ("an officer with authority", "the board has to resolve it"),
}
_HEIRS_DOUBT = "an heir signs where nobody has been given power to sell"


def _people(owner: Ownership) -> list[Signer]:
    people = read_people(owner.name)
    alone = len(people.named) == 1 and not people.has_spouse and not people.are_more
    doubt = "a spouse who is not named may have to sign, where it is their home" if alone else ""
    found = [Signer(one.in_full, "owner", "roll", doubt) for one in people.named]
    if people.has_spouse:
        found.append(Signer("a spouse", "owner", "roll", "the roll does not name them"))
    if people.are_more:
        found.append(Signer("others", "owners", "roll", "the roll does not name them"))
    return found


def _of_name(owner: Ownership) -> list[Signer]:
    match owner.kind:
        case OwnerKind.TRUST:
            people = [one.in_full for one in read_people(owner.name).named if one.given]
            who = " and ".join(people) if people else "the trustee"
            return [Signer(who, "trustee", "roll", "the trust's own papers say who is trustee today")]
        case OwnerKind.ESTATE:
            return [Signer("the personal representative", "for the estate", "roll", "a court appoints them")]
        case OwnerKind.COMPANY | OwnerKind.LENDER | OwnerKind.GOVERNMENT | OwnerKind.NON_PROFIT:
            who, doubt = _OFFICERS[OwnerKind(owner.kind)]
            return [Signer(who, f"for {owner.name}", "roll", doubt)]
        case None:
            return [Signer("the owner", "owner", "roll", "the roll does not say who that is")]
    return _people(owner)


def _probate(parties: Sequence[CaseParty], found: list[Signer]) -> list[Signer]:
    """Return who signs where the estate of a dead owner is in probate: its representative, or else the heirs, with who lives."""
    case = f"probate {parties[0].case_number}"
    dead = {_key(party.name) for party in parties if party.part == PartyPart.DECEDENT}
    living = [signer for signer in found if _key(signer.name) not in dead and signer.role == "owner"]
    representatives = [party for party in parties if party.part == PartyPart.PERSONAL_REPRESENTATIVE]
    heirs = [party for party in parties if party.part == PartyPart.HEIR]
    if representatives:
        named = [
            Signer(party.name, "personal representative", case, "needs the court's letters, and maybe its approval")
            for party in representatives
        ]
    else:
        named = [Signer("a personal representative", "for the estate", case, "none is on record yet")]
    return [*living, *named, *(Signer(heir.name, "heir", case, _HEIRS_DOUBT) for heir in heirs)]


def _key(name: str) -> frozenset[str]:
    """Return a name's words, in whatever order."""
    return frozenset(name.upper().replace(",", " ").replace(".", " ").split())


def signers(owner: Ownership, cases: Iterable[CaseParty]) -> list[Signer]:
    """Return whose signature is needed, the surest first; who stands in open cases comes after those whom the roll names."""
    found = _of_name(owner)
    by_kind: dict[str, list[CaseParty]] = {}
    for party in cases:
        by_kind.setdefault(party.kind, []).append(party)
    if probate := by_kind.get(CaseKind.PROBATE):
        found = _probate(probate, found)
    elif owner.kind == OwnerKind.ESTATE:
        found.append(Signer("the heirs", "heirs", "roll", "no probate is on record that names them"))
    known = {_key(signer.name) for signer in found}
    for party in by_kind.get(CaseKind.DIVORCE, ()):
        if party.part in (PartyPart.PETITIONER, PartyPart.RESPONDENT) and _key(party.name) not in known:
            found.append(Signer(party.name, "spouse", f"divorce {party.case_number}", "the decree may give it to one of them"))
    for party in by_kind.get(CaseKind.BANKRUPTCY, ()):
        if party.part == PartyPart.TRUSTEE:
            found.append(Signer(party.name, "trustee in bankruptcy", f"bankruptcy {party.case_number}", "the court has to approve a sale"))
    if owner.seller_keeps_title:
        found.append(
            Signer(owner.seller_keeps_title, "seller under a land contract", "deed", "keeps title until the contract is fulfilled")
        )
    if owner.differs and owner.on_deed:
        found.append(
            Signer(owner.on_deed, "grantee of the last deed", "deed", f"the roll names {owner.name}; one of the two is out of date")
        )
    return found
