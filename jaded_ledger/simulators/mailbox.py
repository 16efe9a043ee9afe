"""A stand-in for a mail relay: a mailbox that keeps what a team sends, for its people to read. Nothing leaves this machine."""

from __future__ import annotations

from collections.abc import Sequence

from django.core.mail import EmailMessage
from django.core.mail.backends.base import BaseEmailBackend

from jaded_ledger.accounts.team_mail import TeamMail
from jaded_ledger.records.clock import now
from jaded_ledger.simulators.models import KeptMail


class Mailbox(BaseEmailBackend):
    """Django's way to send mail, into the mailbox."""

    def send_messages(self, email_messages: Sequence[EmailMessage]) -> int:
        for message in email_messages:
            whole = message.message()
            # A mail of nobody's team, such as a reset password, is the installation's own.
            team = message.team if isinstance(message, TeamMail) else None
            KeptMail.objects.create(
                team=team, kept_at=now(), to=", ".join(message.recipients()), subject=str(whole["Subject"]), message=whole.as_bytes()
            )
        return len(email_messages)
