"""Priority slots, whose turn it is: what a person looks at goes before what is measured, and both before what is only prepared.

Work of a rank runs one at a time, in the order in which it was asked for. Work of a lesser rank does not wait to be
finished: it stops where it says `go_on`, for as long as anything more urgent runs, and goes on from there.
"""

import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from enum import IntEnum

from sunlatch.errors import CancelledError


class Rank(IntEnum):
    """The lower the more urgent."""

    DRAG = 0
    """The answer to a drag."""
    LOOK = 1
    """A picture or mask at rest that somebody looks at."""
    MEASURE = 2
    """The ladder, a value at a place."""
    SURVEY = 3
    """Finding something out: lines, horizons, meetings, proposals."""
    BEHIND = 4
    """What nobody has asked for yet."""


class Slots:
    """Who runs now. Safe to share between threads."""

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._running: Counter[int] = Counter()

    def _more_urgent(self, rank: int) -> bool:
        return any(self._running[r] for r in range(rank))

    @contextmanager
    def slot(self, rank: int, gone: Callable[[], bool] = lambda: False) -> "Iterator[Slot]":
        """Wait for one's turn, and have it inside. Raises CancelledError where `gone` says so while waiting."""
        with self._changed:
            while self._running[rank] or self._more_urgent(rank):
                self._changed.wait(0.1)
                if gone():
                    raise CancelledError("nobody waits for it any more")
            self._running[rank] += 1
        mine = Slot(self, rank)
        try:
            yield mine
        finally:
            self._change(rank, -1)

    def _change(self, rank: int, by: int) -> None:
        with self._changed:
            self._running[rank] += by
            self._changed.notify_all()

    def pause(self, rank: int, gone: Callable[[], bool]) -> float:
        """Stand still while anything more urgent runs; returns for how many seconds."""
        if not self._more_urgent(rank):
            return 0.0
        start = time.monotonic()
        with self._changed:
            while self._more_urgent(rank) and not gone():
                self._changed.wait(0.1)
        return time.monotonic() - start


class Slot:
    """A turn that somebody has, with as many threads as he likes."""

    def __init__(self, slots: Slots, rank: int) -> None:
        self._slots, self._rank = slots, rank
        self._yielding = 0
        self._lock = threading.Lock()

    @contextmanager
    def yielding(self) -> Iterator[None]:
        """Inside, it is given up: for waiting on something that others must be able to finish. Given up by several of its
        threads, it is given up once, and had again when none of them waits any more."""
        with self._lock:
            self._yielding += 1
            if self._yielding == 1:
                self._slots._change(self._rank, -1)
        try:
            yield
        finally:
            with self._lock:
                self._yielding -= 1
                if self._yielding == 0:
                    self._slots._change(self._rank, 1)
