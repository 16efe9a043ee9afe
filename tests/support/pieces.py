"""Candidates of a mailing and its terms, put together for a test."""

from __future__ import annotations

from datetime import date

from jaded_ledger.core.mail import pieces as p
from jaded_ledger.core.mail.addresses import Address, standardize


def address(line: str, zip_code: str = "53301", city: str = "Alder Bay") -> Address:
    return standardize(line, "", city, "WI", zip_code)


def candidate(number: int, **more) -> p.Candidate:
    given = {
        "owner_id": number, "owner_name": f"OWNER {number}", "handler": "",
        "situs": address(f"{number} Capstan St"), "mailing": address(f"{number} Elsewhere Rd", "53399"),
    }  # fmt: skip
    return p.Candidate(number, f"12-034-{number:03}", **given | more)


TODAY = date(2026, 11, 24)
R = p.Reason


def terms(to: p.Addressing, *relaxed: p.Reason, **more) -> p.Terms:
    return p.Terms(to, TODAY, frozenset(relaxed), **more)
