"""How an owner can be reached."""

from __future__ import annotations

from enum import StrEnum

from django.db import models
from django.db.models import Q

from jaded_ledger.records.models.filed import Filed, filed
from jaded_ledger.records.models.names import Owner
from jaded_ledger.records.models.provenance import choices, holds, one_of


class ContactKind(StrEnum):
    """What a contact is."""

    TELEPHONE = "telephone"
    EMAIL = "e-mail"


class Contact(Filed):
    """A telephone number or e-mail address of an owner, where it came from, and whether it may be used."""

    natural = ("owner", "kind", "value")

    owner = models.ForeignKey(Owner, on_delete=models.PROTECT, related_name="contacts")
    kind = models.CharField(max_length=20, choices=choices(ContactKind))
    value = models.CharField(max_length=120, help_text="A telephone number as +1 and ten digits.")
    source = models.CharField(max_length=60)
    do_not_contact = models.BooleanField(default=False)

    class Meta:
        constraints = [
            *filed("contact"),
            one_of("contact", "kind", ContactKind),
            holds("contact_has_source", ~Q(source=""), "names no source"),
            holds(
                "contact_value_form",
                Q(kind="telephone", value__regex=r"^\+[1-9]\d{6,14}$") | Q(kind="e-mail", value__regex=r"^[^@\s]+@[^@\s]+\.[^@\s]+$"),
                "is neither a telephone number such as +1 414 555 0123 nor an e-mail address",
            ),
        ]
