from django.apps import AppConfig


class ChartsConfig(AppConfig):
    name = "jaded_ledger.charts"
    verbose_name = "Charts"
