"""Blocks of a picture: read from where it lies; beyond its edges these are repeated, or, where it goes all the way round, it goes
on from its other side. Nobody else decides that."""

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numba import types
from numpy.typing import NDArray

from .compiled import kernel
from .fastmath import half_value

F32 = NDArray[np.float32]
Fetch = Callable[[int, int, int, int], F32]
"""(top, bottom, left, right) in px of a picture → planes (3, h, w) float32; beyond the picture's edges,
the edges repeated, or what lies on its other side."""

# levels are memory-mapped read-only, which a signature in words cannot say
_PLANES = types.void(types.Array(types.uint16, 3, "A", readonly=True), types.float32[:, :, :])


class Block(NamedTuple):
    """A rectangle of a picture, px: rows top to before bottom, columns left to before right."""

    top: int
    bottom: int
    left: int
    right: int

    def touches(self, other: "Block") -> bool:
        """Whether they share a px."""
        rows = self.top < other.bottom and other.top < self.bottom
        return rows and self.left < other.right and other.left < self.right


@kernel(_PLANES)
def _planes(bits, out):  # type: ignore[no-untyped-def]
    for r in range(bits.shape[0]):
        for c in range(bits.shape[1]):
            for k in range(3):
                out[k, r, c] = half_value(bits[r, c, k])


def reader(source: NDArray[np.floating]) -> Fetch:
    """Reads an array (h, w, 3), memory-mapped or not, as `Fetch` says; half floats by our own kernel."""
    height, width = source.shape[:2]

    def fetch(top: int, bottom: int, left: int, right: int) -> F32:
        out = np.empty((3, bottom - top, right - left), np.float32)
        y0, y1, a, b = inside(top, bottom, height)
        x0, x1, c, d = inside(left, right, width)
        part, inner = source[y0:y1, x0:x1], out[:, a:b, c:d]
        if source.dtype == np.float16:
            _planes(part.view(np.uint16), inner)
        else:
            inner[:] = part.transpose(2, 0, 1)
        repeat_edges(out, a, b, c, d)
        return out

    return fetch


def going_round(read: Fetch, width: int) -> Fetch:
    """Reads a picture that goes all the way round, as `Fetch` says but that past its right edge its left goes on. read: of
    columns that exist; width: px round."""

    def fetch(top: int, bottom: int, left: int, right: int) -> F32:
        parts = []
        at = left
        while at < right:
            turn = math.floor(at / width) * width
            last = min(right, turn + width)
            parts.append(read(top, bottom, at - turn, last - turn))
            at = last
        return parts[0] if len(parts) == 1 else np.concatenate(parts, axis=2)

    return fetch


def px_of(places: NDArray[np.floating], size: int, wraps: bool) -> NDArray[np.intp]:
    """The px of an axis at places along it: beyond its ends the last one, or, where it goes round, the one on its other side."""
    px = np.floor(places).astype(np.intp)
    return np.asarray(px % size if wraps else np.clip(px, 0, size - 1))


def inside(first: int, last: int, size: int) -> tuple[int, int, int, int]:
    """Of px first..last of an axis, those that exist (at least one, the nearest), and where they stand
    among those asked for."""
    low = min(max(0, first), size - 1)
    high = max(min(last, size), low + 1)
    start = min(max(0, low - first), last - first - 1)
    return low, high, start, start + high - low


def repeat_edges(planes: F32, top: int, bottom: int, left: int, right: int) -> None:
    """Fill planes (3, h, w) outside the filled rectangle with its edges, in place."""
    planes[:, top:bottom, :left] = planes[:, top:bottom, left : left + 1]
    planes[:, top:bottom, right:] = planes[:, top:bottom, right - 1 : right]
    planes[:, :top] = planes[:, top : top + 1]
    planes[:, bottom:] = planes[:, bottom - 1 : bottom]
