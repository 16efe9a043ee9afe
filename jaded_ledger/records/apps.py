from django.apps import AppConfig


class RecordsConfig(AppConfig):
    """What was recorded, and the searchable facts derived from it."""

    name = "jaded_ledger.records"
    default_auto_field = "django.db.models.BigAutoField"
