from django.apps import AppConfig


class SearchesConfig(AppConfig):
    name = "jaded_ledger.searches"
    verbose_name = "Saved searches"
