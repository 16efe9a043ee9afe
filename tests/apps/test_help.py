"""Help: each page explains itself, lists its keys, and a trait's meaning is found by typing."""

from __future__ import annotations

import re
from pathlib import Path

from django.urls import reverse
from django.utils.html import escape

import jaded_ledger
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.find.meaning_views import traits_called
from tests.support.demo import DemoTestCase

# Pages that somebody sees who isn't signed in, or where something went wrong.
WITHOUT = {
    "404.html",
    "403.html",
    "500.html",
    "503.html",
    "said.html",
    "sign_in.html",
    "code.html",
    "locked_out.html",
    "welcome.html",
    "unsubscribe.html",
    "page.html",
    "stop.html",
    "explained.html",
}


class Help(DemoTestCase):
    def test_every_page_explains_itself(self) -> None:
        folder = Path(jaded_ledger.__file__).parent
        pages = [path for path in folder.glob("*/templates/**/*.html") if '{% extends "web/base.html" %}' in path.read_text()]
        told = {path: re.findall(r"{% block help %}<p>(.+?)</p>{% endblock %}", path.read_text(), re.DOTALL) for path in pages}
        self.assertEqual({path.name for path, text in told.items() if not text}, WITHOUT)
        texts = [text for found in told.values() for text in found]
        self.assertEqual(len(set(texts)), len(texts))

    def test_traits_by_their_names_then_by_what_they_mean(self) -> None:
        self.assertEqual(traits_called("frontage")[0].key, "frontage")
        # What it is also called, and a word of what it means.
        self.assertIn("on-offer", [one.key for one in traits_called("on the market")])
        self.assertIn("waterfront", [one.key for one in traits_called("shore")])
        self.assertEqual(traits_called("  "), [])
        self.assertEqual(traits_called("no such thing"), [])
        for trait in CATALOGUE:
            with self.subTest(trait.key):
                self.assertIn(trait, traits_called(trait.label))

    def test_on_the_page(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get("/"), "A search is a ledger")
        page = self.client.get(reverse("find:meanings"), {"typed": "equity"})
        self.assertContains(page, escape(CATALOGUE["equity"].meaning.capitalize()))
        self.assertContains(self.client.get(reverse("find:meanings"), {"typed": "<script>"}), "No trait is called so")
        self.assertNotContains(self.client.get(reverse("find:meanings")), "<dl")
