from django.apps import AppConfig


class ListsConfig(AppConfig):
    name = "jaded_ledger.lists"

    def ready(self) -> None:
        from jaded_ledger.lists import explanations, row_marks, traits

        traits.register()
        explanations.register()
        row_marks.register()
