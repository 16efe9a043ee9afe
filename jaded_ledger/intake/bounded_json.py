"""How deep JSON is nested and how long its items are, told from its bytes before they are parsed.

A parser may need the square of the depth in memory, and many times an item's length.
"""

from __future__ import annotations

import re
from itertools import accumulate
from typing import BinaryIO

_ESCAPED = re.compile(rb"\\.", re.DOTALL)
_STEP = {ord("{"): 1, ord("["): 1, ord("}"): -1, ord("]"): -1}
_NO_BRACKET = bytes(set(range(256)) - _STEP.keys())


class TooDeepError(ValueError):
    """The JSON is nested deeper than it may be."""


class TooLongError(ValueError):
    """An item of the JSON is longer than it may be."""


class BoundedJson:
    """A file of JSON (RFC 8259) to read from that gives no bytes in which it is nested deeper than ``most``, nor more than ``longest``
    since an item began.
    """

    def __init__(self, handle: BinaryIO, most: int, longest: int) -> None:
        self._handle = handle
        self._most = most
        self._longest = longest
        self._since = 0
        self._depth = 0
        self._is_in_string = False
        self._cut_off = b""

    def begin_item(self) -> None:
        """Say that an item was read to its end."""
        self._since = 0

    def read(self, size: int = -1) -> bytes:
        """Return the next bytes. Raises TooDeepError and TooLongError."""
        block = self._handle.read(size)
        self._since += len(block)
        if self._since > self._longest:
            raise TooLongError(f"an item of it has more than {self._longest / 1e6:,.0f} MB")
        self._count(self._cut_off + block)
        return block

    def _count(self, block: bytes) -> None:
        # An escape may be cut in two: the last of an odd number of backslashes waits for the next block.
        is_cut = (len(block) - len(block.rstrip(b"\\"))) % 2
        block, self._cut_off = (block[:-1], b"\\") if is_cut else (block, b"")
        pieces = _ESCAPED.sub(b"", block).split(b'"')
        # Brackets within texts are text.
        outside = b"".join(pieces[1 if self._is_in_string else 0 :: 2]).translate(None, _NO_BRACKET)
        self._is_in_string ^= len(pieces) % 2 == 0
        depths = list(accumulate(map(_STEP.__getitem__, outside), initial=self._depth))
        if max(depths) > self._most:
            raise TooDeepError(f"it is nested more than {self._most} deep")
        self._depth = depths[-1]
