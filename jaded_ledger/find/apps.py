from django.apps import AppConfig


class FindConfig(AppConfig):
    """Searches: criteria to one queryset, the running balance, results."""

    name = "jaded_ledger.find"

    def ready(self) -> None:
        from jaded_ledger.core.criteria.catalogue import CATALOGUE
        from jaded_ledger.find.team_traits import team_traits

        CATALOGUE.add(declared.trait for declared in team_traits().values())
