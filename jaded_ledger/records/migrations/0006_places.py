"""Where parcels lie, for areas and distances. The searchable facts are derived anew: they are thrown away here, and whoever starts
the server derives what is missing."""

import django.contrib.gis.db.models.fields
from django.apps.registry import Apps
from django.contrib.postgres.indexes import GistIndex
from django.db import migrations, models
from django.db.backends.base.schema import BaseDatabaseSchemaEditor
from django.db.models import Q

_FIGURES = ("highway_distance", "arterial_distance", "collector_distance", "rail_distance", "water_distance", "elevation")
_FEATURES = {
    "feature_highway": Q(("layer", "highway"), ("superseded_at", None)),
    "feature_arterial": Q(("class_code__icontains", "arterial"), ("layer", "road"), ("superseded_at", None)),
    "feature_collector": Q(("class_code__icontains", "collector"), ("layer", "road"), ("superseded_at", None)),
    "feature_rail": Q(("layer", "rail"), ("superseded_at", None)),
    "feature_water": Q(("layer", "water"), ("superseded_at", None)),
}


def throw_away(apps: Apps, schema_editor: BaseDatabaseSchemaEditor) -> None:
    """Have all facts derived anew."""
    apps.get_model("records", "ParcelFacts").objects.all().delete()


class Migration(migrations.Migration):
    dependencies = [("records", "0005_listing_by_number")]
    operations = [
        migrations.RunPython(throw_away, migrations.RunPython.noop, elidable=True),
        *(migrations.AddField("parcelfacts", name, models.FloatField(null=True)) for name in ("longitude", "latitude", "slope")),
        *(migrations.AddField("parcelfacts", name, models.IntegerField(null=True)) for name in _FIGURES),
        migrations.AddField(
            "parcelfacts",
            "place",
            models.GeneratedField(
                db_persist=True,
                expression=models.Func("longitude", "latitude", template="ST_SetSRID(ST_MakePoint(%(expressions)s), 4326)"),
                help_text="The point that represents the parcel, in degrees (WGS 84): it is in an area when this point is.",
                output_field=django.contrib.gis.db.models.fields.PointField(null=True, srid=4326),
            ),
        ),
        migrations.AddIndex("parcelfacts", GistIndex(fields=["place"], name="facts_by_place")),
        *(
            migrations.AddIndex("mapfeature", GistIndex(condition=condition, fields=["drawn"], name=name))
            for name, condition in _FEATURES.items()
        ),
    ]
