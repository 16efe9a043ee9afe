from django.apps import AppConfig


class DealsConfig(AppConfig):
    name = "jaded_ledger.deals"
    verbose_name = "Deals"
