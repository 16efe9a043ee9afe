"""A keyboard that counts."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Page


class Keys:
    """The keyboard, with every key counted: a story says how many it takes at most."""

    def __init__(self, page: Page) -> None:
        self._keyboard, self.count = page.keyboard, 0

    def press(self, key: str) -> None:
        self.count += 1
        self._keyboard.press(key)

    def type(self, text: str) -> None:
        self.count += len(text)
        self._keyboard.type(text)

    @contextmanager
    def at_most(self, most: int) -> Iterator[None]:
        """Raise AssertionError where more keys are pressed within."""
        before = self.count
        yield
        assert self.count - before <= most, f"{self.count - before} keys, and {most} at most"
