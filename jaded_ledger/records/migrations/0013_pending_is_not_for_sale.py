"""Facts are due for derivation: what is under contract or on hold is no longer told as for sale or for rent."""

from __future__ import annotations

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor

from jaded_ledger.records.clock import today


def due(apps: Apps, schema_editor: BaseDatabaseSchemaEditor | None) -> None:
    """Have the worker derive the facts of whatever is on offer."""
    apps.get_model("records", "ParcelFacts").objects.exclude(on_offer=[]).exclude(on_offer=None).update(changes_on=today())


class Migration(migrations.Migration):
    dependencies = [("records", "0012_round_faults")]
    operations = [migrations.RunPython(due, migrations.RunPython.noop)]
