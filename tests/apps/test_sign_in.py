"""Coming in: how many tries, from where, for how long; what a browser keeps; a provider's word for who somebody is."""

from __future__ import annotations

import json
import threading
import time
from datetime import timedelta
from http.server import BaseHTTPRequestHandler, HTTPServer
from ipaddress import ip_network
from typing import Any
from unittest import mock
from urllib.parse import parse_qs, urlsplit

import jwt
from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from cryptography.hazmat.primitives.asymmetric import rsa
from django.conf import settings
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management import call_command
from django.http import HttpResponse
from django.test import Client, RequestFactory, SimpleTestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from jaded_ledger.accounts import sign_in
from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.sign_in import Slower, client_address
from jaded_ledger.accounts.tasks import forget_tries
from jaded_ledger.demo.people import PASSWORD
from tests.support.addresses import patterns
from tests.support.demo import DemoTestCase
from tests.support.tiers import at_all_hours

SIGN_IN = reverse("accounts:sign-in")
OURS = override_settings(TRUSTED_PROXIES=[ip_network("10.0.0.0/24"), ip_network("fd00::/8")])


class Addresses(SimpleTestCase):
    def told(self, connection: str, forwarded: str = "") -> str:
        return client_address(
            RequestFactory().get("/", REMOTE_ADDR=connection, headers={"X-Forwarded-For": forwarded} if forwarded else {})
        )

    def test_what_a_stranger_writes_is_not_believed(self) -> None:
        self.assertEqual(self.told("203.0.113.9", "198.51.100.1"), "203.0.113.9")

    @OURS
    def test_what_trusted_proxies_write_is(self) -> None:
        for connection, forwarded, address in (
            ("10.0.0.7", "198.51.100.1", "198.51.100.1"),
            ("10.0.0.7", "192.0.2.66, 198.51.100.1", "198.51.100.1"),
            ("10.0.0.7", "192.0.2.66, 198.51.100.1, 10.0.0.8", "198.51.100.1"),
            ("fd00::7", "2001:db8::5", "2001:db8::5"),
            ("10.0.1.0", "198.51.100.1", "10.0.1.0"),
            ("10.0.0.7", "198.51.100.1, nonsense", "10.0.0.7"),
            ("10.0.0.7", "", "10.0.0.7"),
            ("10.0.0.7", "10.0.0.9", "10.0.0.9"),
        ):
            self.assertEqual(self.told(connection, forwarded), address, forwarded)


@at_all_hours
class Tries(DemoTestCase):
    def tried(self, address: str, name: str = "nora", password: str = "wrong") -> int:
        return Client(REMOTE_ADDR=address).post(SIGN_IN, {"username": name, "password": password}).status_code

    def test_trying_on_does_not_prolong_it(self) -> None:
        for _ in range(5):
            status = self.tried("10.1.1.1")
        self.assertEqual(status, 429)
        since = AccessAttempt.objects.get().attempt_time
        self.assertEqual(self.tried("10.1.1.1"), 429)
        self.assertEqual((AccessAttempt.objects.get().attempt_time, AccessFailureLog.objects.count()), (since, 5))
        AccessAttempt.objects.update(attempt_time=since - settings.AXES_COOLOFF_TIME - timedelta(seconds=1))
        self.assertEqual(self.tried("10.1.1.1", password=PASSWORD), 302)

    def test_behind_a_proxy_one_does_not_shut_out_another(self) -> None:
        with OURS:
            for _ in range(6):
                Client(REMOTE_ADDR="10.0.0.7").post(
                    SIGN_IN, {"username": "nora", "password": "wrong"}, headers={"X-Forwarded-For": "192.0.2.1"}
                )
            client = Client(REMOTE_ADDR="10.0.0.7")
            answer = client.post(SIGN_IN, {"username": "nora", "password": PASSWORD}, headers={"X-Forwarded-For": "192.0.2.2"})
            self.assertEqual(answer.status_code, 302)

    def test_a_name_from_everywhere_but_not_where_its_owner_comes_from(self) -> None:
        self.assertEqual(self.tried("10.9.9.9", password=PASSWORD), 302)
        with mock.patch.object(sign_in, "BY_NAME", Slower(6, timedelta(days=1))):
            statuses = [self.tried(f"10.1.1.{number}") for number in range(6)]
            self.assertEqual(set(statuses), {200})
            self.assertEqual(self.tried("10.1.1.77", password=PASSWORD), 429)
            self.assertEqual(self.tried("10.1.1.78", "somebody-else"), 200)
            self.assertEqual(self.tried("10.9.9.9", password=PASSWORD), 302)
            AccessFailureLog.objects.update(attempt_time=timezone.now() - timedelta(days=1, seconds=1))
            self.assertEqual(self.tried("10.1.1.77", password=PASSWORD), 302)

    def test_an_address_for_all_names(self) -> None:
        with mock.patch.object(sign_in, "BY_ADDRESS", Slower(6, timedelta(hours=1))):
            self.assertEqual({self.tried("10.1.1.1", f"name-{number}") for number in range(6)}, {200})
            self.assertEqual(self.tried("10.1.1.1", password=PASSWORD), 429)
            self.assertEqual(self.tried("10.1.1.2", password=PASSWORD), 302)
            call_command("axes_reset", stdout=mock.Mock())
            self.assertEqual(self.tried("10.1.1.1", password=PASSWORD), 302)

    def test_tries_that_no_limit_asks_for_are_forgotten(self) -> None:
        for password in ("wrong", PASSWORD):
            self.tried("10.1.1.1", password=password)
        AccessLog.objects.update(attempt_time=timezone.now() - sign_in.KNOWN_FOR)
        forget_tries(0)
        self.assertEqual((AccessFailureLog.objects.count(), AccessLog.objects.count()), (1, 1))
        AccessLog.objects.update(attempt_time=timezone.now() - sign_in.KNOWN_FOR - timedelta(days=1, seconds=1))
        forget_tries(0)
        self.assertEqual((AccessFailureLog.objects.count(), AccessLog.objects.count()), (1, 0))


