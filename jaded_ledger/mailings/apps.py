from django.apps import AppConfig


class MailingsConfig(AppConfig):
    name = "jaded_ledger.mailings"
    verbose_name = "Mailings"
