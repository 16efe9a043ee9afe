"""Refused and doubtful rows as a file that can be corrected and taken in again."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from itertools import groupby
from operator import attrgetter
from typing import Any

from django.db.models import Count, F, Func, QuerySet, TextField, Value

from jaded_ledger.core.spreadsheets import guarded
from jaded_ledger.intake.models import Refusal
from jaded_ledger.intake.readers import REFUSED_AS, REFUSED_BECAUSE
from jaded_ledger.records.models import SourceFile


class _Echo:
    """A file that hands on what is written to it."""

    def write(self, text: str) -> str:
        return text


_WHY = Func(F("reason"), Value("; nearest: .*$"), Value(""), function="regexp_replace", output_field=TextField())
"""The reason of a refusal without the nearest addresses, which differ from row to row."""


def open_refusals(file: SourceFile) -> QuerySet[Refusal]:
    """Return what was wrong with a file's rows that have not come back corrected."""
    return file.refusals.filter(settled_in=None).order_by("line", "id")


def by_reason(file: SourceFile) -> list[dict[str, Any]]:
    """Return for each reason and column how many open rows were refused, or are doubtful, for it; the commonest first."""
    counted = open_refusals(file).annotate(why=_WHY).order_by().values("column", "is_doubtful", "why").annotate(rows=Count("id"))
    return [dict(row) for row in counted.order_by("is_doubtful", "-rows", "column", "why")]


def of_reason(refusals: QuerySet[Refusal], column: str, reason: str, *, is_doubtful: bool) -> QuerySet[Refusal]:
    """Return those of some rows that ``by_reason`` counts under a reason."""
    return refusals.annotate(why=_WHY).filter(column=column, why=reason, is_doubtful=is_doubtful)


def correction_file(file: SourceFile) -> Iterator[str]:
    """Yield the lines of a CSV of the rows at fault: which each was and why, then its cells by the file's own names."""
    refusals = open_refusals(file)
    columns = dict.fromkeys(name for row in refusals.values_list("row", flat=True).iterator() for name, _ in row)
    writer = csv.writer(_Echo())
    # Some spreadsheets need the mark to read accents right.
    yield "\ufeff" + str(writer.writerow([REFUSED_AS, REFUSED_BECAUSE, *map(guarded, columns)]))
    for line, at_fault in groupby(refusals.iterator(), key=attrgetter("line")):
        wrong = list(at_fault)
        why = "; ".join(f"{one.column}: {one.reason}" if one.column else one.reason for one in wrong)
        held = dict(wrong[0].row)
        cells = (str(held.get(name) or "") for name in columns)
        yield str(writer.writerow([f"{file.pk}:{line}", guarded(why), *map(guarded, cells)]))
