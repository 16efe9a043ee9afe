"""Time passes and nothing is recorded: what the day changes is derived by itself, and nothing else is written."""

from __future__ import annotations

from datetime import timedelta

from jaded_ledger.records.clock import today
from jaded_ledger.records.derivation import derive, let_time_pass
from jaded_ledger.records.models import Parcel, ParcelFacts, World
from jaded_ledger.records.tasks import derive_what_is_due
from tests.support.demo import DemoTestCase
from tests.support.tiers import at_all_hours, thorough


@at_all_hours
class Time(DemoTestCase):
    @thorough
    def test_forty_days_later(self) -> None:
        """Forty days on, past an auction and a new year: those whose day has come are derived, and all others are as they were."""
        odell = list(Parcel.objects.filter(county__name="Odell Marsh").values_list("id", flat=True))
        ParcelFacts.objects.exclude(parcel__in=odell).update(changes_on=None)
        owed = dict(ParcelFacts.objects.filter(parcel__in=odell, loan_balance__gt=0).values_list("parcel_id", "loan_balance"))
        World.objects.update(today=today() + timedelta(days=40))
        let_time_pass()
        now = dict(ParcelFacts.objects.filter(parcel__in=owed).values_list("parcel_id", "loan_balance"))
        paid = [pk for pk, balance in owed.items() if now[pk] < balance]
        self.assertGreater(len(paid), len(owed) * 0.9, "a payment fell due")
        self.assertFalse(ParcelFacts.objects.filter(changes_on__lte=today()).exists())
        self.assertEqual(list(derive(odell).values()), [0], "nothing was missed")

    def test_the_workers_task_does_so(self) -> None:
        one = ParcelFacts.objects.filter(loan_balance__gt=0).first()
        ParcelFacts.objects.filter(pk=one.pk).update(changes_on=today(), loan_balance=1)
        derive_what_is_due(0)
        self.assertEqual(ParcelFacts.objects.get(pk=one.pk).loan_balance, one.loan_balance)
