from django.apps import AppConfig


class ClientsConfig(AppConfig):
    """People one searches for: what they want, what they were shown, and what they said of it."""

    name = "jaded_ledger.clients"
