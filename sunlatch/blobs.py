"""What a document is too large to hold itself: kept beside it, each thing named by what it holds."""

import errno
import hashlib
import os
from contextlib import suppress
from pathlib import Path
from typing import Final

from .errors import DocumentError, StorageError

NAME: Final = r"^[0-9a-f]{64}$"
"""How a blob's name is written: the SHA-256 of its bytes."""


class Blobs:
    """A folder of blobs. One is written whole or not at all, and never changed."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def put(self, data: bytes) -> str:
        """Keep some bytes; the name they have from then on. Raises StorageError where they cannot be written."""
        name = hashlib.sha256(data).hexdigest()
        path = self.path(name)
        if path.exists():
            return name
        part = path.with_name(f".{name}.{os.getpid()}.part")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            with part.open("wb") as out:
                out.write(data)
                out.flush()
                os.fsync(out.fileno())
            part.replace(path)
        except OSError as error:
            with suppress(OSError):
                part.unlink(missing_ok=True)
            why = "the disk is full" if error.errno in (errno.ENOSPC, errno.EDQUOT) else error.strerror
            raise StorageError(f"A part of the scene could not be saved: {why}.") from error
        return name

    def get(self, name: str) -> bytes:
        """The bytes of a name. Raises DocumentError where they are not there, or not what the name says, StorageError where
        the disk does not give them."""
        try:
            data = self.path(name).read_bytes()
        except FileNotFoundError as error:
            raise DocumentError(f"a part of the scene is missing ({name[:8]})") from error
        except OSError as error:
            raise StorageError(f"A part of the scene could not be read: {error.strerror}.") from error
        if hashlib.sha256(data).hexdigest() != name:
            raise DocumentError(f"a part of the scene is damaged ({name[:8]})")
        return data

    def path(self, name: str) -> Path:
        """Where a blob lies."""
        return self.folder / name[:2] / name
