from django.apps import AppConfig


class RecordsConfig(AppConfig):
    """What was recorded, and the searchable facts derived from it."""

    name = "jaded_ledger.records"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from jaded_ledger.core.criteria.catalogue import CATALOGUE
        from jaded_ledger.records.own_columns import own_traits

        CATALOGUE.look_up_in(own_traits)
