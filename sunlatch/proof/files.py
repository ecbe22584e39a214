"""Write pictures, each with its profile; whole or not at all."""

import errno
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import ExportError
from ..geometry import View
from ..ledger import Latch
from ..render import EXPORT_BAND, Development, Output, Progress, bands_of
from . import metadata, whole
from .description import described
from .kinds import check, kind_of
from .metadata import About
from .paper import Layout, Sheet
from .writers import jpeg, png, tiff

INK = 0.02
"""Light of a line around a picture."""


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
    output: Output,
    progress: Progress | None = None,
    layout: Layout | None = None,
    ppi: float | None = None,
    about: About | None = None,
) -> None:
    """Render a view into a file; the ending of `path` says which kind. layout: on a sheet of paper, so that `view` is of its
    region and size; ppi: that the file states; about: what it says of itself.

    Raises ExportError when the format cannot hold what is asked, or writing fails; no partial file
    is left in either case.
    """
    kind = kind_of(path).label
    sheet = layout.at_density(ppi) if layout is not None and kind != "PDF" else None
    size = sheet.size if sheet is not None else view.size
    check(path, output, size)
    bands = bands_of(development, view, output, progress)
    if sheet is not None:
        bands = on_sheet(bands, sheet, output)
    description, density = described(development), ppi or (layout.ppi if layout is not None else 0.0)
    comment = about.caption or description if about is not None else description
    with _whole_or_nothing(path) as part:
        if kind == "TIFF":
            _room(part, size, output)
            tiff(part, bands, size, output.bits, output.profile, description, density)
        elif kind == "PNG":
            png(part, bands, size, output.bits, output.profile, description, density)
        elif kind == "JPEG":
            jpeg(part, bands, size, output.profile, description, density)
        elif kind == "WebP":
            whole.webp(part, bands, output.profile, metadata.exif(about or About()))
        elif kind == "JPEG XL":
            whole.jpeg_xl(part, bands, metadata.exif(about or About()))
        elif kind == "OpenEXR":
            whole.open_exr(part, bands, _words(about, comment), density)
        else:
            page = layout.sheet if layout is not None else _page(size, density)
            at, held = (layout.at, layout.size) if layout is not None else ((0.0, 0.0), page)
            line = (layout.params.line, layout.params.gap) if layout is not None else (0.0, 0.0)
            words = {"dc:description": comment} | (about.words() if about is not None else {})
            whole.pdf(part, bands, size, output.bits, output.profile, page, at, held, line, words)
        if about is not None and kind in ("TIFF", "PNG", "JPEG"):
            metadata.write(part, about)


def _page(size: tuple[int, int], ppi: float) -> tuple[float, float]:
    """A page that a picture fills, mm; at 300 ppi where none are said."""
    return (size[0] / (ppi or 300) * 25.4, size[1] / (ppi or 300) * 25.4)


def _room(part: Path, size: tuple[int, int], output: Output) -> None:
    """Raises OSError where the disk has no room for a file of so many px, unpacked."""
    free = os.statvfs(part.parent)
    if size[0] * size[1] * output.channels * (output.bits // 8) > free.f_bavail * free.f_frsize:
        raise OSError(errno.ENOSPC, "No space left on device")


def _words(about: About | None, comment: str) -> dict[str, str]:
    """What an OpenEXR says, by its standard's names."""
    description = {"comments": comment, "software": "Sun Latch"}
    if about is not None:
        tags = about.tags()
        if about.rights or about.author:
            description["owner"] = about.rights or about.author
        if "Exif.Photo.DateTimeOriginal" in tags:
            description["capDate"] = tags["Exif.Photo.DateTimeOriginal"]
    return description


def on_sheet(bands: Iterator[NDArray[Any]], sheet: Sheet, output: Output) -> Iterator[NDArray[Any]]:
    """Bands of a picture as bands of the sheet it lies on, EXPORT_BAND rows each: white, a line around it."""
    (w, h), (x, y), (pw, ph) = sheet.size, sheet.at, sheet.picture
    ink = np.empty((1, 1, output.channels), output.dtype)
    output.encode(np.full((3, 1, 1), INK, np.float32), ink)
    out = sheet.gap + sheet.line
    box = (x - out, y - out, x + pw + out, y + ph + out)
    held: list[NDArray[Any]] = []
    have = 0
    for top in range(0, h, EXPORT_BAND):
        bottom = min(top + EXPORT_BAND, h)
        band = np.empty((bottom - top, w, output.channels), output.dtype)
        band[:] = output.white
        if sheet.line:
            _line(band, top, box, sheet.line, ink[0, 0])
        first, last = max(top, y), min(bottom, y + ph)
        if first < last:
            while have < last - first:
                held.append(next(bands))
                have += len(held[-1])
            rows = np.concatenate(held) if len(held) > 1 else held[0]
            band[first - top : last - top, x : x + pw] = rows[: last - first]
            held = [rows[last - first :]]
            have = len(held[0])
        yield band


def _line(
    band: NDArray[Any], top: int, box: tuple[int, int, int, int], thick: int, ink: NDArray[Any]
) -> None:
    """A frame of lines drawn inside a box of the sheet, as much of it as lies in a band."""
    x0, y0, x1, y1 = box
    rows = np.arange(top, top + len(band))
    inside = (rows >= y0) & (rows < y1)
    edge = inside & ((rows < y0 + thick) | (rows >= y1 - thick))
    left, right = max(x0, 0), max(x1, 0)
    band[edge, left:right] = ink
    band[inside, left : max(x0 + thick, 0)] = ink
    band[inside, max(x1 - thick, 0) : right] = ink


def write_pixels(path: Path, px: NDArray[Any], output: Output, ppi: float = 0, description: str = "") -> None:
    """A finished picture (h, w, channels) of an output's px, as TIFF, PNG or JPEG. Raises ExportError."""
    size = (px.shape[1], px.shape[0])
    check(path, output, size)
    bands = (px[r : r + EXPORT_BAND] for r in range(0, len(px), EXPORT_BAND))
    kind = kind_of(path).label
    with _whole_or_nothing(path) as part:
        if kind == "TIFF":
            tiff(part, bands, size, output.bits, output.profile, description, ppi)
        elif kind == "PNG":
            png(part, bands, size, output.bits, output.profile, description, ppi)
        elif kind == "JPEG":
            jpeg(part, bands, size, output.profile, description, ppi)
        else:
            raise ExportError(f"{path.name}: this is written as .tif, .png or .jpg")


def write_mask(development: Development, path: Path, latch: Latch, view: View) -> None:
    """A latch as 16-bit grey PNG: 0 = not held, 65535 = fully held."""
    mask = np.rint(np.clip(development.latches.mask(latch, view), 0, 1) * 65535)
    with _whole_or_nothing(path) as part:
        png(part, iter([mask]), view.size, 16)
