"""What is raised for a value that can't be read."""

from __future__ import annotations


class ValueTextError(ValueError):
    """A value that can't be read: the word at fault, and what would be accepted."""

    def __init__(self, word: str, expected: str) -> None:
        super().__init__(f'"{word}" {expected}')
        self.word = word