@at_all_hours
class Sessions(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def aged(self, **seconds: int) -> HttpResponse:
        session = self.client.session
        for name, value in seconds.items():
            session[name] -= value
        session.save()
        return self.client.get("/lists/")

    def test_ends_after_its_length_and_after_idling(self) -> None:
        idle, length = settings.IDLE_SECONDS, settings.SESSION_SECONDS
        self.assertEqual(self.aged(seen_at=idle - 5).status_code, 200)
        self.assertGreater(self.client.session["seen_at"], time.time() - 5, "being there is noted")
        self.assertRedirects(self.aged(seen_at=idle), f"{SIGN_IN}?next=/lists/", fetch_redirect_response=False)
        self.assertContains(self.client.get(SIGN_IN), "signed out after a while")
        self.setUp()
        self.assertEqual(self.aged(signed_in_at=length - 5).status_code, 200)
        self.assertEqual(self.aged(signed_in_at=5).status_code, 302)

    def test_a_new_password_ends_the_others(self) -> None:
        elsewhere = Client()
        elsewhere.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        page, new = reverse("accounts:password"), "seven tin lanterns"
        for first, second, old, says in (
            (new, new, "wrong", "entered incorrectly"), (new, "other", PASSWORD, "match"),
            ("elevenchars", "elevenchars", PASSWORD, "12 characters"),
            ("123456789012", "123456789012", PASSWORD, "entirely numeric"), ("1qaz2wsx3edc", "1qaz2wsx3edc", PASSWORD, "too common"),
        ):  # fmt: skip
            answer = self.client.post(page, {"old_password": old, "new_password1": first, "new_password2": second})
            self.assertContains(answer, says)
        self.assertRedirects(self.client.post(page, {"old_password": PASSWORD, "new_password1": new, "new_password2": new}), "/you/")
        self.assertEqual((self.client.get("/").status_code, elsewhere.get("/").status_code), (200, 302))

    def test_twelve_characters_are_enough_and_eleven_are_not(self) -> None:
        validate_password("tin lanterns")
        with self.assertRaisesMessage(ValidationError, "at least 12 characters"):
            validate_password("tin lantern")

    def test_nothing_of_what_is_seen_is_stored(self) -> None:
        for path in ("/", "/lists/", "/deals/", "/records/", "/outreach/sent/", "/you/"):
            self.assertIn("no-store", self.client.get(path)["Cache-Control"], path)

    def test_without_a_team_nothing_is_seen(self) -> None:
        stray = User.objects.create_user("stray", password="x")
        self.client.force_login(stray, backend="django.contrib.auth.backends.ModelBackend")
        own = {reverse(f"accounts:{name}") for name in ("you", "roles", "password", "two-factor", "code", "sign-in", "sign-out")}
        for pattern in patterns():
            if "<" in pattern or pattern in own or pattern.startswith(("/sign-in", "/welcome")):
                continue
            status = self.client.get(pattern).status_code
            # The staff pages lead to their own sign-in; some addresses are only posted to.
            self.assertIn(status, (302, 403) if pattern.startswith("/staff/") else (403, 405), pattern)


class Provider(BaseHTTPRequestHandler):
    """A provider of OpenID Connect, as far as signing in asks it."""

    key = rsa.generate_private_key(public_exponent=65537, key_size=2048)
    said: dict[str, Any] = {}
    claims: dict[str, Any] = {}

    def log_message(self, *_: Any) -> None:
        """Say nothing."""

    def answer(self, content: Any) -> None:
        body = json.dumps(content).encode()
        self.send_response(200)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def do_POST(self) -> None:
        self.rfile.read(int(self.headers["Content-Length"]))
        token = jwt.encode(self.said, self.key, algorithm="RS256", headers={"kid": "one"})
        self.answer({"access_token": "a", "id_token": token, "token_type": "Bearer"})

    def do_GET(self) -> None:
        if self.path == "/keys":
            public = json.loads(jwt.algorithms.RSAAlgorithm.to_jwk(self.key.public_key()))
            self.answer({"keys": [public | {"kid": "one", "alg": "RS256", "use": "sig"}]})
        else:
            self.answer(self.claims)


class SingleSignOn(DemoTestCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        server = HTTPServer(("127.0.0.1", 0), Provider)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        cls.addClassCleanup(server.server_close)
        cls.addClassCleanup(server.shutdown)
        cls.issuer = f"http://127.0.0.1:{server.server_port}"
        cls.enterClassContext(
            override_settings(
                SINGLE_SIGN_ON={"ISSUER": cls.issuer}, OIDC_ISSUER=cls.issuer, OIDC_RP_CLIENT_ID="ledger", OIDC_RP_CLIENT_SECRET="s",
                OIDC_OP_AUTHORIZATION_ENDPOINT=f"{cls.issuer}/leave", OIDC_OP_TOKEN_ENDPOINT=f"{cls.issuer}/token",
                OIDC_OP_USER_ENDPOINT=f"{cls.issuer}/user", OIDC_OP_JWKS_ENDPOINT=f"{cls.issuer}/keys",
                AUTHENTICATION_BACKENDS=[*settings.AUTHENTICATION_BACKENDS, "jaded_ledger.accounts.single_sign_on.SingleSignOn"],
            )
        )  # fmt: skip

    def come_back(self, *, said: dict[str, Any] | None = None, claims: dict[str, Any] | None = None, state: str = "") -> HttpResponse:
        """Leave for the provider and come back from it; what it says may be bent."""
        away = self.client.get(reverse("accounts:sign-in-elsewhere"), {"next": "/lists/"})
        asked = parse_qs(urlsplit(away.url).query)
        self.assertTrue(away.url.startswith(f"{self.issuer}/leave?"))
        self.assertEqual(asked["code_challenge_method"], ["S256"])
        now = int(time.time())
        Provider.said = {"iss": self.issuer, "aud": "ledger", "sub": "1", "iat": now, "exp": now + 60, "nonce": asked["nonce"][0]} | (
            said or {}
        )
        Provider.claims = {"sub": "1", "email": "NORA@example.com", "email_verified": True} | (claims or {})
        return self.client.get(reverse("accounts:come-back"), {"state": state or asked["state"][0], "code": "c"})

    def test_in_and_where_one_wanted_to_go(self) -> None:
        self.assertRedirects(self.come_back(), "/lists/")
        self.assertEqual(int(self.client.session["_auth_user_id"]), self.user.pk)

    def test_how_many_factors_it_takes_is_said_there(self) -> None:
        with override_settings(TWO_FACTOR=frozenset({"owner"})):
            self.come_back()
            self.assertEqual(self.client.get("/lists/").status_code, 200)

    def test_nobody_comes_in_on_a_word_that_is_not_good(self) -> None:
        now = int(time.time())
        for bent in (
            {"said": {"aud": "another"}}, {"said": {"aud": ["a", "b"]}}, {"said": {"iss": "http://elsewhere"}}, {"said": {"nonce": "x"}},
            {"said": {"exp": now - 3600, "iat": now - 7200}}, {"claims": {"email_verified": False}}, {"claims": {"email": ""}},
            {"claims": {"email": "nobody@example.com"}}, {"claims": {"email_verified": "true"}},
        ):  # fmt: skip
            with self.subTest(bent):
                answer = self.come_back(**bent)
                self.assertRedirects(answer, SIGN_IN, fetch_redirect_response=False)
                self.assertContains(self.client.get(SIGN_IN), "did not let you in")
                self.assertNotIn("_auth_user_id", self.client.session)
        self.assertEqual(self.come_back(state="another").status_code, 400)

    def test_nor_who_is_inactive_nor_two_with_one_address(self) -> None:
        User.objects.create_user("twin", email="nora@example.com")
        self.assertRedirects(self.come_back(), SIGN_IN)
        User.objects.filter(username="twin").delete()
        User.objects.filter(pk=self.user.pk).update(is_active=False)
        self.assertRedirects(self.come_back(), SIGN_IN)
