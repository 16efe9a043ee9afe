"""Names and addresses as recorded. Each distinct text is stored, and read, once."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.db.models import F, Q

from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.phrases import BETWEEN
from jaded_ledger.core.words import folded, prose_line, word_line
from jaded_ledger.records.stored_texts import digest_of


class Named(models.Model):
    """A text that is searched exactly, by its beginning or by its words."""

    text = models.TextField()
    folded = models.TextField(help_text="One case, single spaces: for exact comparison.")
    words = models.TextField(help_text="The words with a space around each: for whole words.")

    class Meta:
        abstract = True

    def __str__(self) -> str:
        return self.text

    @staticmethod
    def search_forms(text: str) -> dict[str, str]:
        """Return the columns derived from the text."""
        return {"text": text, "folded": folded(text), "words": word_line(text)}


def by_words(name: str) -> GinIndex:
    """Return the index that finds names by any words in them."""
    return GinIndex(OpClass(F("words"), "gin_trgm_ops"), name=f"{name}_words")


class Area(Named):
    """A place that a property or an owner's address is in."""

    class AreaKind(models.TextChoices):
        STATE = "state", "state"
        COUNTY = "county", "county"
        MUNICIPALITY = "municipality", "municipality"
        CITY = "city", "city"
        ZIP = "zip", "ZIP"
        SUBDIVISION = "subdivision", "subdivision"
        NEIGHBORHOOD = "neighborhood", "neighborhood"
        SCHOOL_DISTRICT = "school_district", "school district"

    kind = models.CharField(max_length=20, choices=AreaKind.choices)
    county = models.ForeignKey("records.County", null=True, on_delete=models.PROTECT, related_name="areas")

    class Meta:
        constraints = [
            models.UniqueConstraint("kind", "county", "folded", name="area_once_in_county"),
            models.UniqueConstraint("kind", "folded", condition=Q(county=None), name="area_once"),
            models.CheckConstraint(
                condition=Q(kind="state", county=None) | (~Q(kind="state") & Q(county__isnull=False)),
                name="area_in_county_unless_state",
            ),
        ]


class Street(Named):
    """A street of a county, as its roll writes it."""

    county = models.ForeignKey("records.County", on_delete=models.PROTECT, related_name="streets")

    class Meta:
        constraints = [models.UniqueConstraint("county", "text", name="street_once")]


class RecordedName(Named):
    """An owner's or a party's name as recorded, with what its reading gave."""

    kind = models.CharField(max_length=20, choices=[(kind.value, kind.value) for kind in OwnerKind], null=True)
    mailing_name = models.TextField()
    surnames = models.JSONField(default=list)
    handler = models.TextField(blank=True)
    handler_role = models.CharField(max_length=20, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint("text", name="recorded_name_once")]
        indexes = [by_words("recorded_name")]


class RecordedText(Named):
    """A code, a number or a word as recorded that is neither a name nor an address: a zoning, a listing's number, a kind of permit."""

    class Meta:
        constraints = [models.UniqueConstraint("text", name="recorded_text_once")]
        indexes = [by_words("recorded_text")]


class Remarks(Named):
    """The remarks of a listing, all fields together. ``words`` holds each field's apart, so that no phrase runs across."""

    digest = models.CharField(max_length=32, unique=True)
    fields = ArrayField(models.TextField(blank=True), default=list, help_text="The text of each field, blank ones too.")

    class Meta:
        verbose_name_plural = "remarks"
        indexes = [by_words("remarks")]

    @staticmethod
    def forms_of(fields: Sequence[str]) -> dict[str, Any]:
        """Return the columns of a listing's remarks, given field by field, blank ones too: words are found by their field's place."""
        whole = "\n\n".join(field for field in fields if field)
        words = BETWEEN.join(prose_line(field) for field in fields)
        return {"text": whole, "folded": folded(whole)[:200], "words": words, "digest": digest_of(*fields), "fields": list(fields)}


class RecordedAddress(Named):
    """An address as recorded, with its parts in the form of USPS Publication 28."""

    kind = models.CharField(max_length=20, choices=[(kind.value, kind.value) for kind in AddressKind])
    street = models.TextField(blank=True)
    unit = models.TextField(blank=True)
    city = models.TextField(blank=True)
    state = models.CharField(max_length=2, blank=True)
    zip5 = models.CharField(max_length=5, blank=True)
    zip4 = models.CharField(max_length=4, blank=True)
    attention = models.TextField(blank=True, help_text="Whoever it is in care of.")

    class Meta:
        constraints = [models.UniqueConstraint("text", name="recorded_address_once")]
        indexes = [by_words("recorded_address"), models.Index("street", "zip5", name="recorded_address_building")]

    @property
    def address(self) -> Address:
        return Address(
            kind=AddressKind(self.kind),
            street=self.street,
            unit=self.unit,
            city=self.city,
            state=self.state,
            zip5=self.zip5,
            zip4=self.zip4,
            attention=self.attention,
        )


class Owner(models.Model):
    """One owner, however many parcels and however spelled. ``name`` and ``address`` are those first recorded."""

    name = models.ForeignKey(RecordedName, on_delete=models.PROTECT, related_name="owners")
    address = models.ForeignKey(RecordedAddress, null=True, on_delete=models.PROTECT, related_name="owners")

    def __str__(self) -> str:
        return self.name.text


class OwnerSpelling(models.Model):
    """A way in which an owner is recorded: the words of a name, at an address. It is one owner's at a time.

    ``at`` is the address's household, or where none is on record the parcel: each parcel then has its own owner.
    """

    class Because(models.TextChoices):
        SAME = "same", "the same name and address"
        CLOSE = "close", "a close spelling at the same address"
        BY_HAND = "by hand", "by hand"

    name_key = models.TextField()
    at = models.TextField(db_index=True)
    owner = models.ForeignKey(Owner, on_delete=models.PROTECT, related_name="spellings")
    because = models.CharField(max_length=10, choices=Because.choices, default=Because.SAME)

    class Meta:
        constraints = [models.UniqueConstraint("name_key", "at", name="owner_spelling_once")]

    def __str__(self) -> str:
        return self.name_key.upper()

    @staticmethod
    def at_of(address: Address | None, parcel_id: int) -> str:
        """Return where an owner is recorded."""
        return (address.household_key if address else "") or f"parcel {parcel_id}"


class OwnerDecision(models.Model):
    """A merge of two owners, or a split of one, by hand; both can be undone. Never deleted: it is the owners' history.

    ``owner`` is the one that was kept, ``other`` the one that was merged into it or split off it.
    """

    class Kind(models.TextChoices):
        MERGE = "merge", "merged"
        SPLIT = "split", "split off"

    kind = models.CharField(max_length=10, choices=Kind.choices)
    owner = models.ForeignKey(Owner, on_delete=models.PROTECT, related_name="decisions")
    other = models.ForeignKey(Owner, on_delete=models.PROTECT, related_name="+")
    spellings = models.ManyToManyField(OwnerSpelling, related_name="decisions")
    made_at = models.DateTimeField()
    team = models.ForeignKey(
        "accounts.Team", null=True, on_delete=models.SET_NULL, related_name="+", help_text="Whose decision it is; blank for a command's."
    )
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    undone_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-made_at", "-id")
        constraints = [models.CheckConstraint(condition=~Q(owner=F("other")), name="owner_decision_of_two")]
