from django.apps import AppConfig


class OutreachConfig(AppConfig):
    name = "jaded_ledger.outreach"
    verbose_name = "Outreach"
