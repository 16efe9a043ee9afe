"""A list of whom to leave alone, as others write it: a line each, or a table with columns for telephone, e-mail and address."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from typing import NamedTuple

_HEADINGS = {
    "telephone": ("telephone", "telephone number", "phone", "phone number", "tel", "mobile", "cell", "number"),
    "e-mail": ("e-mail", "email", "e-mail address", "email address"),
    "street": ("address", "street", "street address", "mailing address", "mail street", "property street", "address 1"),
    "city": ("city", "mail city", "property city"),
    "state": ("state", "mail state", "property state"),
    "zip": ("zip", "zip code", "zip5", "postal code", "mail zip", "property zip"),
}
_COLUMN = {heading: column for column, headings in _HEADINGS.items() for heading in headings}
_TELL = {"telephone", "e-mail", "street"}
"""The columns of which one at least makes a table a list of whom to leave alone."""


class Entry(NamedTuple):
    """Something to be noted: in which line of the file it stands, and what it says."""

    line: int
    text: str


def entries(content: str) -> Iterator[Entry]:
    """Yield what a file names. A first line of known headings makes it a table; else each line says one."""
    lines = content.splitlines()
    columns = [_COLUMN.get(heading.strip().casefold()) for heading in next(csv.reader(lines[:1]), [])]
    if not _TELL.intersection(filter(None, columns)):
        yield from (Entry(number, line) for number, line in enumerate(lines, start=1) if line.strip())
        return
    reader = csv.reader(lines[1:])
    for row in reader:
        said: dict[str, str] = {}
        for column, cell in zip(columns, row, strict=False):
            if column and cell.strip():
                said.setdefault(column, cell.strip())
                if column in ("telephone", "e-mail"):
                    yield Entry(reader.line_num + 1, cell.strip())
        if "street" in said:
            place = " ".join(filter(None, (said.get("state"), said.get("zip"))))
            yield Entry(reader.line_num + 1, ", ".join(filter(None, (said["street"], said.get("city"), place))))
