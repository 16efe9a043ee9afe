from django.apps import AppConfig


class ListsConfig(AppConfig):
    """Lists, tags and stages of work, and urgency."""

    name = "jaded_ledger.lists"
