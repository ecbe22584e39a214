"""A store on disk of what is made once (pyramids of frames, of joins): by name, whole or not at all, within a quota, used last kept
longest; one maker at a time, across threads and processes."""

import math
import os
import shutil
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Final, Generic, TypeVar

from filelock import FileLock, Timeout

from .patience import holding, uncounted

T = TypeVar("T")
USED_SECONDS: Final = 60.0
"""How finely it is noted when something was used last."""
STAGES: Final = ("whole", "first")
"""What there may be of one, the best first."""
GONE: Final = ".gone"
"""Begins the name of what is being dropped."""
LOCKS: Final = ".locks"
"""Where makers of several processes keep apart."""
MAKERS: Final = 500
"""Locks that are remembered, of those that are not held."""


class Shelf(Generic[T]):
    """See the module. folder: one folder a name in it, and in that one a stage. opened: how many are held open."""

    def __init__(self, folder: Path, quota_bytes: int, opened: int) -> None:
        self.folder = folder
        self._quota = quota_bytes
        self._opened = opened
        self._open: OrderedDict[str, T] = OrderedDict()
        self._lock = threading.Lock()
        self._making: OrderedDict[str, threading.Lock] = OrderedDict()
        self.used = Used()

    def home(self, name: str) -> Path:
        """Where all stages of one lie."""
        return self.folder / name

    def best(self, name: str, read: Callable[[Path, str], T]) -> T | None:
        """The best there is now; None where there is none. It counts as used. read: opens the folder of a stage, under a key;
        FileNotFoundError where it is not there."""
        for stage in STAGES:
            key = f"{name}-{stage}"
            with self._lock:
                found = self._open.get(key)
                if found is not None:
                    self._open.move_to_end(key)
            if found is None:
                with suppress(FileNotFoundError):  # not there, or just dropped by another
                    found = read(self.home(name) / stage, key)
                    with self._lock:
                        self._open[key] = found
                        while len(self._open) > self._opened:
                            self._open.popitem(last=False)
            if found is not None:
                self.used.note(name, self.home(name))
                return found
        return None

    @contextmanager
    def making(self, name: str, stage: str) -> Iterator[None]:
        """Held by whoever makes one: asked for by several at once, also of several processes, it is made once. Whoever waits is not
        charged for it. Raises CancelledError where nobody waits any more, OSError where nothing can be written."""
        key = f"{name}-{stage}"
        with self._lock:
            maker = self._making.setdefault(key, threading.Lock())
            self._making.move_to_end(key)
            for other in list(self._making)[:-MAKERS]:
                if not self._making[other].locked():
                    del self._making[other]
        with uncounted(), holding(maker), holding(_Across(self.folder / LOCKS / key)):
            yield

    def keep_quota(self, newest: str) -> None:
        """Make room: see `keep_quota`."""
        keep_quota(self.folder, self._quota, self.home(newest))

    def forget(self, name: str) -> None:
        """Drop one; it can be made again."""
        with self._lock:
            for key in [k for k in self._open if k.startswith(f"{name}-")]:
                del self._open[key]
        drop(self.home(name))


class _Across:
    """A lock across processes, taken like a thread's; let go when its process ends, however that comes."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self._lock = FileLock(path, thread_local=False)

    def acquire(self, blocking: bool = True, timeout: float = -1) -> bool:
        """As `threading.Lock`'s."""
        try:
            self._lock.acquire(timeout=timeout if blocking else 0, poll_interval=0.05)
        except Timeout:
            return False
        return True

    def release(self) -> None:
        """As `threading.Lock`'s."""
        self._lock.release()


def keep_quota(folder: Path, quota_bytes: int, newest: Path) -> None:
    """Drop those folders in a folder that were used the longest ago, until the rest fits; never the newest, nor what is being
    written. Several processes may do so at once."""
    homes = []
    for home in folder.iterdir():
        with suppress(OSError):  # another was quicker
            if home.name.startswith(GONE):
                shutil.rmtree(home, ignore_errors=True)
            elif home.is_dir() and home.name != LOCKS:
                homes.append((home.stat().st_mtime, _bytes_of(home), home))
    total = sum(size for _, size, _ in homes)
    for _, size, home in sorted(homes):
        if total <= quota_bytes:
            return
        with suppress(OSError):
            if home != newest and not any(home.glob("*.part*")):
                drop(home)
                total -= size


def drop(home: Path) -> None:
    """Remove a folder so that nobody finds half of it."""
    gone = home.with_name(f"{GONE}-{os.getpid()}-{threading.get_ident()}-{home.name}")
    with suppress(OSError):
        home.rename(gone)
        shutil.rmtree(gone, ignore_errors=True)


def _bytes_of(home: Path) -> int:
    """What a folder holds, while others may be taking from it."""
    total = 0
    for folder, _, names in os.walk(home):
        for name in names:
            with suppress(OSError):
                total += os.stat(os.path.join(folder, name)).st_size
    return total


class Used:
    """Notes on disk when something was used last, no more than once a minute. Safe to share between threads."""

    def __init__(self) -> None:
        self._at: dict[str, float] = {}

    def note(self, key: str, home: Path) -> None:
        """It is used now."""
        now = time.monotonic()
        if now - self._at.get(key, -math.inf) > USED_SECONDS:
            self._at[key] = now
            with suppress(OSError):
                os.utime(home)
