"""Who gave and who took: whether two names in recorded documents may be one owner's, or one family's. Common practice."""

from __future__ import annotations

from typing import NamedTuple

from jaded_ledger.core.ownership.identity import are_close
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.ownership.names import are_related


class Party(NamedTuple):
    """A name in a document: as an envelope has it, its kind, and the words by which its relations are told."""

    name: str = ""
    kind: str = ""
    surnames: tuple[str, ...] = ()


UNNAMED = Party()
"""Nobody is named."""


def are_kin(one: Party, other: Party) -> bool:
    """Return whether two parties are one owner, or share a surname as within a family or into its trust.

    >>> are_kin(Party("KELM HARDWARE LLC", "company"), Party("KELM HARDWARE, L.L.C.", "company"))
    True
    """
    if are_related(one.surnames, other.surnames):
        return True
    if not one.name or not other.name:
        return False
    return one.name == other.name or (one.kind == other.kind and are_close(one.name, other.name, OwnerKind(one.kind) if one.kind else None))
