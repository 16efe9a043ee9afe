from django.apps import AppConfig


class IntakeConfig(AppConfig):
    """Files in: read, checked row by row, and recorded with their history."""

    name = "jaded_ledger.intake"
