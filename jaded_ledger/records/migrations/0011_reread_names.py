"""Owners' names on record read again: couples of two surnames, bodies without the word church, withheld names and the like.

Facts are due for derivation: the worker derives them, and until then they stand as they were.
"""

from __future__ import annotations

from importlib import import_module

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor

from jaded_ledger.records.clock import today


def reread(apps: Apps, schema_editor: BaseDatabaseSchemaEditor | None) -> None:
    """Read all names again, and have the worker derive all facts."""
    import_module("jaded_ledger.records.migrations.0003_reread_texts")._reread_names(apps)
    apps.get_model("records", "ParcelFacts").objects.update(changes_on=today())


class Migration(migrations.Migration):
    dependencies = [("records", "0010_kept_for_derivation")]
    operations = [migrations.RunPython(reread, migrations.RunPython.noop)]
