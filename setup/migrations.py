"""Migrations that databases have run stay as they are: their checksums, in ``setup/migrations.sha256``.

    migrations.py check [FOLDER]    fails for a migration that was edited, deleted or not added yet; bin/lint runs it
    migrations.py add [FOLDER]      adds new ones; it never replaces a checksum that is there

The one exception is a squash: a migration may be deleted when a listed one names it in ``replaces``.
"""

from __future__ import annotations

import ast
import hashlib
import sys
from pathlib import Path

CHECKOUT = Path(__file__).resolve().parent.parent
LIST = "setup/migrations.sha256"


def migrations(root: Path) -> dict[str, str]:
    """Return the SHA-256 of each migration by its path."""
    paths = sorted(root.glob("jaded_ledger/*/migrations/[0-9]*.py"))
    return {str(path.relative_to(root)): hashlib.sha256(path.read_bytes()).hexdigest() for path in paths}


def listed(root: Path) -> dict[str, str]:
    """Return what the list holds, written as sha256sum writes it."""
    path = root / LIST
    rows = (line.split("  ", 1) for line in path.read_text().splitlines()) if path.exists() else ()
    return {name: digest for digest, name in rows}


def replaced(root: Path, names: dict[str, str]) -> set[str]:
    """Return the paths of migrations that a squash stands for."""
    found = set()
    for name in names:
        for node in ast.walk(ast.parse((root / name).read_text())):
            if isinstance(node, ast.Assign) and any(isinstance(one, ast.Name) and one.id == "replaces" for one in node.targets):
                found |= {f"jaded_ledger/{app}/migrations/{replaced_name}.py" for app, replaced_name in ast.literal_eval(node.value)}
    return found


def faults(root: Path) -> list[str]:
    """Return what is wrong, a sentence each."""
    there, known = migrations(root), listed(root)
    squashed = replaced(root, there)
    edited = [name for name, digest in known.items() if name in there and there[name] != digest]
    deleted = [name for name in known if name not in there and name not in squashed]
    new = [name for name in there if name not in known]
    return [
        *(f"{name} was edited. Databases that ran it will not run it again: restore it and write a new migration." for name in edited),
        *(f"{name} was deleted. Restore it, or name it in the replaces of a squash." for name in deleted),
        *(f"{name} is not in {LIST}: python setup/migrations.py add" for name in new),
    ]


def add(root: Path) -> None:
    """Add new migrations to the list, and remove squashed ones that are gone."""
    there, known = migrations(root), listed(root)
    squashed = replaced(root, there)
    kept = {name: digest for name, digest in known.items() if name in there or name not in squashed}
    rows = {**{name: digest for name, digest in there.items() if name not in kept}, **kept}
    (root / LIST).write_text("".join(f"{digest}  {name}\n" for name, digest in sorted(rows.items())))


def main(words: list[str]) -> int:
    root = Path(words[1]) if len(words) == 2 else CHECKOUT
    if words[:1] == ["add"]:
        add(root)
    elif words[:1] != ["check"]:
        print(__doc__, file=sys.stderr)
        return 2
    found = faults(root)
    for fault in found:
        print(fault, file=sys.stderr)
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
