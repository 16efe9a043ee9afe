"""The databases that every run of the tests begins with, loaded once: an empty one, migrated, and one that holds the demo.

    python -m tests.template find           prints the folder that has them, and ends with 1 where they have to be loaded first
    python -m tests.template load FOLDER    loads them, in a cluster that ``setup/cluster.py --into FOLDER`` then saves

They live next to the clusters, in ``templates/`` (for root under ``/var/lib/jaded-ledger``, else under ``var/``), one folder for each
state of the sources that loading them used: modules, migrations, texts, requirements. A manifest lists those with their SHA-256, so
an edit of a page or a test loads nothing again. The three used last stay; ``templates/`` can be deleted at any time.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import sys
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
EMPTY, DEMO = "test_jaded_ledger", "test_jaded_ledger_demo"
_KEPT = 3
# What processes beside the loading one import is not seen from here, so these count whole.
_WHOLE = ("core", "records", "intake", "demo")
_ALWAYS = ("requirements/base.txt", "setup/cluster.py", "tests/settings.py", "tests/template.py", "tests/support/clock.py")


def folder_of_tests() -> Path:
    """Return where what tests leave for the next run is kept."""
    return (Path("/var/lib/jaded-ledger") if os.getuid() == 0 else ROOT / "var") / "templates"


def _folders() -> list[Path]:
    return [path for path in folder_of_tests().glob("[0-9a-f]*") if path.is_dir()]


def _manifest_of(folder: Path) -> Path:
    return folder.with_suffix(".json")


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


def _migrations() -> list[str]:
    return sorted(str(path.relative_to(ROOT)) for path in ROOT.glob("jaded_ledger/*/migrations/*.py"))


def _manifest(used: Iterable[Path]) -> dict[str, str]:
    """Return the digest of each source by its path in the checkout."""
    whole = (
        path for part in _WHOLE for path in (ROOT / "jaded_ledger" / part).rglob("*") if path.suffix in (".py", ".txt", ".csv", ".json")
    )
    # What Python compiled follows from the sources, and another checkout has not compiled it yet.
    sources = (path for path in (*used, *whole) if path.suffix != ".pyc" and path.is_relative_to(ROOT / "jaded_ledger"))
    own = {path for path in sources if path.is_file()}
    return {name: _digest(ROOT / name) for name in sorted({*(str(path.relative_to(ROOT)) for path in own), *_migrations(), *_ALWAYS})}


def _fits(folder: Path) -> bool:
    """Return whether nothing that a template was loaded with has changed."""
    with suppress(OSError, ValueError):
        used = json.loads(_manifest_of(folder).read_text())
        return set(_migrations()) <= used.keys() and all(_digest(ROOT / name) == digest for name, digest in used.items())
    return False


def find() -> Path | None:
    """Return the folder of a template that this checkout's sources would load."""
    return next((folder for folder in _folders() if _fits(folder)), None)


def new_folder() -> Path:
    """Return the folder for a template that has to be loaded, named by all sources that it could use."""
    everything = _manifest(ROOT.glob("jaded_ledger/**/*.py"))
    return folder_of_tests() / hashlib.sha256(json.dumps(everything).encode()).hexdigest()[:16]


def delete_old() -> None:
    """Delete all templates but those used last."""
    for folder in sorted(_folders(), key=lambda one: one.stat().st_mtime, reverse=True)[_KEPT - 1 :]:
        _manifest_of(folder).unlink(missing_ok=True)
        shutil.rmtree(folder, ignore_errors=True)


def load(folder: Path) -> None:
    """Load both databases in the cluster that DATABASE_URL leads to, and write the manifest."""
    opened: set[Path] = set()
    sys.addaudithook(lambda event, given: opened.add(Path(given[0])) if event == "open" and isinstance(given[0], str) else None)
    import django

    django.setup()
    from datetime import datetime
    from zoneinfo import ZoneInfo

    from django.conf import settings
    from django.core.management import call_command
    from django.db import connection

    from jaded_ledger.demo.world import TODAY
    from tests.support.clock import machine_at

    def create(name: str, template: str) -> None:
        with connection._nodb_cursor() as cursor:
            cursor.execute(f'CREATE DATABASE "{name}" TEMPLATE "{template}" STRATEGY FILE_COPY')
        connection.close()
        connection.settings_dict["NAME"] = name

    # What is loaded is stamped by the clock: at midnight it is earlier than whatever a test does that day.
    with machine_at(datetime.combine(TODAY, datetime.min.time(), ZoneInfo(settings.TIME_ZONE))):
        create(EMPTY, "template0")
        call_command("migrate", verbosity=0)
        call_command("createcachetable", verbosity=0)
        connection.close()
        create(DEMO, EMPTY)
        call_command("demo", verbosity=0)
    with connection.cursor() as cursor:
        cursor.execute("VACUUM ANALYZE")
    connection.close()
    modules = {Path(module.__file__) for module in list(sys.modules.values()) if getattr(module, "__file__", None)}
    folder.parent.mkdir(parents=True, exist_ok=True)
    delete_old()
    _manifest_of(folder).write_text(json.dumps(_manifest(modules | opened), indent=1))


def main(words: list[str]) -> int:
    if words == ["find"]:
        found = find()
        print(found or new_folder())
        return 0 if found else 1
    if words[:1] == ["load"] and len(words) == 2:
        load(Path(words[1]))
        return 0
    print(__doc__, file=sys.stderr)
    return 2


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
