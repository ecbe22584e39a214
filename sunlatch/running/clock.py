"""Where the time goes: seconds of work by the name of the step, over all threads."""

import threading
import time
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager


class Clock:
    """Adds up what steps take while it is on. Off, it costs next to nothing."""

    def __init__(self) -> None:
        self.on = False
        self.seconds: defaultdict[str, float] = defaultdict(float)
        self._lock = threading.Lock()

    @contextmanager
    def step(self, name: str) -> Iterator[None]:
        """Time the inside."""
        if not self.on:
            yield
            return
        start = time.perf_counter()
        try:
            yield
        finally:
            self.add(name, time.perf_counter() - start)

    def add(self, name: str, seconds: float) -> None:
        """Add what a step took."""
        with self._lock:
            self.seconds[name] += seconds

    def table(self) -> str:
        """The steps, the longest first; seconds of work, so two threads busy for one second are two."""
        rows = sorted(self.seconds.items(), key=lambda item: -item[1])
        return "\n".join(f"  {name:<28} {seconds:8.3f} s" for name, seconds in rows)
