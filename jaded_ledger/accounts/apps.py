from importlib import import_module

from django.apps import AppConfig
from django.contrib.admin import apps as admin


class AccountsConfig(AppConfig):
    """Users, teams, and what contact data they took out."""

    name = "jaded_ledger.accounts"

    def ready(self) -> None:
        for name in ("sessions", "audit"):
            import_module(f"jaded_ledger.accounts.{name}")


class StaffConfig(admin.SimpleAdminConfig):
    """The staff pages: those of ours alone, not what other packages would add."""

    default = False
    default_site = "jaded_ledger.accounts.staff_site.StaffSite"

    def ready(self) -> None:
        super().ready()
        import_module("jaded_ledger.accounts.admin")
