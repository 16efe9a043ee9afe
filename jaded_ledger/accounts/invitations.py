"""Links by which somebody chooses a password: good once, and for three days."""

from __future__ import annotations

from django.contrib.auth.tokens import default_token_generator
from django.urls import reverse
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode

from jaded_ledger.accounts.models import User


def invitation(user: User) -> str:
    """Return the path that lets a user choose a password. It no longer works once one was chosen (PASSWORD_RESET_TIMEOUT: three days)."""
    key = urlsafe_base64_encode(force_bytes(user.pk))
    return reverse("accounts:welcome", args=[key, default_token_generator.make_token(user)])
