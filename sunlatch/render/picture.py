"""Whole pictures from a development: for the screen in 8 bits, for files band by band."""

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry import View
from .develop import Development
from .kernels import bytes_table, encode_8, encode_16, encode_table, halve_light

F32 = NDArray[np.float32]
Progress = Callable[[float], None]
"""Told the share done, 0–1; may raise CancelledError."""

_TABLES = {space: encode_table(space) for space in ("srgb", "p3", "rec2020")}
_BYTES = {space: bytes_table(space) for space in ("srgb", "p3", "rec2020")}
EXPORT_BAND = 256


def doubled(development: Development, view: View) -> View | None:
    """The view at twice its size, when the frame has that many pixels to give."""
    if development.geometry.scale(view) * 2 > 1.0 + 1e-9:
        return None
    return View(view.region, (view.size[0] * 2, view.size[1] * 2))


def _display(development: Development, view: View, space: str, full: bool, take: Any, keep: bool) -> None:
    """Display light of a view; at rest (`full`) from twice the size, reduced in linear light."""
    large = doubled(development, view) if full else None
    if large is None:
        development.display(view, space, take, keep)
        return

    def reduce(band: F32, r: int, e: int) -> None:
        small = np.empty((3, (e - r) // 2, view.size[0]), np.float32)
        halve_light(band, small)
        take(small, r // 2, e // 2)

    development.display(large, space, reduce, keep)


def picture_8(development: Development, view: View, full: bool, space: str = "srgb") -> NDArray[np.uint8]:
    """The rendered view (h, w, 3) uint8. `full`: the answer at rest; else the one for a drag."""
    out = np.empty((view.size[1], view.size[0], 3), np.uint8)
    table = _BYTES[space]

    def take(band: F32, r: int, e: int) -> None:
        encode_8(band, table, out[r:e])

    _display(development, view, space, full, take, keep=True)
    return out


def bands_of(
    development: Development, view: View, space: str, bits: int, progress: Progress | None = None
) -> Iterator[NDArray[Any]]:
    """The rendered view as bands of rows (≤ 256, w, 3): uint8, uint16 or float32, top to bottom.

    Space "linear" is scene light, unrendered; with 8 or 16 bits it is cut at 0 and 1.
    """
    w, h = view.size
    dtype = {8: np.uint8, 16: np.uint16, 32: np.float32}[bits]
    table = None if space == "linear" else _TABLES[space]
    for start in range(0, h, EXPORT_BAND):
        stop = min(start + EXPORT_BAND, h)
        out = np.empty((stop - start, w, 3), dtype)

        def take(band: F32, r: int, e: int, out: NDArray[Any] = out) -> None:
            if bits == 32 and table is None:
                out[r:e] = band.transpose(1, 2, 0)
            elif bits == 32 or table is None:
                top = {8: 255, 16: 65535, 32: 1}[bits]
                light: NDArray[Any] = np.clip(band, 0, 1)
                if table is not None:
                    light = np.interp(light, np.linspace(0, 1, table.size), table)
                out[r:e] = (light * top + (0.5 if bits != 32 else 0)).transpose(1, 2, 0)
            else:
                if bits == 8:
                    encode_8(band, _BYTES[space], out[r:e])
                else:
                    encode_16(band, table, out[r:e])

        _display(development, view.rows(start, stop), space, True, take, keep=False)
        if progress is not None:
            progress(stop / h)
        yield out
