"""Write pictures: TIFF in bands, PNG and JPEG whole; each with its profile; whole or not at all."""

import errno
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any, Final

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from ..colour import OUTPUT_SPACES, OutputSpace
from ..errors import ExportError
from ..geometry import View
from ..ledger import Latch
from ..render import Development, Progress, bands_of
from ..render.picture import EXPORT_BAND

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


def write_picture(
    development: Development,
    path: Path,
    *,
    view: View,
    space: str = "srgb",
    bits: int = 16,
    progress: Progress | None = None,
) -> None:
    """Render a view into a file; the ending of `path` says which kind.

    Raises ExportError when the format cannot hold what is asked, or writing fails; no partial file
    is left in either case.
    """
    ending = path.suffix.lower()
    if ending not in FORMATS:
        raise ExportError(
            f"{path.name}: files ending in {ending or 'nothing'} are not written here; use .tif, .png or .jpg"
        )
    if bits not in FORMATS[ending]:
        held = " or ".join(str(b) for b in FORMATS[ending])
        raise ExportError(f"{path.name}: a {ending} file holds {held} bits, not {bits}")
    if space not in OUTPUT_SPACES:
        raise ExportError(f"there is no colour space {space!r}; known are {', '.join(OUTPUT_SPACES)}")
    profile = OutputSpace(space).profile
    bands = bands_of(development, view, space, bits, progress)
    w, h = view.size
    with _whole_or_nothing(path) as part:
        if ending in (".tif", ".tiff"):
            dtype = {8: np.uint8, 16: np.uint16, 32: np.float32}[bits]
            need = w * h * 3 * (bits // 8)
            free = os.statvfs(part.parent)
            if need > free.f_bavail * free.f_frsize:
                raise OSError(errno.ENOSPC, "No space left on device")
            tifffile.imwrite(
                part, bands, shape=(h, w, 3), dtype=dtype, photometric="rgb",
                rowsperstrip=EXPORT_BAND, iccprofile=profile, metadata=None,
                software="Sun Latch", bigtiff=need > 3_900_000_000,
            )  # fmt: skip
            return
        whole = np.concatenate(list(bands))
        if ending == ".png":
            _write_png(part, whole, profile)
        else:
            Image.fromarray(whole).save(part, "JPEG", quality=95, subsampling=0, icc_profile=profile)


def _write_png(path: Path, picture: NDArray[Any], profile: bytes) -> None:
    """PNG with an iCCP chunk; OpenCV writes the pixels, the chunk is set in after the header."""
    import struct
    import zlib

    ok, encoded = cv2.imencode(".png", picture[..., ::-1] if picture.ndim == 3 else picture)
    if not ok:
        raise ExportError(f"{path.name}: the PNG could not be encoded")
    raw = encoded.tobytes()
    chunk = b""
    if profile:
        body = b"iCCP" + b"Sun Latch\0\0" + zlib.compress(profile)
        chunk = struct.pack(">I", len(body) - 4) + body + struct.pack(">I", zlib.crc32(body))
    path.write_bytes(raw[:33] + chunk + raw[33:])


def write_mask(development: Development, path: Path, latch: Latch, view: View) -> None:
    """A latch as 16-bit grey PNG: 0 = not held, 65535 = fully held."""
    mask = development.latches.mask(latch, view)
    with _whole_or_nothing(path) as part:
        _write_png(part, np.rint(np.clip(mask, 0, 1) * 65535).astype(np.uint16), b"")
