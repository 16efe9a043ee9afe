"""What import-linter does not see: views that are imported from elsewhere, and addresses in templates of apps to the right."""

from __future__ import annotations

import ast
import re
import tomllib
import unittest
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
PROGRAM = ROOT / "jaded_ledger"


def layers() -> dict[str, int]:
    """Return how far to the left each app is, as ``pyproject.toml`` has them; siblings that must not know one another are as far."""
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
    levels = [level for layer in contracts[0]["layers"] for level in layer.split(":")]
    return {name.strip().rpartition(".")[2]: rank for rank, level in enumerate(levels) for name in level.split("|")}


def imported(path: Path) -> Iterator[str]:
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield from (f"{node.module}.{alias.name}" for alias in node.names)


class Layers(unittest.TestCase):
    def test_views_are_imported_by_their_own_app_alone(self) -> None:
        checked = 0
        for path in PROGRAM.rglob("*.py"):
            app = path.relative_to(PROGRAM).parts[0]
            for name in imported(path):
                owner = re.match(r"jaded_ledger\.(\w+)\.(?:\w+_)?views\b", name)
                checked += owner is not None
                self.assertTrue(owner is None or owner[1] == app, f"{path} imports {name}")
        self.assertGreater(checked, 5)

    def test_no_address_of_an_app_to_the_right_is_named(self) -> None:
        order = layers()
        self.assertLess(order["find"], order["records"])
        self.assertEqual(order["comps"], order["contacts"])
        named = re.compile(r"""(?:{% url |reverse(?:_lazy)?\(|redirect\()["'](\w+):""")
        for path in (*PROGRAM.rglob("*.html"), *PROGRAM.rglob("*/*.py")):
            app = path.relative_to(PROGRAM).parts[0]
            for other in set(named.findall(path.read_text())) - {app, "admin"}:
                self.assertGreater(order[other], order[app], f"{path} names {other}: give it to the hook `pages`")
