"""Results by the hash of everything they depend on, bounded in bytes."""

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

import numpy as np

from ..errors import CancelledError, RenderError
from .patience import go_on, patience, rank, uncounted
from .pool import in_pool


def key_of(*parts: Any) -> str:
    """A short hash of canonical JSON; floats keep all their digits."""
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), allow_nan=False)
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


CIRCLE = "A part of this scene is made of itself, and cannot be shown. Switch off what was changed last."
_waits = threading.Lock()


class _Making:
    """Something that is being made, for whoever else asks for it meanwhile. name: the same for whoever makes it."""

    def __init__(self, name: tuple[int, str]) -> None:
        self.name = name
        self.made: np.ndarray[Any, Any] | None = None
        self.over = threading.Event()
        self._rank, self._crew = rank(), in_pool()
        self._for: list[_Making] = []
        """What those who make it wait for."""

    @contextmanager
    def under_way(self) -> Iterator[None]:
        """Inside, it is being made, by whatever threads that is handed to. Raises RenderError where it is part of itself."""
        around = _under_way.get()
        if any(one.name == self.name for one in around):
            raise RenderError(CIRCLE)
        before = _under_way.set((*around, self))
        try:
            yield
        finally:
            _under_way.reset(before)

    @contextmanager
    def waited_for(self) -> Iterator[None]:
        """Inside, it is waited for. Raises RenderError where it waits, by however many steps, for what is being made here."""
        around = _under_way.get()
        with _waits:
            ahead = [self]
            while ahead:
                one = ahead.pop()
                if one in around:
                    raise RenderError(CIRCLE)
                ahead += one._for
            for one in around:
                one._for.append(self)
        try:
            yield
        finally:
            with _waits:
                for one in around:
                    one._for.remove(self)

    def worth_waiting(self, long: bool) -> bool:
        """Whether it may be waited for here. Not what is less urgent, which stands still until we are through, but if it takes
        long; and in a pool not what is made outside, which may need this very thread."""
        return (long or self._rank <= rank()) and (self._crew or not in_pool())

    def wait(self) -> np.ndarray[Any, Any] | None:
        """It, or None where whoever made it gave up. Raises CancelledError, and RenderError where it would never come."""
        held = patience()
        with self.waited_for():
            if held is None or self._rank <= held.rank:
                while not self.over.wait(0.05):
                    go_on()
                return self.made
            # the less urgent goes on only while we are not at work; that it takes its time is not ours
            with held.yielding(), uncounted():
                while not self.over.wait(0.05):
                    if held.gone():
                        raise CancelledError("nobody waits for it any more")
            return self.made


_under_way: ContextVar[tuple[_Making, ...]] = ContextVar("under way", default=())
"""What is being made here, the outermost first; handed on with the work."""


class ByteCache:
    """Arrays by key, least recently used first out. Safe to share between threads."""

    def __init__(self, limit_bytes: int) -> None:
        self._limit = limit_bytes
        self._held: OrderedDict[str, np.ndarray[Any, Any]] = OrderedDict()
        self._bytes = 0
        self._making: dict[str, _Making] = {}
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

    def remember(
        self, key: str, make: Callable[[], np.ndarray[Any, Any]], long: bool = False
    ) -> np.ndarray[Any, Any]:
        """The array of a key, made if it is not held; asked for by several at once, it is made once. long: making it takes
        seconds, so that it is waited for whoever makes it. Raises RenderError where making it asks for itself."""
        name = (id(self), key)
        while True:
            found = self.get(key)
            if found is not None:
                return found
            with self._lock:
                other = self._making.get(key)
                mine = _Making(name)
                if other is None:
                    self._making[key] = mine
            if other is not None and other.worth_waiting(long):
                found = other.wait()
                if found is not None:
                    return found
                continue
            try:
                with mine.under_way():
                    mine.made = make()
                self.put(key, mine.made)
                return mine.made
            finally:
                with self._lock:
                    if self._making.get(key) is mine:
                        del self._making[key]
                mine.over.set()
