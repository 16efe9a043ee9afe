from django.apps import AppConfig


class ContactsConfig(AppConfig):
    name = "jaded_ledger.contacts"
    verbose_name = "Contacts"
