"""Opening a property's comps from its page."""

from __future__ import annotations

from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins.entries import Done, PropertyAct
from jaded_ledger.records.models import Parcel


def _comps(parcel: Parcel, scope: Scope, typed: str) -> Done:
    return Done(leads_to=reverse("comps:comps", args=[parcel.pk]))


ACTS_ON_PROPERTY = (PropertyAct("comps", "comps", "c", 80, _comps, None),)
