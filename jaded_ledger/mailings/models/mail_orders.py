"""Mailings that a mail house prints and posts, and what it reports of them."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from jaded_ledger.mailings.models.mailings import Mailing, MailPiece


class MailOrder(models.Model):
    """A mailing that was given to a mail house: what it charged, and under which number it keeps it."""

    mailing = models.OneToOneField(Mailing, on_delete=models.PROTECT, related_name="order")
    house = models.CharField(max_length=40, help_text="The mail house's key.")
    reference = models.CharField(max_length=40)
    placed_at = models.DateTimeField()
    placed_on = models.DateField(help_text="The team's day.")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    charge = models.DecimalField(max_digits=12, decimal_places=2)
    asked_through = models.DateField(null=True, help_text="Through which day its reports were asked for.")

    class Meta:
        db_table = "outreach_mailorder"
        constraints = [models.UniqueConstraint("house", "reference", name="mail_order_once")]

    def __str__(self) -> str:
        return f"{self.house} {self.reference}"


class MailReport(models.Model):
    """What a mail house reported of a mailing, or of one piece of it."""

    class Kind(models.TextChoices):
        PRINTED = "printed", "printed"
        POSTED = "posted", "given to the post"
        DELIVERED = "delivered", "delivered"
        RETURNED = "returned", "came back"

    order = models.ForeignKey(MailOrder, on_delete=models.CASCADE, related_name="reports")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    on = models.DateField()
    piece = models.ForeignKey(MailPiece, null=True, on_delete=models.CASCADE, related_name="reports")

    class Meta:
        db_table = "outreach_mailreport"
        ordering = ["on", "pk"]
        constraints = [
            models.UniqueConstraint("order", "kind", "on", "piece", nulls_distinct=False, name="mail_report_once"),
            models.CheckConstraint(condition=Q(kind__in=["printed", "posted", "delivered", "returned"]), name="mail_report_kind_known"),
        ]
