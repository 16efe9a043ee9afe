"""Clients, the searches that are theirs, what they were shown and said of it, the mails to them, and the links to their own pages."""

from __future__ import annotations

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team
from jaded_ledger.core.watching.rhythms import Rhythm, Schedule
from jaded_ledger.records.models import Parcel
from jaded_ledger.searches.models import SavedSearch


class ClientSettings(models.Model):
    """How a team writes to its clients. ``reasons`` are those that a client may give for a no."""

    team = models.OneToOneField(Team, on_delete=models.CASCADE, related_name="client_settings")
    reasons = ArrayField(models.CharField(max_length=60), default=list)
    message = models.TextField(blank=True)
    link_days = models.PositiveSmallIntegerField(default=30)

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(link_days__gte=1, link_days__lte=366), name="link_days_within_a_year")]


class Client(Deletable):
    """A person one searches for. What they say they want is kept in their words; ``is_left_out`` of what fits a new listing."""

    class Paying(models.TextChoices):
        CASH = "cash", "cash"
        FINANCED = "financed", "financed"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="clients")
    agent = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    name = models.CharField(max_length=120)
    email = models.EmailField(blank=True)
    telephone = models.CharField(max_length=40, blank=True)
    note = models.TextField(blank=True, max_length=4000)
    where = models.CharField(max_length=300, blank=True)
    where_not = models.CharField(max_length=300, blank=True)
    how_many = models.CharField(max_length=120, blank=True)
    how_fast = models.CharField(max_length=120, blank=True)
    paying = models.CharField(max_length=10, choices=Paying.choices, blank=True)
    limits = models.CharField(max_length=300, blank=True)
    is_left_out = models.BooleanField(default=False)
    made_at = models.DateTimeField()

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.CheckConstraint(condition=~models.Q(name=""), name="client_has_name")]

    def __str__(self) -> str:
        return self.name


class ClientSearch(models.Model):
    """A saved search that is a client's: what they are written about it, how often, and whether the agent looks first.

    ``told_version`` is the search's version that the client was last written of; ``asked_to`` up to when it was asked for them.
    """

    client = models.ForeignKey(Client, on_delete=models.CASCADE, related_name="searches")
    search = models.ForeignKey(SavedSearch, on_delete=models.CASCADE, related_name="clients")
    subject = models.CharField(max_length=150)
    message = models.TextField(max_length=4000)
    rhythm = models.CharField(max_length=10, choices=[(one.value, one.words) for one in Rhythm], default=Rhythm.MORNING)
    days = ArrayField(models.PositiveSmallIntegerField(), default=list)
    is_reviewed = models.BooleanField(default=True)
    copy_to_agent = models.BooleanField(default=False)
    past_too = models.BooleanField(default=False, help_text="Whether they are written of what is not on the market as well.")
    paused_at = models.DateTimeField(null=True)
    asked_to = models.DateTimeField()
    told_version = models.PositiveIntegerField()
    edit_note = models.CharField(max_length=500, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint("client", "search", name="client_search_once")]

    @property
    def schedule(self) -> Schedule:
        return Schedule(Rhythm(self.rhythm), tuple(self.days))


class ClientMail(models.Model):
    """A mail to a client about what is new in one of their searches. It waits for the agent, or for the round that sends it."""

    of = models.ForeignKey(ClientSearch, on_delete=models.CASCADE, related_name="mails")
    made_at = models.DateTimeField()
    parcels = ArrayField(models.BigIntegerField())
    subject = models.CharField(max_length=150)
    message = models.TextField()
    edit_note = models.CharField(max_length=500, blank=True)
    version = models.PositiveIntegerField()
    approved_at = models.DateTimeField(null=True)
    dropped_at = models.DateTimeField(null=True)
    sent_at = models.DateTimeField(null=True)
    fault = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["-made_at", "-id"]
        constraints = [
            models.UniqueConstraint("of", condition=models.Q(sent_at=None, dropped_at=None), name="one_mail_waits_for_a_search"),
        ]


class Showing(models.Model):
    """That a client was shown a property: when, by which way, and what it was then. ``number`` counts the client's properties."""

    class Way(models.TextChoices):
        MAIL = "mail", "mailed"
        HAND = "hand", "shown by the agent"

    client = models.ForeignKey(Client, on_delete=models.CASCADE, related_name="showings")
    parcel = models.ForeignKey(Parcel, on_delete=models.PROTECT, related_name="+")
    mail = models.ForeignKey(ClientMail, null=True, on_delete=models.SET_NULL, related_name="showings")
    number = models.PositiveIntegerField()
    at = models.DateTimeField()
    way = models.CharField(max_length=10, choices=Way.choices)
    watched = models.JSONField(default=dict)

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [models.Index("client", "parcel", name="showing_of_property")]


class ClientAnswer(models.Model):
    """What a client said of a property, or did about it; the latest holds."""

    class What(models.TextChoices):
        WANTS = "wants", "wants to see it"
        MAYBE = "maybe", "maybe"
        NO = "no", "no"
        VIEWED = "viewed", "viewed it"
        OFFER = "offer", "made an offer"

    client = models.ForeignKey(Client, on_delete=models.CASCADE, related_name="answers")
    parcel = models.ForeignKey(Parcel, on_delete=models.PROTECT, related_name="+")
    what = models.CharField(max_length=10, choices=What.choices)
    reason = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    by_client = models.BooleanField(default=False)

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [models.Index("client", "parcel", name="answer_about_property")]


class ClientLink(models.Model):
    """The address of a client's own page: signed, until a day, unless it is revoked. A new one ends the one before."""

    client = models.ForeignKey(Client, on_delete=models.CASCADE, related_name="links")
    made_at = models.DateTimeField()
    ends_at = models.DateTimeField()
    revoked_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]


class LinkOpening(models.Model):
    """That a client's page was opened."""

    link = models.ForeignKey(ClientLink, on_delete=models.CASCADE, related_name="openings")
    at = models.DateTimeField()

    class Meta:
        ordering = ["-at", "-id"]
