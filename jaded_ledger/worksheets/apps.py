from django.apps import AppConfig


class WorksheetsConfig(AppConfig):
    name = "jaded_ledger.worksheets"
    verbose_name = "Worksheets"
