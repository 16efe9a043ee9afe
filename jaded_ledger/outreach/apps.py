from django.apps import AppConfig


class OutreachConfig(AppConfig):
    """Label sheets and contact files."""

    name = "jaded_ledger.outreach"
