"""Mailing a property's owner from the property's page."""

from __future__ import annotations

from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import CONTACTS
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.plugins.entries import Done, PropertyAct
from jaded_ledger.records.models import Parcel


def _mail(parcel: Parcel, scope: Scope, typed: str) -> Done:
    selection = keep(scope, SearchPage(Search()), [parcel.pk], is_all=False)
    return Done(leads_to=reverse("mailings:begin", args=[selection.key]))


ACTS_ON_PROPERTY = (PropertyAct("mail", "mail", "m", 70, _mail, CONTACTS),)
