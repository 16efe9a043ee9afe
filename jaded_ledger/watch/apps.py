from django.apps import AppConfig


class WatchConfig(AppConfig):
    """The morning: what changed in one's searches, and the days ahead, also as a calendar."""

    name = "jaded_ledger.watch"
