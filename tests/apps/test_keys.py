"""One table of keys: every page takes its keys from it, and a key does the same wherever it is pressed."""

from __future__ import annotations

import re
from pathlib import Path

from django.test import SimpleTestCase

from jaded_ledger.properties.property_acts import property_acts
from jaded_ledger.watch.views import TYPED_ACTS
from jaded_ledger.web.keys import KEYS, ON_A_LINE

_ROOT = Path(__file__).resolve().parents[2] / "jaded_ledger"
_TEMPLATES = sorted(_ROOT.glob("*/templates/**/*.html"))
_FIND = {"find", "charts", "maps", "searches"}
_PRESSED = re.compile(r'data-key="([^"{]+)"')


class KeysOfAllPages(SimpleTestCase):
    def test_every_key_of_a_page_is_in_the_table(self) -> None:
        used = {key for path in _TEMPLATES for key in _PRESSED.findall(path.read_text())}
        self.assertGreater(len(used), 12)
        self.assertEqual(used - set(KEYS), set())

    def test_every_key_that_a_page_s_help_names_is_in_the_table(self) -> None:
        named = [
            (path.name, key)
            for path in _TEMPLATES
            for keys in re.findall(r'{% keys_here "([^"]+)" %}', path.read_text())
            for key in keys.split("|")
        ]
        self.assertGreater(len(named), 20)
        self.assertEqual([one for one in named if one[1] not in KEYS], [])

    def test_a_key_on_a_line_is_no_key_of_that_page(self) -> None:
        pages = [path for path in _TEMPLATES if path.relative_to(_ROOT).parts[0] in _FIND]
        used = {key for path in pages for key in _PRESSED.findall(path.read_text())}
        self.assertEqual(used & set(ON_A_LINE), set())

    def test_acts_have_the_keys_that_the_table_gives_them(self) -> None:
        """Whatever a property's page or the morning calls it: it is one of the words by which the table tells the key."""
        acts = [(act.label, act.shortcut) for act in property_acts()]
        acts += [(act.label, act.key) for act in TYPED_ACTS]
        self.assertGreater(len(acts), 12)
        for label, key in acts:
            with self.subTest(label):
                self.assertIn(label.split()[-1], KEYS[key])
        own = [act.shortcut for act in property_acts()]
        self.assertEqual(len(own), len(set(own)))

    def test_single_keys_of_scripts_are_in_the_table(self) -> None:
        """Scripts that handle keys by themselves, on a map or a row, name keys of the table, or keys that write nothing."""
        named = set()
        for path in _ROOT.glob("*/static/**/*.js"):
            if "vendor" not in path.parts:
                named |= set(re.findall(r'event\.key === "(.)"', path.read_text()))
        self.assertGreater(len(named), 3)
        of_the_map = {"0", "-"}
        self.assertEqual(named - set(KEYS) - set(ON_A_LINE) - of_the_map, set())
