"""What the stand-ins add to the program."""

from __future__ import annotations

from jaded_ledger.mailings.mail_houses import MailHouse
from jaded_ledger.plugins import hookimpl
from jaded_ledger.simulators.mail_house import STAND_IN


@hookimpl
def pages() -> dict[str, str]:
    return {"mailbox": "simulators:mailbox"}


@hookimpl
def mail_houses() -> list[MailHouse]:
    return [STAND_IN]
