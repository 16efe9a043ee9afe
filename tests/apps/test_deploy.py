"""What ``deploy/`` names is there: settings, commands, programs; units are read by systemd where it is on this machine."""

from __future__ import annotations

import re
import shutil
import subprocess
import tempfile
from pathlib import Path
from typing import Any

import yaml
from django.core.management import get_commands
from django.test import SimpleTestCase

ROOT = Path(__file__).resolve().parents[2]
DEPLOY = ROOT / "deploy"


class Deployment(SimpleTestCase):
    def files(self) -> list[Path]:
        return [path for path in DEPLOY.rglob("*") if path.is_file()]

    def test_settings_and_commands_that_are_named_exist(self) -> None:
        known = (ROOT / "jaded_ledger" / "settings.py").read_text()
        named = {name for file in self.files() for name in re.findall(r"JADED_LEDGER_[A-Z_]+", file.read_text())}
        self.assertGreater(len(named), 6)
        self.assertEqual([name for name in sorted(named) if name not in known], [])
        asked = {name for file in self.files() for name in re.findall(r"-m jaded_ledger ([a-z_]+)", file.read_text())}
        self.assertEqual(asked - set(get_commands()), set())
        self.assertLessEqual({"migrate", "backup", "rehearse_restore", "derive"}, asked)

    def test_units_are_as_systemd_reads_them(self) -> None:
        units = sorted((DEPLOY / "systemd").iterdir())
        self.assertEqual(len([unit for unit in units if unit.suffix == ".timer"]), 2)
        for unit in units:
            if unit.suffix == ".service" and "Type=oneshot" not in unit.read_text():
                self.assertIn("Restart=always", unit.read_text(), unit.name)
        program = shutil.which("systemd-analyze")
        if program is None:
            self.skipTest("systemd is not on this machine")
        with tempfile.TemporaryDirectory() as folder:
            # Programs are looked for where an installation has them.
            for unit in units:
                text = unit.read_text().replace("/opt/jaded-ledger/var/venv/bin/", "/usr/bin/").replace("/usr/bin/gunicorn", "/usr/bin/env")
                (Path(folder) / unit.name).write_text(text.replace("/usr/bin/python ", "/usr/bin/env python "))
            told = subprocess.run(
                [program, "verify", *(str(Path(folder) / unit.name) for unit in units)], capture_output=True, text=True, check=False
            )
            ours = [line for line in (told.stdout + told.stderr).splitlines() if "jaded-ledger" in line]
            self.assertEqual(ours, [])

    def test_the_composition_holds_together(self) -> None:
        found: dict[str, Any] = yaml.safe_load((DEPLOY / "compose.yaml").read_text())
        services = found["services"]
        self.assertEqual(set(services), {"database", "prepare", "web", "worker", "backup"})
        volumes = {
            one.split(":")[0] for service in services.values() for one in service.get("volumes", []) if not one.startswith((".", "/"))
        }
        self.assertEqual(volumes, set(found["volumes"]))
        for service in services.values():
            self.assertLessEqual(set(service.get("depends_on", {})), set(services))
        copied = re.findall(r"^COPY (\S+) ", (DEPLOY / "Dockerfile").read_text(), re.MULTILINE)
        self.assertTrue(all((ROOT / path).exists() for path in copied))
