"""What stands in a row, however it came there, makes no page fail: any text, any number that the column holds, any day, and nothing."""

from __future__ import annotations

import random
from datetime import date
from decimal import Decimal
from typing import Any

from django.apps import apps
from django.db import DataError, IntegrityError, models, transaction
from django.test import Client
from django.urls import reverse

from jaded_ledger.lists.models import ParcelList
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import Parcel, ParcelFacts
from jaded_ledger.records.own_columns import read_anew
from jaded_ledger.worksheets.models import Worksheet
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

SEED, ROUNDS = 20261128, 70
TEXTS = (
    "", " ", "<script>alert(1)</script>", "'\"`;--", "\u202e\u2066", "😀" * 40, "﷽" * 30, "{{ 7 }}{% x %}", "%s %d %(a)s", "\\", "\n\r\t",
    "0", "-1", "NaN", "a" * 400, "é" * 400, "=1+1", "../..", "\ufeff", "&amp;&lt;",
)  # fmt: skip
DAYS = (date(1, 1, 1), date(1900, 1, 1), date(2026, 2, 28), date(9999, 12, 31))
APPS = ("records", "lists", "deals", "maps", "searches", "find", "outreach", "properties")
LEFT_OUT = {"World", "FactsVersion", "CountyFactsVersion", "SourceFile"}
"""What only the program itself writes: the day it stands at, and what it numbers."""


class StoredValues(DemoTestCase):
    def setUp(self) -> None:
        self.random = random.Random(SEED)
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        every = [model for app in APPS for model in apps.get_app_config(app).get_models() if model.__name__ not in LEFT_OUT]
        self.models = [model for model in every if model._default_manager.exists()]
        shown = ParcelFacts.objects.filter(loan_balance__gt=0, listing_number__isnull=False, owner__contacts__isnull=False)
        self.parcel = shown.order_by("pk").values_list("pk", flat=True)[0]

    def value(self, field: models.Field) -> Any:
        """Return something that a column of a kind may hold, often at its end; None where nothing of it is tried."""
        if field.null and self.random.random() < 0.2:
            return None
        match field:
            case models.ForeignKey() | models.BinaryField() | models.JSONField() | models.AutoField():
                return ...
            case models.CharField() | models.TextField():
                text = self.random.choice(TEXTS)
                return text[: field.max_length] if field.max_length else text
            case models.BooleanField():
                return self.random.random() < 0.5
            case models.SmallIntegerField():
                return self.random.choice((-32_768, -1, 0, 1, 32_767))
            case models.BigIntegerField():
                return self.random.choice((-(2**63), -1, 0, 1, 2**63 - 1))
            case models.IntegerField():
                return self.random.choice((-(2**31), -1, 0, 1, 2**31 - 1))
            case models.DecimalField():
                whole = field.max_digits - field.decimal_places
                return self.random.choice((Decimal(0), Decimal(-1), Decimal(10**whole - 1), Decimal(1).scaleb(-field.decimal_places)))
            case models.FloatField():
                return self.random.choice((0.0, -1.0, 1e300, 1e-300))
            case models.DateField() if not isinstance(field, models.DateTimeField):
                return self.random.choice(DAYS)
        return ...

    def spoil(self) -> str:
        """Put values into the rows of one table, those of our parcel and some others; return what was done."""
        model = self.random.choice(self.models)
        fields = [field for field in model._meta.concrete_fields if not field.primary_key and not field.generated]
        told = []
        rows = model._default_manager.all()
        if any(field.name == "parcel" for field in fields) and rows.filter(parcel=self.parcel).exists():
            rows = rows.filter(parcel=self.parcel)
        ids = list(rows.order_by("pk").values_list("pk", flat=True)[:20])
        for field in self.random.sample(fields, min(4, len(fields))):
            if (value := self.value(field)) is ...:
                continue
            try:
                # What the table's own rules refuse is not there.
                with transaction.atomic():
                    model._default_manager.filter(pk__in=ids).update(**{field.name: value})
                told.append(f"{model.__name__}.{field.name} = {str(value)[:40]!r}")
            except (IntegrityError, DataError):
                continue
        return ", ".join(told)

    def pages(self) -> list[str]:
        sheet, which = Worksheet.objects.first(), ParcelList.objects.first()
        return [
            *(reverse(f"properties:{name}", args=[self.parcel]) for name in ("property", "more")),
            reverse("comps:comps", args=[self.parcel]), "/?q=class%3A+single-family",
            "/lists/", "/searches/", "/deals/", "/outreach/", "/map/areas", "/find/phrases", "/lists/activity", "/you/audit/", "/records/",
            *([reverse("worksheets:worksheet", args=[sheet.pk])] if sheet else []),
            *([reverse("lists:list", args=[which.pk])] if which else []),
        ]  # fmt: skip

    @thorough
    def test_no_stored_value_makes_a_page_fail(self) -> None:
        failed, spoiled = [], 0
        for number in range(ROUNDS):
            with transaction.atomic():
                told = self.spoil()
                spoiled += bool(told)
                # Facts follow from what is recorded, whatever that is.
                derive([self.parcel])
                for path in self.random.sample(self.pages(), 4):
                    status = self.client.get(path).status_code
                    if status >= 500:
                        failed.append((number, status, path, told))
                transaction.set_rollback(True)
            read_anew()
        self.assertEqual(failed, [])
        self.assertGreater(spoiled, ROUNDS * 2 // 3)
        self.assertTrue(Parcel.objects.filter(pk=self.parcel).exists())
