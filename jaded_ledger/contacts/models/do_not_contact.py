"""Who must get nothing: people, addresses, telephone numbers and e-mail addresses, each with its source and day."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import F, Q

from jaded_ledger.accounts.models import Team
from jaded_ledger.records.models import Owner


class DoNotContact(models.Model):
    """One who asked to be left alone, or an address from which mail came back. ``ended_at`` is when somebody took that back.

    ``value`` is what is compared: of an address its household (street, ZIP Code, unit), of a telephone number its digits with +1, of an
    e-mail address its lower case; of a person it is blank, and ``owner`` tells.
    """

    class Kind(models.TextChoices):
        PERSON = "person", "person"
        ADDRESS = "address", "address"
        TELEPHONE = "telephone", "telephone"
        EMAIL = "e-mail", "e-mail"

    class Source(models.TextChoices):
        BY_HAND = "by-hand", "by hand"
        FILE = "file", "from a file"
        CALL = "call", "said on the telephone"
        UNSUBSCRIBED = "unsubscribed", "unsubscribed"
        RETURNED = "returned", "mail came back"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="do_not_contact")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    owner = models.ForeignKey(Owner, null=True, on_delete=models.PROTECT, related_name="+")
    value = models.CharField(max_length=200, blank=True)
    label = models.CharField(max_length=200, help_text="The person, address or number as it is shown.")
    source = models.CharField(max_length=12, choices=Source.choices)
    since = models.DateField()
    note = models.CharField(max_length=300, blank=True)
    noted_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    noted_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    ended_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        db_table = "outreach_donotcontact"
        ordering = ["-noted_at", "-pk"]
        constraints = [
            models.CheckConstraint(condition=Q(kind__in=["person", "address", "telephone", "e-mail"]), name="do_not_contact_kind_known"),
            models.CheckConstraint(
                condition=Q(source__in=["by-hand", "file", "call", "unsubscribed", "returned"]), name="do_not_contact_source_known"
            ),
            models.CheckConstraint(
                condition=Q(kind="person", owner__isnull=False, value="") | (~Q(kind="person") & Q(owner=None) & ~Q(value="")),
                name="do_not_contact_says_who",
            ),
            models.UniqueConstraint(
                "team", "kind", "owner", "value", condition=Q(ended_at=None), nulls_distinct=False, name="do_not_contact_once"
            ),
        ]
        indexes = [models.Index("team", F("noted_at").desc(), name="do_not_contact_newest")]

    def __str__(self) -> str:
        return f"{self.label}: {self.get_source_display()}, {self.since}"
