"""Marking a property's owner as do not contact on the property's page."""

from __future__ import annotations

from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import DO_NOT_CONTACT
from jaded_ledger.contacts.do_not_contact import DoNotContactError, Kind, Source, note
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.plugins.entries import ActField, Done, PropertyAct
from jaded_ledger.records.models import Parcel, ParcelFacts


def _do_not_contact(parcel: Parcel, scope: Scope, typed: str) -> Done:
    facts = ParcelFacts.objects.filter(parcel=parcel).select_related("owner__name").first()
    if facts is None or facts.owner is None:
        raise DoNotContactError("the records name no owner of this parcel; note an address, phone number or email under Outreach")
    name = in_reading_case(facts.owner.name.text)
    row = note(scope, Kind.PERSON, Source.BY_HAND, label=name, owner=facts.owner, text=" ".join(typed.split()))
    return Done(f"{name} is marked do not contact.", reverse("contacts:end-do-not-contact", args=[row.pk]))


ACTS_ON_PROPERTY = (
    PropertyAct(
        "do-not-contact", "do not contact", "!", 60, _do_not_contact, DO_NOT_CONTACT, (DoNotContactError,),
        lambda parcel, scope: ActField(hint="why, or Enter"),
    ),
)  # fmt: skip
