"""The smoothest surface over a hole that meets what is around it: Laplace's equation, solved from coarse to fine.

Pérez, Gangnet & Blake, Poisson Image Editing, 2003: what is pasted keeps its own texture, and differs from it by such a
surface of differences along the edge.
"""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel
from ..running.patience import go_on

F32 = NDArray[np.float32]
U8 = NDArray[np.uint8]
SMALLEST: Final = 12
"""Px of a side at which it is solved outright."""
SWEEPS: Final = 12
"""Sweeps at every finer size, which begins with the coarser one's answer."""


@kernel("void(float32[:, :, ::1], uint8[:, ::1], int64)")
def _relax(values, hole, sweeps):  # type: ignore[no-untyped-def]
    """Gauss–Seidel in place, over-relaxed, on the px of a hole; beyond the edges of the picture it goes on level."""
    planes, h, w = values.shape
    over, quarter = np.float32(1.6), np.float32(0.25)
    for n in range(sweeps):
        factor = np.float32(1) if n >= sweeps - 2 else over
        for colour in range(2):
            for r in range(h):
                up, down = max(r - 1, 0), min(r + 1, h - 1)
                for c in range((r + colour) & 1, w, 2):
                    if hole[r, c]:
                        left, right = max(c - 1, 0), min(c + 1, w - 1)
                        for k in range(planes):
                            around = (
                                values[k, up, c]
                                + values[k, down, c]
                                + values[k, r, left]
                                + values[k, r, right]
                            )
                            values[k, r, c] += factor * (quarter * around - values[k, r, c])


def membrane(values: F32, hole: NDArray[np.bool_]) -> F32:
    """Planes (k, h, w) with the px of a hole (h, w) replaced by the surface that is smoothest; the others stay. Where the hole
    is all there is, nought."""
    if hole.all():
        return np.zeros_like(values)
    out = np.ascontiguousarray(values, np.float32).copy()
    _solve(out, np.ascontiguousarray(hole, np.uint8))
    return out


def _solve(values: F32, hole: U8) -> None:
    go_on()
    h, w = hole.shape
    if min(h, w) <= SMALLEST or not hole.any():
        known = values[:, hole == 0]
        values[:, hole > 0] = known.mean(1)[:, None]
        _relax(values, hole, 60)
        return
    size = (-(-w // 2), -(-h // 2))
    there = cv2.resize((1 - hole).astype(np.float32), size, interpolation=cv2.INTER_AREA)
    small = np.stack([cv2.resize(v * (1 - hole), size, interpolation=cv2.INTER_AREA) for v in values])
    small /= np.maximum(there, np.float32(1e-6))
    _solve(small, (there <= 0).astype(np.uint8))
    for v, s in zip(values, small, strict=True):
        finer = cv2.resize(s, (w, h), interpolation=cv2.INTER_LINEAR)
        v[hole > 0] = finer[hole > 0]
    _relax(values, hole, SWEEPS)
