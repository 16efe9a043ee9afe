from django.apps import AppConfig
from django.contrib.staticfiles.apps import StaticFilesConfig


class WebConfig(AppConfig):
    """The frame around every page: base templates, components, static files. Knows no other app."""

    name = "jaded_ledger.web"
    default = True


class StaticConfig(StaticFilesConfig):
    """Static files, but for extensions of htmx that no page uses: they import what lies elsewhere."""

    ignore_patterns = [*StaticFilesConfig.ignore_patterns, "hx-*.js"]
