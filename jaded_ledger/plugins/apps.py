from importlib import import_module

from django.apps import AppConfig, apps
from django.utils.module_loading import module_has_submodule


class PluginsConfig(AppConfig):
    """Loads what every app adds to the program."""

    name = "jaded_ledger.plugins"

    def ready(self) -> None:
        from jaded_ledger.plugins import hookspecs, manager

        manager.add_hookspecs(hookspecs)
        for app in apps.get_app_configs():
            if module_has_submodule(app.module, "plugin"):
                manager.register(import_module(f"{app.name}.plugin"), name=app.label)
        manager.check_pending()
