from django.apps import AppConfig


class FindConfig(AppConfig):
    """Searches: criteria to one queryset, the running balance, results."""

    name = "jaded_ledger.find"
