"""Signing in through a provider of one's own, by OpenID Connect Core 1.0; a setting, off without it."""

from __future__ import annotations

from typing import Any

import jwt
from django.conf import settings
from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core.exceptions import SuspiciousOperation
from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from mozilla_django_oidc.auth import OIDCAuthenticationBackend
from mozilla_django_oidc.views import OIDCAuthenticationCallbackView, OIDCAuthenticationRequestView
from requests import RequestException

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.two_factor import SIGNED_ON_ELSEWHERE

REFUSED = (
    "Your provider did not let you in here, or nobody here has the e-mail address that it vouches for. Ask whoever runs this installation."
)


class SingleSignOn(OIDCAuthenticationBackend):
    """Lets in the one active user who has the e-mail address that the provider says it has verified. Nobody is made by it."""

    def verify_token(self, token: str, **kwargs: Any) -> Any:
        """Return what a token says. Raises SuspiciousOperation unless it is our provider's, for us, and of now."""
        try:
            said = super().verify_token(token, **kwargs)
        except jwt.PyJWTError as error:
            raise SuspiciousOperation("The provider's token can't be believed.") from error
        audience = said.get("aud")
        is_ours = settings.OIDC_RP_CLIENT_ID in (audience if isinstance(audience, list) else [audience])
        # The library leaves these two to whoever uses it (OpenID Connect Core 1.0, 3.1.3.7).
        if said.get("iss") != settings.OIDC_ISSUER or not is_ours:
            raise SuspiciousOperation("The provider's token is of somebody else, or for somebody else.")
        return said

    def verify_claims(self, claims: dict[str, Any]) -> bool:
        return bool(claims.get("email")) and claims.get("email_verified") is True

    def filter_users_by_claims(self, claims: dict[str, Any]) -> QuerySet[User]:
        found = User.objects.filter(email__iexact=claims["email"], is_active=True)
        return found if found.count() == 1 else found.none()

    def authenticate(self, request: HttpRequest | None, **kwargs: Any) -> User | None:
        try:
            return super().authenticate(request, **kwargs)
        except (RequestException, SuspiciousOperation):
            return None


class _Back(OIDCAuthenticationCallbackView):
    def login_success(self) -> HttpResponse:
        answer = super().login_success()
        self.request.session[SIGNED_ON_ELSEWHERE] = True
        return answer

    def login_failure(self) -> HttpResponse:
        messages.error(self.request, REFUSED)
        return redirect(reverse("accounts:sign-in"))


def _check_is_set() -> None:
    if not settings.SINGLE_SIGN_ON:
        raise Http404("Single sign-on is not set up here.")


@login_not_required
def leave(request: HttpRequest) -> HttpResponse:
    """Lead to the provider."""
    _check_is_set()
    return OIDCAuthenticationRequestView.as_view()(request)


@login_not_required
def come_back(request: HttpRequest) -> HttpResponse:
    """Take what the provider says of whoever comes back from it."""
    _check_is_set()
    return _Back.as_view()(request)
