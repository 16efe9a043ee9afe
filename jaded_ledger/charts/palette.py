"""The colors of the one theme, for drawings that stand where there is no style sheet."""

from __future__ import annotations

import re
from functools import lru_cache
from pathlib import Path
from types import MappingProxyType

from django.contrib.staticfiles import finders

_ROLE = re.compile(r"--([a-z0-9-]+):\s*(#[0-9a-f]{6})")


@lru_cache(maxsize=1)
def colors() -> MappingProxyType[str, str]:
    """Return the light theme's colors by their roles, with underscores: a template's names hold no hyphens."""
    path = finders.find("web/theme.css")
    assert isinstance(path, str)
    light = Path(path).read_text(encoding="utf-8").partition("@media")[0]
    return MappingProxyType({role.replace("-", "_"): color for role, color in _ROLE.findall(light)})
