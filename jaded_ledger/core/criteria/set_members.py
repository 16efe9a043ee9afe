"""One member more or less of a line about a set: an area that is included, excluded, or left out of the question."""

from __future__ import annotations

from enum import StrEnum

from jaded_ledger.core.criteria.search import Criterion, Line, Members, Quantity
from jaded_ledger.core.words import folded


class Sense(StrEnum):
    """What a line asks of a member."""

    INCLUDE = "include"
    EXCLUDE = "exclude"
    LEAVE = "leave"


def takes_members(line: Line, trait: str) -> bool:
    """Return whether a line is about a set whose members can be added one by one: any of some, none of others."""
    if not isinstance(line, Criterion) or line.trait != trait:
        return False
    asked = (*line.accepts, *line.refuses)
    return bool(asked) and all(isinstance(value, Members) and value.quantity is Quantity.ANY for value in asked)


def with_member(line: Line | None, trait: str, name: str, sense: Sense) -> Criterion | None:
    """Return a line that includes or excludes a member, or asks nothing of it; None where it then asks nothing at all.

    What is included widens a line that includes others; what is excluded narrows it. A line that is turned off applies again.
    """
    before = line if isinstance(line, Criterion) else Criterion(trait)
    accepted, refused = (
        [item for value in values if isinstance(value, Members) for item in value.items if folded(item) != folded(name)]
        for values in (before.accepts, before.refuses)
    )
    if sense is Sense.INCLUDE:
        accepted.append(name)
    elif sense is Sense.EXCLUDE:
        refused.append(name)
    accepts, refuses = ((Members(Quantity.ANY, tuple(items)),) if items else () for items in (accepted, refused))
    return Criterion(trait, accepts, refuses, unknown=before.unknown, ask=before.ask) if accepts or refuses else None
