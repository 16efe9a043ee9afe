from django.apps import AppConfig


class PropertiesConfig(AppConfig):
    """A property's page: everything that is on record of one parcel."""

    name = "jaded_ledger.properties"
