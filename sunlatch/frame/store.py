"""Where pyramids live: a folder with a quota, keyed by the frame's content."""

import hashlib
import shutil
from pathlib import Path

from ..errors import FrameError
from ..running.shelf import Shelf
from .decoder import Decoder, Decoders
from .metadata import FrameInfo
from .pyramid import Pyramid

OPEN = 8
"""Pyramids that are held open."""
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
        self.shelf: Shelf[Pyramid] = Shelf(folder, quota_bytes, OPEN)

    def best(self, sha256: str) -> Pyramid | None:
        """The best pyramid there is now: whole, else first, else none. It counts as used."""
        return self.shelf.best(shelf_name(sha256), Pyramid.open)

    def first_look(self, sha256: str, path: Path) -> tuple[FrameInfo, Pyramid]:
        """A pyramid to look at as soon as possible (half size for raw files)."""
        found = self.best(sha256)
        if found is None:
            with self.shelf.making(shelf_name(sha256), "first"):
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
            with self.shelf.making(shelf_name(sha256), "whole"):
                found = self.best(sha256)
                if found is None or not found.complete:
                    self._decode(sha256, path, ["whole"])
                    shutil.rmtree(self.shelf.home(shelf_name(sha256)) / "first", ignore_errors=True)
                    found = self.best(sha256)
        if found is None or not found.complete:
            raise FrameError(f"{path.name} could not be decoded")
        return found

    def _decode(self, sha256: str, path: Path, stages: list[str]) -> None:
        home = self.shelf.home(shelf_name(sha256))
        home.mkdir(parents=True, exist_ok=True)
        try:
            self.decoder.decode(path, home, stages)
        except FrameError as error:
            if not any(home.glob("*/meta.json")):
                shutil.rmtree(home, ignore_errors=True)
            raise FrameError(f"{path.name} cannot be opened: {error}.") from error
        self.shelf.keep_quota(shelf_name(sha256))

    def forget(self, sha256: str) -> None:
        """Drop what is held for a frame; it can be made again from its file."""
        self.shelf.forget(shelf_name(sha256))


def shelf_name(sha256: str) -> str:
    """What a frame's pyramids are called."""
    return f"{sha256[:32]}-{REVISION}"
