"""Render context, what renders share: threads, the cache, the memory of what was asked last, and where documents' blobs lie."""

import os
import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

from ..blobs import Blobs
from .cache import ByteCache
from .clock import Clock
from .patience import rank
from .pool import ThreadPool

T = TypeVar("T")
VIEWS, TILES, MODELS = 0.42, 0.28, 0.3
"""How the memory for what is kept is shared out. Each is bounded by itself: strokes on a large frame push out no view."""
MODELS_AT_LEAST = 192 << 20
"""Bytes for models, however little there is: one that was pushed out is learned anew for every band of a file."""


class RenderContext:
    """The render context. One per process; safe to share between threads."""

    def __init__(
        self, threads: int | None = None, cache_bytes: int = 768 << 20, blobs: Blobs | None = None
    ) -> None:
        self.blobs = blobs
        """Where documents keep what they are too large to hold."""
        self._threads = threads or os.cpu_count() or 2
        self._pools: dict[int, ThreadPool] = {}
        self.views = ByteCache(round(cache_bytes * VIEWS))
        """What is made of views: light, masks, places."""
        self.tiles = ByteCache(round(cache_bytes * TILES))
        """Noise's and Crispness's tiles."""
        self.models = ByteCache(max(round(cache_bytes * MODELS), MODELS_AT_LEAST))
        """What is learned of the whole picture, and strokes as they were laid."""
        self.clock = Clock()
        self._chains: OrderedDict[str, list[str]] = OrderedDict()
        self._mended: OrderedDict[str, Any] = OrderedDict()
        self._lock = threading.Lock()

    @property
    def pool(self) -> ThreadPool:
        """The threads for work as urgent as what is done here: less urgent work that stands still holds up no other's."""
        with self._lock:
            urgent = rank()
            if urgent not in self._pools:
                self._pools[urgent] = ThreadPool(self._threads)
            return self._pools[urgent]

    def mended(self, key: str, make: Callable[[], T]) -> T:
        """A raster under its repairs, for as long as they are the same; a few are held."""
        with self._lock:
            held = self._mended.get(key)
        made: T = held or make()
        with self._lock:
            self._mended[key] = made
            self._mended.move_to_end(key)
            while len(self._mended) > 8:
                self._mended.popitem(last=False)
        return made

    def changed_at(self, view: str, chain: list[str]) -> int:
        """Index of the first step that differs from the last chain rendered for this view, so that
        what lies before it can be kept for the next answer to the same drag."""
        with self._lock:
            last = self._chains.get(view, [])
            self._chains[view] = chain
            self._chains.move_to_end(view)
            while len(self._chains) > 32:
                self._chains.popitem(last=False)
        same = 0
        while same < min(len(last), len(chain)) and last[same] == chain[same]:
            same += 1
        return same
