"""Where apps add themselves to the program without a change of those to their left.

``hookspecs`` tells every place. An app fills one with a function of that name, marked ``@hookimpl``, in its module ``plugin``; all such
modules are loaded when Django starts. ``hooks.navigation()`` and the like return what each app gave, a list for each.
"""

from __future__ import annotations

from collections.abc import Iterable
from itertools import chain
from typing import TypeVar

import pluggy

T = TypeVar("T")

_PROJECT = "jaded_ledger"
hookspec = pluggy.HookspecMarker(_PROJECT)
hookimpl = pluggy.HookimplMarker(_PROJECT)
manager = pluggy.PluginManager(_PROJECT)
hooks = manager.hook


def in_order(given: Iterable[Iterable[T]]) -> list[T]:
    """Return what all apps gave to a place, by ``order``."""
    return sorted(chain.from_iterable(given), key=lambda entry: entry.order)  # type: ignore[attr-defined]
