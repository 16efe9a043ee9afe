"""Texts on record read again, by the rules of names and phrases that hold from here on.

Owners' names give other kinds, people and envelopes; an owner's spellings are kept by the words of the envelope's name, and follow.
Remarks have acronyms as one word, and texts are compared in Unicode's compatibility form. The searchable facts are derived anew: they
are thrown away here, and whoever starts the server derives what is missing.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice
from typing import Any

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor

from jaded_ledger.core.mail.addresses import AddressKind, standardize
from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.core.phrases import BETWEEN
from jaded_ledger.core.words import folded, prose_line, word_line

_BATCH = 2_000


def _batches(rows: Any) -> Iterator[list[Any]]:
    found = rows.order_by("pk").iterator(chunk_size=_BATCH)
    while batch := list(islice(found, _BATCH)):
        yield batch


def _spell_anew(apps: Apps, keys: dict[str, str]) -> None:
    """Have spellings follow the words of their names; where an address has the new words already, the old ones stay."""
    spellings = apps.get_model("records", "OwnerSpelling").objects
    for one in spellings.filter(name_key__in=list(keys)):
        if not spellings.filter(name_key=keys[one.name_key], at=one.at).exists():
            one.name_key = keys[one.name_key]
            one.save(update_fields=["name_key"])


def _reread_names(apps: Apps) -> None:
    names, entries = apps.get_model("records", "RecordedName"), apps.get_model("records", "RollEntry")
    fields = ("kind", "mailing_name", "surnames", "handler", "handler_role")
    for batch in _batches(names.objects.all()):
        keys: dict[str, str] = {}
        changed, unknown = [], []
        for name in batch:
            read = read_name(name.text)
            now = (read.kind, read.mailing_name, list(read.surnames), read.handler, read.handler_role)
            if tuple(getattr(name, field) for field in fields) == now:
                continue
            if read.mailing_name != name.mailing_name and read.mailing_name:
                keys[word_line(name.mailing_name).strip()] = word_line(read.mailing_name).strip()
            if not read.mailing_name:
                unknown.append(name.pk)
            for field, value in zip(fields, now, strict=True):
                setattr(name, field, value)
            changed.append(name)
        names.objects.bulk_update(changed, fields)
        entries.objects.filter(owner_name__in=unknown).update(owner=None)
        _spell_anew(apps, keys)


def _reword(apps: Apps) -> None:
    for model in ("Area", "Street", "RecordedName", "RecordedText", "RecordedAddress"):
        rows = apps.get_model("records", model)
        for batch in _batches(rows.objects.filter(text__regex=r"[^\x01-\x7f]")):
            for row in batch:
                row.folded, row.words = folded(row.text), word_line(row.text)
            rows.objects.bulk_update(batch, ["folded", "words"])
    remarks = apps.get_model("records", "Remarks")
    for batch in _batches(remarks.objects.all()):
        for row in batch:
            row.words = BETWEEN.join(prose_line(field) for field in row.fields)
        remarks.objects.bulk_update(batch, ["words"])


def _reread_addresses(apps: Apps) -> None:
    """Read again what could not be read for a care-of before it."""
    addresses = apps.get_model("records", "RecordedAddress")
    for batch in _batches(addresses.objects.filter(kind=AddressKind.UNREADABLE, street__regex=r"^(C/O|CARE OF|ATTN)\M")):
        changed = []
        for row in batch:
            read = standardize(row.street, row.unit, row.city, row.state, row.zip5)
            if read.kind is not AddressKind.UNREADABLE:
                row.kind, row.street, row.unit, row.attention = read.kind, read.street, read.unit, read.attention
                changed.append(row)
        addresses.objects.bulk_update(changed, ["kind", "street", "unit", "attention"])


def reread(apps: Apps, schema_editor: BaseDatabaseSchemaEditor | None) -> None:
    """Read all texts again, and have all facts derived anew."""
    _reread_names(apps)
    _reread_addresses(apps)
    _reword(apps)
    apps.get_model("records", "ParcelFacts").objects.all().delete()


class Migration(migrations.Migration):
    dependencies = [("records", "0002_figures")]
    operations = [migrations.RunPython(reread, migrations.RunPython.noop)]
