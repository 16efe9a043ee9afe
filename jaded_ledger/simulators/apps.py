from django.apps import AppConfig


class SimulatorsConfig(AppConfig):
    """Stand-ins for services outside: they do what those do, and nothing leaves this machine."""

    name = "jaded_ledger.simulators"
