from django.core.management import call_command
from django.db import migrations


def make_cache_table(apps, schema_editor):
    call_command("createcachetable", verbosity=0, database=schema_editor.connection.alias)


class Migration(migrations.Migration):
    dependencies = [
        ("find", "0002_longer_trait_keys"),
    ]

    operations = [
        migrations.RenameField(model_name="selection", old_name="records_version", new_name="facts_version"),
        migrations.RunPython(make_cache_table, migrations.RunPython.noop, elidable=False),
    ]
