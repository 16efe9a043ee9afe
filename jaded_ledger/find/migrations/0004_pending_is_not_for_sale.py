"""What is kept of searches finds what it found: since 2026-12 listings under contract or on hold are no longer *for sale* or *for rent*."""

from __future__ import annotations

import re
from typing import Any

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor

_LINE = re.compile(r"^(?P<before>\s*(?:~\s*)?on-offer: )(?P<values>.*)$", re.MULTILINE)
_BEFORE = {"for-sale": ("for-sale", "sale-pending", "sale-on-hold"), "for-rent": ("for-rent", "rental-pending", "rental-on-hold")}


def spelled_out(text: str) -> str:
    """Return a search's text with what *for sale* and *for rent* meant before.

    >>> spelled_out('beds: 3..\\non-offer: any of "for-sale"')
    'beds: 3..\\non-offer: any of "for-sale", "sale-pending", "sale-on-hold"'
    """
    return _LINE.sub(lambda found: found["before"] + "; ".join(map(_values, found["values"].split("; "))), text)


def _values(said: str) -> str:
    names = re.findall(r'"([^"]*)"', said)
    if said.startswith("all of"):
        if len(names) > 1:
            # Both at once can't be said of all their ways in one line.
            return said
        said = said.replace("all of", "any of", 1)
    return re.sub(r'"([^"]*)"', lambda name: ", ".join(f'"{way}"' for way in _BEFORE.get(name[1], (name[1],))), said)


def spell_out(rows: Any, field: str) -> None:
    """Spell out the texts of some rows."""
    for row in rows.filter(**{f"{field}__contains": "on-offer"}).iterator():
        setattr(row, field, spelled_out(getattr(row, field)))
        row.save(update_fields=[field])


def of_selections(apps: Apps, schema_editor: BaseDatabaseSchemaEditor | None) -> None:
    spell_out(apps.get_model("find", "Selection").objects, "search")


class Migration(migrations.Migration):
    dependencies = [("find", "0003_rows_by_hand")]
    operations = [migrations.RunPython(of_selections, migrations.RunPython.noop)]
