"""Mail houses: what one charges, what is given to it, and what it reports. Apps add them; the one that is shipped is a stand-in."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from itertools import chain
from typing import NamedTuple

from jaded_ledger.plugins import hooks


class Batch(NamedTuple):
    """What a mail house gets: a mailing's pieces as a table and as a document that is ready to be printed."""

    form: str
    pieces: int
    csv: bytes
    pdf: bytes
    on: date


class Report(NamedTuple):
    """What a mail house reports of one piece, by its number, or of all where that is None."""

    kind: str
    on: date
    piece: int | None = None


class MailHouseError(ValueError):
    """A mail house does not take a batch; the message says why."""


@dataclass(frozen=True)
class MailHouse:
    """A mail house.

    ``price`` is what a piece of a form costs with its postage; None where it makes no such pieces. ``take`` returns the number under
    which it keeps the batch, or raises MailHouseError. ``reports`` returns what happened from one day to another, both included.
    """

    key: str
    name: str
    price: Callable[[str], Decimal | None]
    take: Callable[[Batch], str]
    reports: Callable[[str, date | None, date], Sequence[Report]]


def mail_houses() -> dict[str, MailHouse]:
    """Return the mail houses of all apps by key."""
    return {house.key: house for house in chain.from_iterable(hooks.mail_houses())}
