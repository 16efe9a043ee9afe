"""What a team set for all that leaves: what mail costs, who sends it, and how many rows each role exports."""

from __future__ import annotations

from django.contrib.postgres.fields import ArrayField
from django.db import models

from jaded_ledger.accounts.models import Team


class MailSettings(models.Model):
    """What a team's mail costs and who sends it; without one the shipped prices hold, and no sender is named."""

    team = models.OneToOneField(Team, on_delete=models.CASCADE, related_name="mail_settings")
    prices = models.JSONField(default=dict, help_text="Dollars, by the names of core.mail.postage.Prices.")
    export_limits = models.JSONField(default=dict, help_text="By role how many rows a contact file has at most; without, none.")
    sender = ArrayField(models.CharField(max_length=60), default=list, blank=True, help_text="The lines of the return address.")

    class Meta:
        db_table = "outreach_mailsettings"
