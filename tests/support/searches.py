"""Cases for saved searches."""

from __future__ import annotations

from django.db.models import F

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.records.models import FactsVersion
from jaded_ledger.searches import services
from jaded_ledger.searches.models import SavedSearch
from tests.support.demo import DemoTestCase
from tests.support.tiers import at_all_hours


def code_of(key: str) -> int:
    """Return the code of a class."""
    return next(choice.code for choice in CATALOGUE["class"].choices if choice.key == key)


@at_all_hours
class SearchCase(DemoTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.mine = Scope(self.scope.team, self.user, self.scope.today)
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def colleague(self, name: str = "ida", role: str = User.Role.AGENT) -> Scope:
        return Scope(self.scope.team, User.objects.create_user(name, password="x", team=self.scope.team, role=role), self.scope.today)

    def saved(self, text: str = "class: triplex", name: str = "Triplexes", **more: object) -> SavedSearch:
        return services.save(self.mine, SearchPage(parse(text)), name, **more)  # type: ignore[arg-type]

    def found(self, text: str) -> set[int]:
        return set(Answer(SearchPage(parse(text)), self.mine).matches.values_list("pk", flat=True))

    def derive(self) -> None:
        """Have the facts be others than those that were counted."""
        FactsVersion.objects.update(number=F("number") + 1)
