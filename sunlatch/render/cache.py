"""Results by the hash of everything they depend on, bounded in bytes."""

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any

import numpy as np


def key_of(*parts: Any) -> str:
    """A short hash of canonical JSON; floats keep all their digits."""
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), allow_nan=False)
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


class ByteCache:
    """Arrays by key, least recently used first out. Safe to share between threads."""

    def __init__(self, limit_bytes: int) -> None:
        self._limit = limit_bytes
        self._held: OrderedDict[str, np.ndarray[Any, Any]] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    @property
    def bytes(self) -> int:
        """What is held now."""
        return self._bytes

    def get(self, key: str) -> np.ndarray[Any, Any] | None:
        """The array of a key, or None."""
        with self._lock:
            found = self._held.get(key)
            if found is not None:
                self._held.move_to_end(key)
            return found

    def put(self, key: str, value: np.ndarray[Any, Any]) -> None:
        """Keep an array; it must not be changed any more. One too large for the cache is not kept."""
        if value.nbytes > self._limit:
            return
        with self._lock:
            old = self._held.pop(key, None)
            if old is not None:
                self._bytes -= old.nbytes
            self._held[key] = value
            self._bytes += value.nbytes
            while self._bytes > self._limit:
                _, dropped = self._held.popitem(last=False)
                self._bytes -= dropped.nbytes

    def remember(self, key: str, make: Callable[[], np.ndarray[Any, Any]]) -> np.ndarray[Any, Any]:
        """The array of a key, made if it is not held."""
        found = self.get(key)
        if found is None:
            found = make()
            self.put(key, found)
        return found
