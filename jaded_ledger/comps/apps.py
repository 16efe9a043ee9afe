from django.apps import AppConfig


class CompsConfig(AppConfig):
    name = "jaded_ledger.comps"
    verbose_name = "Comps"
