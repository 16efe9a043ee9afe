"""What tests of worksheets begin with: a house of the demo that is for sale, and somebody who may change its worksheets."""

from __future__ import annotations

from typing import Any

from django.test import Client
from django.urls import reverse

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.deals.worksheet import worksheet_from_json
from jaded_ledger.records.models import Parcel, ParcelFacts
from jaded_ledger.worksheets.computed import computed
from jaded_ledger.worksheets.models import Worksheet
from jaded_ledger.worksheets.services import begin
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text

NUMBER = "100-071-05"
"""A house of three units for sale, with the rents of all of them on the register."""


def text_of(answer: Any) -> str:
    return page_text(answer.content.decode())


class WorksheetCase(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.scope = Scope(cls.scope.team, cls.user, cls.scope.today)
        cls.parcel = Parcel.objects.select_related("county").get(number=NUMBER)
        cls.facts = ParcelFacts.objects.get(pk=cls.parcel.pk)

    def setUp(self) -> None:
        self.client = Client()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def begun(self, **said: Any) -> Worksheet:
        return begin(self.scope, self.parcel, worksheet_from_json({"exits": ["resale", "rental"], **said}))

    def computed(self, **said: Any) -> Any:
        return computed(worksheet_from_json({"exits": ["resale", "rental"], **said}), self.parcel, self.scope)

    def change(self, worksheet: Worksheet, **fields: str) -> Any:
        return self.client.post(reverse("worksheets:change-worksheet", args=[worksheet.pk]), fields, headers={"HX-Request": "true"})

    def reader(self) -> User:
        return User.objects.create_user("wren", password="x" * 12, team=self.scope.team, role=User.Role.READER)
