from django.apps import AppConfig


class WebConfig(AppConfig):
    """The frame around every page: base templates, components, static files. Knows no other app."""

    name = "jaded_ledger.web"
