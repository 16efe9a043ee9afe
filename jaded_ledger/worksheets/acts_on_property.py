"""Opening a property's worksheet from its page; the first one is made there."""

from __future__ import annotations

from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins.entries import Done, PropertyAct
from jaded_ledger.records.models import Parcel
from jaded_ledger.worksheets.acts import WORKSHEETS
from jaded_ledger.worksheets.services import open_worksheet


def _worksheet(parcel: Parcel, scope: Scope, typed: str) -> Done:
    return Done(leads_to=reverse("worksheets:worksheet", args=[open_worksheet(scope, parcel).pk]))


ACTS_ON_PROPERTY = (PropertyAct("worksheet", "worksheet", "w", 90, _worksheet, WORKSHEETS),)
