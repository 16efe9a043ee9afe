"""The core computes with values: each of its dataclasses is frozen, so that nothing that was handed on changes later."""

from __future__ import annotations

import dataclasses
import inspect
import pkgutil
import unittest
from importlib import import_module

from jaded_ledger import core


class Values(unittest.TestCase):
    def test_every_dataclass_is_frozen(self) -> None:
        found = set()
        for module in pkgutil.walk_packages(core.__path__, f"{core.__name__}."):
            for _, made in inspect.getmembers(import_module(module.name), inspect.isclass):
                if dataclasses.is_dataclass(made) and made.__module__ == module.name:
                    found.add(made)
        self.assertGreater(len(found), 100)
        self.assertEqual([made for made in found if not made.__dataclass_params__.frozen], [])  # type: ignore[attr-defined]
