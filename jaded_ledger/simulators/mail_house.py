"""A stand-in for a mail house: it takes a batch, charges, and reports printing, posting, delivery and returns as days pass.

It posts nothing. What it reports is the same whenever it is asked: it follows from the batch's number. That of a hundred pieces two
come back, and when, is invented.
"""

from __future__ import annotations

import csv
import io
import random
from collections.abc import Sequence
from datetime import date, timedelta
from decimal import Decimal

import pypdfium2
from django.db.models import Max

from jaded_ledger.mailings.mail_houses import Batch, MailHouse, MailHouseError, Report
from jaded_ledger.simulators.models import MailHouseJob

KEY, NAME = "stand-in", "Slate Pier Mail (stand-in)"
PRICES = {"letters": Decimal("0.74"), "postcards": Decimal("0.58"), "envelopes": Decimal("0.69")}
"""Dollars for a piece with its postage, invented."""
PAGES = {"letters": 1, "postcards": 2, "envelopes": 1}
RETURNED, PRINTED_AFTER, POSTED_AFTER = 0.02, 1, 2
DELIVERED_AFTER, BACK_AFTER = (4, 8), (9, 15)
"""Days, the first and the last."""


def price(form: str) -> Decimal | None:
    return PRICES.get(form)


def take(batch: Batch) -> str:
    """Take a batch and return its number. Raises MailHouseError where table and document don't tell of the same pieces."""
    rows = sum(1 for _ in csv.reader(io.StringIO(batch.csv.decode("utf-8-sig")))) - 1
    document = pypdfium2.PdfDocument(batch.pdf)
    pages = len(document)
    document.close()
    if rows != batch.pieces or pages != batch.pieces * PAGES[batch.form]:
        raise MailHouseError(
            f"{NAME} takes a row and a page for each piece; there are {batch.pieces:,} pieces, {rows:,} rows, {pages:,} pages"
        )
    last = MailHouseJob.objects.aggregate(last=Max("pk"))["last"] or 0
    reference = f"SP-{last + 1:05}"
    MailHouseJob.objects.create(reference=reference, form=batch.form, pieces=batch.pieces, taken_on=batch.on, csv=batch.csv, pdf=batch.pdf)
    return reference


def schedule(reference: str, pieces: int, taken_on: date) -> list[Report]:
    """Return all that will be reported of a batch."""
    chance = random.Random(reference)  # noqa: S311 - nothing secret follows from it
    found = [
        Report("printed", taken_on + timedelta(days=PRINTED_AFTER)),
        Report("posted", taken_on + timedelta(days=POSTED_AFTER)),
    ]
    for piece in range(1, pieces + 1):
        if chance.random() < RETURNED:
            found.append(Report("returned", taken_on + timedelta(days=chance.randint(*BACK_AFTER)), piece))
        else:
            found.append(Report("delivered", taken_on + timedelta(days=chance.randint(*DELIVERED_AFTER)), piece))
    return sorted(found, key=lambda report: (report.on, report.piece or 0))


def reports(reference: str, since: date | None, through: date) -> Sequence[Report]:
    """Return what happened to a batch from a day on through another."""
    job = MailHouseJob.objects.only("reference", "pieces", "taken_on").get(reference=reference)
    every = schedule(reference, job.pieces, job.taken_on)
    return [report for report in every if report.on <= through and (since is None or report.on >= since)]


STAND_IN = MailHouse(KEY, NAME, price, take, reports)
