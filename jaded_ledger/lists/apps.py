from django.apps import AppConfig


class ListsConfig(AppConfig):
    name = "jaded_ledger.lists"

    def ready(self) -> None:
        from jaded_ledger.lists import asking, explaining, marking

        asking.register()
        explaining.register()
        marking.register()
