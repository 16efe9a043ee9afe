"""Saved searches find what they found: see ``find.migrations.0004_pending_is_not_for_sale``."""

from __future__ import annotations

from importlib import import_module

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor


def of_versions(apps: Apps, schema_editor: BaseDatabaseSchemaEditor | None) -> None:
    import_module("jaded_ledger.find.migrations.0004_pending_is_not_for_sale").spell_out(
        apps.get_model("searches", "Version").objects, "text"
    )


class Migration(migrations.Migration):
    dependencies = [("searches", "0002_runs_and_answers")]
    operations = [migrations.RunPython(of_versions, migrations.RunPython.noop)]
