"""A second factor: codes as RFC 6238 computes them, recovery codes, who needs one, and what is closed until it is shown."""

from __future__ import annotations

import time
from binascii import unhexlify
from copy import copy

from django.test import Client, override_settings
from django.urls import reverse
from django_otp.oath import TOTP
from django_otp.plugins.otp_static.models import StaticDevice
from django_otp.plugins.otp_totp.models import TOTPDevice

from jaded_ledger.accounts import two_factor
from jaded_ledger.accounts.models import User
from jaded_ledger.demo.people import PASSWORD
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text
from tests.support.tiers import at_all_hours

SET_UP, CODE, YOU = (reverse(f"accounts:{name}") for name in ("two-factor", "code", "you"))


@at_all_hours
class SecondFactor(DemoTestCase):
    def setUp(self) -> None:
        self.signed_in()

    def signed_in(self, client: Client | None = None) -> Client:
        client = client or self.client
        client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        return client

    def shown(self) -> str:
        """Return what the user's authenticator shows, a step on from the last that was taken."""
        device = TOTPDevice.objects.get(user=self.user)
        clock = TOTP(device.bin_key, device.step, device.t0, device.digits)
        clock.time = time.time()
        return f"{clock.token() if clock.t() > device.last_t else self.next_of(clock):06d}"

    def next_of(self, clock: TOTP) -> int:
        clock.time += 30
        return clock.token()

    def set_up(self) -> list[str]:
        self.assertEqual(self.client.get(SET_UP).status_code, 200)
        page = self.client.post(SET_UP, {"do": "finish", "code": self.shown()})
        self.assertContains(page, "Your recovery codes")
        # The same code is taken once; the tests go on at once.
        TOTPDevice.objects.update(last_t=-1)
        return page.context["codes"]

    def test_codes_are_those_of_the_standard(self) -> None:
        # RFC 6238, appendix B: SHA-1, the secret "12345678901234567890", the last six of its eight digits.
        for moment, code in ((59, 287082), (1111111109, 81804), (1111111111, 50471), (1234567890, 5924), (2000000000, 279037)):
            clock = TOTP(b"12345678901234567890")
            clock.time = moment
            self.assertEqual(clock.token(), code)
        device = two_factor.begin(self.user)
        self.assertEqual(two_factor.secret_of(device).replace(" ", ""), device.config_url.split("secret=")[1].split("&")[0].rstrip("="))
        self.assertEqual(len(unhexlify(device.key)), 20)

    def test_set_up_and_asked_for_from_then_on(self) -> None:
        wrong = self.client.get(SET_UP) and self.client.post(SET_UP, {"do": "finish", "code": "000000"})
        self.assertContains(wrong, "not the code that the authenticator shows", status_code=400)
        self.assertFalse(two_factor.is_set_up(self.user))
        TOTPDevice.objects.update(throttling_failure_count=0)
        codes = self.set_up()
        self.assertEqual(len(set(codes)), 10)
        self.assertContains(self.client.get(YOU), "set up")
        # Elsewhere the password alone opens nothing any more.
        other = self.signed_in(Client())
        self.assertRedirects(other.get("/?q=beds:+3.."), f"{CODE}?next=/%3Fq%3Dbeds%3A%2B3..")
        self.assertRedirects(other.get(SET_UP), CODE)
        self.assertRedirects(other.post(reverse("find:change"), {"do": "add"}), CODE, fetch_redirect_response=False)
        self.assertContains(other.post(CODE, {"code": "123"}), "not a code of yours", status_code=400)
        # Who is in is led back; a way back that is the name of nothing breaks nothing.
        self.assertEqual(self.client.get(CODE, {"next": "any of:"}).status_code, 302)
        self.assertRedirects(other.post(CODE, {"code": self.shown(), "next": "/lists/"}), "/lists/")
        self.assertEqual(other.get("/").status_code, 200)
        # A part of a page is not where it is asked for.
        third = self.signed_in(Client())
        part = third.get("/", headers={"HX-Request": "true", "HX-Current-URL": "http://testserver/lists/?sort=name"})
        self.assertEqual((part.status_code, part["HX-Redirect"]), (204, f"{CODE}?next=%2Flists%2F%3Fsort%3Dname"))

    def test_a_recovery_code_is_good_once_and_wrong_ones_make_one_wait(self) -> None:
        codes = self.set_up()
        for client, answer in ((self.signed_in(Client()), 302), (self.signed_in(Client()), 400)):
            self.assertEqual(client.post(CODE, {"code": codes[0].upper()}).status_code, answer)
        self.assertEqual(two_factor.codes_left(self.user), 9)
        stuck = self.signed_in(Client())
        for _ in range(3):
            said = stuck.post(CODE, {"code": "123456"})
        self.assertRegex(page_text(said.content), r"is taken in \d+ seconds?")
        self.assertEqual(stuck.post(CODE, {"code": self.shown()}).status_code, 400, "the right one no sooner")

    def test_new_codes_and_taking_it_away_ask_for_the_password(self) -> None:
        codes = self.set_up()
        self.assertContains(self.client.post(SET_UP, {"do": "take-away", "password": "x"}), "not your password", status_code=400)
        fresh = self.client.post(SET_UP, {"do": "codes", "password": PASSWORD}).context["codes"]
        self.assertFalse(set(codes) & set(fresh))
        self.assertRedirects(self.client.post(SET_UP, {"do": "take-away", "password": PASSWORD}), YOU)
        self.assertFalse(TOTPDevice.objects.exists() or StaticDevice.objects.exists())
        self.assertEqual(self.signed_in(Client()).get("/").status_code, 200)

    def test_who_needs_one(self) -> None:
        User.objects.filter(pk=self.user.pk).update(is_staff=False)
        for required, leads in (({"owner"}, True), ({"agent", "reader", "staff"}, False), ({"owner", "staff"}, True), (set(), False)):
            with override_settings(TWO_FACTOR=frozenset(required)):
                answer = self.signed_in(Client()).get("/")
                self.assertEqual(answer.status_code, 302 if leads else 200, required)
                if leads:
                    self.assertTrue(answer.url.startswith(SET_UP))
        User.objects.filter(pk=self.user.pk).update(is_staff=True)
        with override_settings(TWO_FACTOR=frozenset({"staff"})):
            client = self.signed_in(Client())
            self.assertEqual(client.get("/").status_code, 302)
            self.set_up()
            kept = self.client.post(SET_UP, {"do": "take-away", "password": PASSWORD})
            self.assertContains(kept, "needs a second factor", status_code=403)
            self.assertTrue(two_factor.is_set_up(self.user))

    def test_staff_take_a_lost_one_away(self) -> None:
        self.set_up()
        before = copy(self.client.cookies)
        answer = self.client.post(
            reverse("admin:accounts_user_changelist"),
            {"action": "take_second_factor_away", "_selected_action": [self.user.pk]},
            follow=True,
        )
        self.assertContains(answer, "signs in with the password alone")
        self.client.cookies = before
        self.assertEqual(self.client.get("/").status_code, 200)
