from django.apps import AppConfig


class MadeFilesConfig(AppConfig):
    """Files that users ask for, made by the worker where they are large."""

    name = "jaded_ledger.made_files"
