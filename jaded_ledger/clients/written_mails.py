"""A mail to a client as it arrives: its subject, text and HTML, a property a card with its first photograph."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from django.template.loader import render_to_string
from django.urls import reverse

from jaded_ledger.accounts.team_mail import absolute
from jaded_ledger.clients.cards import Card
from jaded_ledger.clients.links import link_for_mail
from jaded_ledger.clients.models import Client, ClientMail
from jaded_ledger.core.bounded_programs import EndedError, run_bounded
from jaded_ledger.records.models import StoredImage

_PLAIN_BYTES, _SECONDS = 150_000, 10.0
"""A photograph up to so many bytes goes as it is; a larger one is made smaller, in at most so many seconds."""


@dataclass(frozen=True)
class WrittenMail:
    """What arrives: plain text, HTML, and the photographs that the HTML shows, by their ids."""

    text: str
    html: str
    images: Mapping[int, tuple[bytes, str]]


def named(text: str, client: Client) -> str:
    """Return a text with the client's name in it: {name} in full, {first-name} its first word."""
    return text.replace("{name}", client.name).replace("{first-name}", client.name.split()[0] if client.name.split() else "")


def mail_context(
    mail: ClientMail, message: str, cards: Sequence[tuple[int | None, Card]], source_of: Callable[[int], str], *, page: str, stop: str
) -> dict[str, object]:
    """Return what a mail's templates say. ``source_of`` gives where the HTML finds a photograph; ``page`` and ``stop`` are its links."""
    client = mail.of.client
    return {
        "message": named(message, client), "edit_note": mail.edit_note, "client": client, "agent": client.agent, "team": client.team,
        "cards": [(number, card, source_of(card.images[0]) if card.images else "") for number, card in cards], "stop": stop,
        "page": page,
        "phone": client.agent.phone_to_give if client.agent else client.team.phone,
    }  # fmt: skip


def photographs(cards: Sequence[Card]) -> dict[int, tuple[bytes, str]]:
    """Return the first photograph of each card with its type, small enough for a mail; one that can't be made so is left out."""
    found = {}
    for image in StoredImage.objects.filter(pk__in=[card.images[0] for card in cards if card.images]):
        content, kind = bytes(image.content), image.content_type
        if len(content) > _PLAIN_BYTES:
            try:
                content, kind = run_bounded("jaded_ledger.core.picture_preview", content, _SECONDS), "image/jpeg"
            except EndedError:
                continue
        found[image.pk] = (content, kind)
    return found


def written(mail: ClientMail, message: str, cards: Sequence[tuple[int | None, Card]], stop: str) -> WrittenMail:
    """Return a mail as it is sent: its HTML finds photographs by their Content-ID (RFC 2392)."""
    images = photographs([card for _, card in cards])
    page = absolute(reverse("clients:page", args=[link_for_mail(mail.of.client)]))
    context = mail_context(mail, message, cards, lambda image: f"cid:{image}" if image in images else "", page=page, stop=stop)
    text, html = (render_to_string(f"clients/mail.{form}", context) for form in ("txt", "html"))
    return WrittenMail(text, html, images)
