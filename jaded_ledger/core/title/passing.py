"""Whether a property has passed to somebody else since it was put on a list."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from jaded_ledger.core.ownership.names import are_related


@dataclass(frozen=True)
class Held:
    """Who holds a property, and since when; ``surnames`` are the words by which a name's relations are told."""

    name_id: int | None
    surnames: Collection[str]
    since: date | None


class Passed(StrEnum):
    """How it is known that it has passed on."""

    DEED = "ownership began anew"
    NAME = "another name on the roll"


def has_passed(then: Held, now: Held, added_on: date) -> Passed | None:
    """Return how it is known that a property has passed to somebody else since a day; None where it has not, or nothing tells.

    The present ownership begins with an arm's-length sale, a foreclosure deed or another transfer to an unrelated name; a deed
    within a family or into its trust begins none. Where no deed tells, another unrelated name on the roll does. Whoever merely
    moved has the same name.

    >>> then = Held(1, ["ostrom"], date(2001, 5, 1))
    >>> has_passed(then, Held(2, ["kelm"], date(2026, 6, 1)), date(2026, 1, 1))
    <Passed.DEED: 'ownership began anew'>
    >>> has_passed(then, Held(3, ["ostrom"], date(2001, 5, 1)), date(2026, 1, 1))
    """
    is_named = bool(then.surnames and now.surnames)
    is_kin = is_named and are_related(then.surnames, now.surnames)
    if now.since is not None:
        if then.since is not None and now.since > then.since:
            return Passed.DEED
        # The first deed on record may be one within the family.
        if then.since is None and now.since > added_on and not is_kin:
            return Passed.DEED
    is_other = then.name_id is not None and now.name_id is not None and then.name_id != now.name_id
    return Passed.NAME if is_other and is_named and not is_kin else None
