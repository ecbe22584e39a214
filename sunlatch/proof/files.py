"""Write pictures, each with its profile; whole or not at all."""

import errno
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Final

import numpy as np

from ..errors import ExportError
from ..geometry import View
from ..ledger import Latch
from ..render import Development, Output, Progress, bands_of
from .told import described
from .writers import jpeg, png, tiff

FORMATS: Final = {".tif": (8, 16, 32), ".tiff": (8, 16, 32), ".png": (8, 16), ".jpg": (8,), ".jpeg": (8,)}
"""Endings we write, and the bits each can hold."""


@contextmanager
def _whole_or_nothing(path: Path) -> Iterator[Path]:
    """A path beside `path` to write to; moved into place at the end, removed on any failure."""
    part = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        yield part
        with part.open("rb+") as file:
            os.fsync(file.fileno())
        part.replace(path)
    except OSError as error:
        with suppress(OSError):
            part.unlink()
        if error.errno == errno.ENOSPC:
            raise ExportError(f"{path.name} was not written: the disk is full. No file is left.") from error
        raise ExportError(
            f"{path.name} was not written: {error.strerror or error}. No file is left."
        ) from error
    except BaseException:
        with suppress(OSError):
            part.unlink()
        raise


def bits_for(path: Path, bits: int | None = None) -> int:
    """The bits of a channel in a file, by its ending; those asked for where it can hold them. Raises ExportError."""
    ending = path.suffix.lower()
    if ending not in FORMATS:
        raise ExportError(
            f"{path.name}: files ending in {ending or 'nothing'} are not written here; use .tif, .png or .jpg"
        )
    if bits is None:
        return 16 if 16 in FORMATS[ending] else 8
    if bits not in FORMATS[ending]:
        held = " or ".join(str(b) for b in FORMATS[ending])
        raise ExportError(f"{path.name}: a {ending} file holds {held} bits, not {bits}")
    return bits


def write_picture(
    development: Development, path: Path, *, view: View, output: Output, progress: Progress | None = None
) -> None:
    """Render a view into a file; the ending of `path` says which kind.

    Raises ExportError when the format cannot hold what is asked, or writing fails; no partial file
    is left in either case.
    """
    ending = path.suffix.lower()
    bits_for(path, output.bits)
    bands, said = bands_of(development, view, output, progress), described(development)
    w, h = view.size
    with _whole_or_nothing(path) as part:
        if ending in (".tif", ".tiff"):
            free = os.statvfs(part.parent)
            if w * h * 3 * (output.bits // 8) > free.f_bavail * free.f_frsize:
                raise OSError(errno.ENOSPC, "No space left on device")
            tiff(part, bands, view.size, output.bits, output.profile, said)
        elif ending == ".png":
            png(part, bands, view.size, output.bits, output.profile, said)
        else:
            jpeg(part, bands, view.size, output.profile, said)


def write_mask(development: Development, path: Path, latch: Latch, view: View) -> None:
    """A latch as 16-bit grey PNG: 0 = not held, 65535 = fully held."""
    mask = np.rint(np.clip(development.latches.mask(latch, view), 0, 1) * 65535)
    with _whole_or_nothing(path) as part:
        png(part, iter([mask]), view.size, 16)
