"""Where pyramids live: a folder with a quota, keyed by the frame's content."""

import hashlib
import math
import os
import shutil
import threading
import time
from collections import OrderedDict
from contextlib import suppress
from pathlib import Path

from ..errors import FrameError
from ..running.patience import holding, uncounted
from .decoder import Decoder, Decoders
from .metadata import FrameInfo
from .pyramid import Pyramid

USED_SECONDS = 60.0
"""How finely it is noted when a pyramid was used last."""
REVISION = "p3"
"""Part of every pyramid's name; raised when decoding changes what it delivers."""


def hash_file(path: Path) -> str:
    """SHA-256 of a file's contents, hexadecimal."""
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while block := file.read(1 << 20):
            digest.update(block)
    return digest.hexdigest()


class FrameStore:
    """Pyramids by content hash. Safe to share between threads; bounded by `quota_bytes` on disk."""

    def __init__(
        self, folder: Path, quota_bytes: int = 20 << 30, decoder: Decoder | Decoders | None = None
    ) -> None:
        self.folder = folder
        self.decoder = decoder or Decoders()
        self._quota = quota_bytes
        self._open: OrderedDict[str, Pyramid] = OrderedDict()
        self._lock = threading.Lock()
        self._making: dict[str, threading.Lock] = {}
        self._used = Used()

    def _home(self, sha256: str) -> Path:
        return self.folder / f"{sha256[:32]}-{REVISION}"

    def best(self, sha256: str) -> Pyramid | None:
        """The best pyramid there is now: whole, else first, else none. It counts as used."""
        found = self._best(sha256)
        if found is not None:
            self._used.note(sha256, self._home(sha256))
        return found

    def _best(self, sha256: str) -> Pyramid | None:
        for stage in ("whole", "first"):
            key = f"{sha256[:32]}-{REVISION}-{stage}"
            with self._lock:
                if key in self._open:
                    self._open.move_to_end(key)
                    return self._open[key]
            folder = self._home(sha256) / stage
            with suppress(FileNotFoundError):  # not there, or just dropped by another
                pyramid = Pyramid.open(folder, key)
                with self._lock:
                    self._open[key] = pyramid
                    while len(self._open) > 8:
                        self._open.popitem(last=False)
                return pyramid
        return None

    def _maker(self, sha256: str) -> threading.Lock:
        """Held by whoever decodes a frame: asked for by several at once, it is decoded once."""
        with self._lock:
            while len(self._making) > 500:
                self._making.pop(next(iter(self._making)))
            return self._making.setdefault(sha256, threading.Lock())

    def first_look(self, sha256: str, path: Path) -> tuple[FrameInfo, Pyramid]:
        """A pyramid to look at as soon as possible (half size for raw files)."""
        found = self.best(sha256)
        if found is None:
            with uncounted(), holding(self._maker(sha256)):
                found = self.best(sha256)
                if found is None:
                    self._decode(sha256, path, ["first"])
                    found = self.best(sha256)
        if found is None:  # a rendered frame has no quick way; its whole is quick enough
            found = self.whole(sha256, path)
        return found.info, found

    def whole(self, sha256: str, path: Path) -> Pyramid:
        """The full pyramid, decoding it if need be. Raises FrameError."""
        found = self.best(sha256)
        if found is None or not found.complete:
            with uncounted(), holding(self._maker(sha256)):
                found = self.best(sha256)
                if found is None or not found.complete:
                    self._decode(sha256, path, ["whole"])
                    shutil.rmtree(self._home(sha256) / "first", ignore_errors=True)
                    found = self.best(sha256)
        if found is None or not found.complete:
            raise FrameError(f"{path.name} could not be decoded")
        return found

    def _decode(self, sha256: str, path: Path, stages: list[str]) -> None:
        home = self._home(sha256)
        home.mkdir(parents=True, exist_ok=True)
        try:
            self.decoder.decode(path, home, stages)
        except FrameError as error:
            if not any(home.glob("*/meta.json")):
                shutil.rmtree(home, ignore_errors=True)
            raise FrameError(f"{path.name} cannot be opened: {error}.") from error
        keep_quota(self.folder, self._quota, home)

    def forget(self, sha256: str) -> None:
        """Drop what is held for a frame; it can be made again from its file."""
        with self._lock:
            for key in [k for k in self._open if k.startswith(sha256[:32])]:
                del self._open[key]
        drop(self._home(sha256))


GONE = ".gone"
"""Begins the name of what is being dropped."""


def keep_quota(folder: Path, quota_bytes: int, newest: Path) -> None:
    """Drop those folders in a folder that were used the longest ago, until the rest fits; never the newest, nor what is being
    written. Several processes may do so at once."""
    homes = []
    for home in folder.iterdir():
        with suppress(OSError):  # another was quicker
            if home.name.startswith(GONE):
                shutil.rmtree(home, ignore_errors=True)
            elif home.is_dir():
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
