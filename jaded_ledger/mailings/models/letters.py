"""Letters that a team wrote, and what of them was sent."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team


class LetterTemplate(Deletable):
    """A letter or a postcard with fields, as its team edits it."""

    class Form(models.TextChoices):
        LETTERS = "letters", "letter"
        POSTCARDS = "postcards", "postcard"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="letters")
    name = models.CharField(max_length=80)
    form = models.CharField(max_length=10, choices=Form.choices)
    text = models.TextField(help_text="With fields in braces; core.mail.letters reads it.")
    changed_at = models.DateTimeField()
    changed_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        db_table = "outreach_lettertemplate"
        ordering = ["name", "pk"]
        constraints = [
            models.UniqueConstraint("team", "name", condition=Q(deleted_at=None), name="letter_name_once"),
            models.CheckConstraint(condition=Q(form__in=["letters", "postcards"]), name="letter_form_known"),
        ]

    def __str__(self) -> str:
        return self.name


class SentLetter(models.Model):
    """The text of a letter as it was when a mailing was made: the letter may be written anew afterwards."""

    mailing = models.ForeignKey("mailings.Mailing", on_delete=models.CASCADE, related_name="sent_letters")
    letter = models.ForeignKey(LetterTemplate, on_delete=models.PROTECT, related_name="sent")
    name = models.CharField(max_length=80)
    text = models.TextField()

    class Meta:
        db_table = "outreach_sentletter"
        ordering = ["pk"]
        constraints = [models.UniqueConstraint("mailing", "letter", name="sent_letter_once")]

    def __str__(self) -> str:
        return self.name
