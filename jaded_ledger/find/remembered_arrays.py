"""Arrays that a process remembers by what they answer: as many as there is room for, those asked for last."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock

import numpy as np


class RememberedArrays:
    """Arrays by their keys, of ``most_bytes`` together."""

    def __init__(self, most_bytes: int) -> None:
        self._most, self._bytes = most_bytes, 0
        self._lock, self._held = Lock(), OrderedDict[Hashable, np.ndarray]()

    def get(self, key: Hashable) -> np.ndarray | None:
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
            return self._held.get(key)

    def put(self, key: Hashable, array: np.ndarray) -> None:
        with self._lock:
            if key in self._held:
                self._bytes -= self._held.pop(key).nbytes
            self._held[key] = array
            self._bytes += array.nbytes
            while self._bytes > self._most:
                self._bytes -= self._held.popitem(last=False)[1].nbytes
