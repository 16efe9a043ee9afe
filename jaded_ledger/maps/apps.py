from django.apps import AppConfig


class MapsConfig(AppConfig):
    name = "jaded_ledger.maps"
    verbose_name = "Maps"
