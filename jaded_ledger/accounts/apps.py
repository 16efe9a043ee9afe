from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """Users, teams, and what contact data they took out."""

    name = "jaded_ledger.accounts"
