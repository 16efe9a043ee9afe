"""Mail that a team sends: through Django's mail, so that the installation's settings say by which way it leaves."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from email.mime.image import MIMEImage
from email.utils import format_datetime
from urllib.parse import urlsplit

from django.conf import settings
from django.core.mail import EmailMultiAlternatives

from jaded_ledger.accounts.models import Team


class TeamMail(EmailMultiAlternatives):
    """A mail of a team's, as text and as HTML."""

    def __init__(
        self, team: Team, to: Sequence[str], subject: str, text: str, html: str, *, headers: Mapping[str, str], reply_to: Sequence[str] = ()
    ) -> None:
        super().__init__(" ".join(subject.split()), text, to=list(to), headers=dict(headers), reply_to=list(reply_to))
        self.attach_alternative(html, "text/html")
        self.team = team

    def embed(self, content_id: str, content: bytes, content_type: str) -> None:
        """Put a picture into the mail that its HTML shows as ``cid:content_id`` (RFC 2392)."""
        # What is shown with the text is related to it (RFC 2387), not attached.
        self.mixed_subtype = "related"
        picture = MIMEImage(content, content_type.partition("/")[2])
        picture.add_header("Content-ID", f"<{content_id}>")
        picture.add_header("Content-Disposition", "inline")
        self.attach(picture)


def absolute(address: str) -> str:
    """Return an address of the application as it is reached from outside."""
    return f"{settings.BASE_URL}{address}"


def headers_of(number: str, at: datetime, unsubscribe: str) -> dict[str, str]:
    """Return the headers of a mail that is sent again and again: its own number, when it was written, and how to end it.

    A mail that is sent twice because the first sending broke off has one number (RFC 5322, 3.6.4). One click ends it (RFC 8058), which
    is only offered over https.
    """
    host = urlsplit(settings.BASE_URL).hostname
    headers = {
        "Message-ID": f"<{number}@{host}>",
        "Date": format_datetime(at),
        "List-Unsubscribe": f"<{unsubscribe}>",
        "Auto-Submitted": "auto-generated",
    }
    if unsubscribe.startswith("https://"):
        headers["List-Unsubscribe-Post"] = "List-Unsubscribe=One-Click"
    return headers
