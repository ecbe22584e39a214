"""Open JPEG, PNG and TIFF pictures (8/16 bit, float) through their profile, as linear working RGB.

Runs in the child process only.
"""

from collections.abc import Iterator
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from ..colour.profiles import to_linear_working
from ..errors import FrameError
from .metadata import MOST_PIXELS, FrameInfo, check_size, read_exif

Image.MAX_IMAGE_PIXELS = MOST_PIXELS
BAND = 256
"""Rows turned to linear light at a time."""


def _read_tiff(path: Path) -> tuple[NDArray[Any], bytes | None]:
    try:
        with tifffile.TiffFile(path) as tif:
            page = tif.pages[0]
            shape = page.shape
            if len(shape) < 2 or len(shape) > 3:
                raise FrameError("it is a TIFF, but not of one picture")
            planar = len(shape) == 3 and shape[0] in (3, 4) and shape[2] not in (3, 4)
            check_size(shape[2] if planar else shape[1], shape[1] if planar else shape[0])
            data = page.asarray()
            tag = page.tags.get(34675)  # type: ignore[union-attr]
            profile = bytes(tag.value) if tag is not None else None
            if planar:
                data = np.moveaxis(data, 0, -1)
            if page.photometric == tifffile.PHOTOMETRIC.MINISWHITE:  # type: ignore[union-attr]
                data = np.iinfo(data.dtype).max - data
            elif page.photometric == tifffile.PHOTOMETRIC.PALETTE:  # type: ignore[union-attr]
                raise FrameError("it is a TIFF with a palette; save it as RGB")
            elif page.photometric == tifffile.PHOTOMETRIC.SEPARATED:  # type: ignore[union-attr]
                raise FrameError("it is a TIFF in printing inks; save it as RGB")
            return data, profile
    except FrameError:
        raise
    except Exception as error:
        raise FrameError(f"its TIFF structure is damaged ({error})") from error


def _read_plain(path: Path) -> tuple[NDArray[Any], bytes | None]:
    import imagecodecs

    raw = path.read_bytes()
    try:
        with Image.open(BytesIO(raw)) as image:
            check_size(*image.size)
            profile = image.info.get("icc_profile")
            kind = image.format
            if kind == "PNG" and image.mode != "P":
                image.verify()
                return np.asarray(imagecodecs.png_decode(raw)), profile
            image.load()
            return np.asarray(image.convert("RGB")), profile if image.mode in ("RGB", "P") else None
    except FrameError:
        raise
    except UnidentifiedImageError as error:
        raise FrameError("it is no picture we know") from error
    except Exception as error:
        raise FrameError(f"its picture data are damaged ({error})") from error


def read_rendered(path: Path, tiff: bool) -> tuple[FrameInfo, Iterator[NDArray[np.float16]]]:
    """Facts of a rendered file, and linear working RGB (rows, w, 3) float16 from top to bottom."""
    data, profile = _read_tiff(path) if tiff else _read_plain(path)
    if data.ndim == 2:
        data = data[..., None]
    data = data[..., :1] if data.shape[2] < 3 else data[..., :3]
    if data.dtype not in (np.uint8, np.uint16, np.float16, np.float32, np.float64):
        raise FrameError(f"its numbers are of a kind we do not read ({data.dtype})")
    bits = data.dtype.itemsize * 8
    notes = []
    if profile is None:
        notes.append(
            "No colour profile inside; linear light is assumed."
            if data.dtype.kind == "f"
            else "No colour profile inside; sRGB is assumed."
        )
    facts = read_exif(path)
    info = FrameInfo(
        width=data.shape[1], height=data.shape[0], kind="rendered", bits=bits, notes=notes,
        colour_source="profile", **facts,
    )  # fmt: skip

    def bands() -> Iterator[NDArray[np.float16]]:
        for r in range(0, len(data), BAND):  # the whole of a large one in single floats would not fit
            yield _linear(data[r : r + BAND], profile)

    _linear(data[:1], profile)  # a profile that cannot be used is found out now
    return info, bands()


def _linear(data: NDArray[Any], profile: bytes | None) -> NDArray[np.float16]:
    """Rows of a picture (rows, w, 1 or 3) as linear working RGB."""
    rows = np.ascontiguousarray(np.broadcast_to(data, (*data.shape[:2], 3)))
    try:
        light = to_linear_working(rows, profile)
    except ValueError as error:
        raise FrameError(f"its colour profile cannot be used ({error})") from error
    return np.clip(np.nan_to_num(light, nan=0.0), -60000, 60000).astype(np.float16)
