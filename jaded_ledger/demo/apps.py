from django.apps import AppConfig


class DemoConfig(AppConfig):
    """An invented county, written as the files that intake reads."""

    name = "jaded_ledger.demo"
