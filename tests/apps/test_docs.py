"""What the docs name is there: files, folders, modules and what is in them, commands, and links from page to page."""

from __future__ import annotations

import importlib
import re
from pathlib import Path

from django.core.management import get_commands
from django.test import SimpleTestCase

from tests.benchmarks.scale import table

ROOT = Path(__file__).resolve().parents[2]
PAGES = [*ROOT.glob("*.md"), *(ROOT / "docs").rglob("*.md")]
_NAMED = re.compile(r"`([^`\n]+)`")
_PATH = re.compile(r"[\w.-]+(?:/[\w.-]+)+/?|\w+\.(?:py|md|toml|lark|js|css|html)")
_APPS = (
    "core plugins web records intake accounts made_files find charts lists properties maps searches clients comps contacts worksheets "
    "mailings watch simulators demo setup"
).split()
_DOTTED = re.compile(rf"(?:{'|'.join(_APPS)})(?:\.\w+)+")
_LINK = re.compile(r"\]\(([^)#:]+)\)")


def named() -> list[tuple[Path, str]]:
    """Return everything that the docs set as code, with the page."""
    return [(page, text) for page in PAGES for text in _NAMED.findall(page.read_text())]


class Docs(SimpleTestCase):
    def test_every_path_is_there(self) -> None:
        # What a page calls so is somebody's file, or made when the program runs.
        theirs = ("AB-1002/", "odell-marsh/", "var/", "/var/lib/", "http", "jaded_ledger/postcards/", "templates/postcards/")
        for page, text in named():
            # A date as people write it is no path.
            is_path = _PATH.fullmatch(text) and not text[0].isdigit() and not text.startswith(theirs) and " " not in text
            if is_path and "://" not in text:
                places = (ROOT / text, ROOT / "jaded_ledger" / text, ROOT / "docs" / text, *ROOT.glob(f"jaded_ledger/**/{text}"))
                with self.subTest(page=page.name, path=text):
                    self.assertTrue(any(place.exists() for place in places))

    def test_every_module_and_what_it_holds_is_there(self) -> None:
        for page, text in named():
            name = text.split("(")[0]
            if _DOTTED.fullmatch(name):
                with self.subTest(page=page.name, name=text):
                    self.assertIsNotNone(self.found(name))

    def found(self, dotted: str) -> object:
        """Return what a dotted name leads to, a field of a model too; None where it leads nowhere."""
        parts = dotted.split(".")
        root = "" if parts[0] == "setup" else "jaded_ledger."
        for length in range(len(parts), 0, -1):
            try:
                made = importlib.import_module(root + ".".join(parts[:length]))
            except ModuleNotFoundError:
                continue
            for attribute in parts[length:]:
                made = getattr(made, attribute, None) or getattr(made, "__annotations__", {}).get(attribute)
            return made
        return None

    def test_what_more_counties_would_need_is_what_is_reckoned(self) -> None:
        self.assertIn(table(), (ROOT / "docs" / "scale.md").read_text())

    def test_every_link_leads_somewhere(self) -> None:
        for page in PAGES:
            for link in _LINK.findall(page.read_text()):
                with self.subTest(page=page.name, link=link):
                    self.assertTrue((page.parent / link).exists())

    def test_every_command_is_there(self) -> None:
        commands = get_commands()
        for page in PAGES:
            for command in re.findall(r"bin/manage ([a-z_]+)", page.read_text()):
                with self.subTest(page=page.name, command=command):
                    self.assertIn(command, commands)
        for page in PAGES:
            for script in re.findall(r"`?bin/(\w+)", page.read_text()):
                self.assertTrue((ROOT / "bin" / script).exists(), f"{page.name}: bin/{script}")
