"""Refused rows as a file that can be corrected and taken in again."""

from __future__ import annotations

import csv
from collections.abc import Iterator

from django.db.models import Count, QuerySet

from jaded_ledger.core.spreadsheets import guarded
from jaded_ledger.intake.models import Refusal
from jaded_ledger.intake.readers import REFUSED_AS, REFUSED_BECAUSE
from jaded_ledger.records.models import SourceFile


class _Echo:
    """A file that hands on what is written to it."""

    def write(self, text: str) -> str:
        return text


def open_refusals(file: SourceFile) -> QuerySet[Refusal]:
    """Return a file's refused rows that have not come back corrected."""
    return file.refusals.filter(settled_in=None).order_by("line", "id")


def by_reason(file: SourceFile) -> list[dict[str, object]]:
    """Return for each reason and column how many open rows were refused for it, the commonest first."""
    return list(open_refusals(file).order_by().values("column", "reason").annotate(rows=Count("id")).order_by("-rows", "column", "reason"))


def correction_file(file: SourceFile) -> Iterator[str]:
    """Yield the lines of a CSV of the open refusals: which each was and why, then its cells by the file's own names."""
    refusals = open_refusals(file)
    columns = dict.fromkeys(name for row in refusals.values_list("row", flat=True).iterator() for name, _ in row)
    writer = csv.writer(_Echo())
    # Some spreadsheets need the mark to read accents right.
    yield "\ufeff" + str(writer.writerow([REFUSED_AS, REFUSED_BECAUSE, *map(guarded, columns)]))
    for refusal in refusals.iterator():
        why = f"{refusal.column}: {refusal.reason}" if refusal.column else refusal.reason
        held = dict(refusal.row)
        cells = (str(held.get(name) or "") for name in columns)
        yield str(writer.writerow([f"{file.pk}:{refusal.line}", guarded(why), *map(guarded, cells)]))
