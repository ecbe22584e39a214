"""Planes that a move learned of the whole picture, looked up along a row of any view."""

import numpy as np

from ..compiled import part

_ZERO, _HALF, _ONE = np.float32(0), np.float32(0.5), np.float32(1)


@part
def columns(place, w, at, between):  # type: ignore[no-untyped-def]
    """For the px of a row, the column of a plane w wide to their left, and how far they lie beyond it: at and
    between (width,). The same for every row and every plane, so found once."""
    x0, step, last = place[0] * np.float32(w) - _HALF, place[2] * np.float32(w), np.float32(w - 1.001)
    for c in range(at.size):
        gx = min(max(x0 + np.float32(c) * step, _ZERO), last)
        at[c] = np.uint32(gx)
        between[c] = gx - np.float32(at[c])


@part
def row_sampled(plane, place, r, at, between, line, out):  # type: ignore[no-untyped-def]
    """A plane (h, w) of the canvas, bilinear, along row r of a band: out (width,). line: (w,) to work in."""
    h, w = plane.shape
    gy = min(max((place[1] + np.float32(r) * place[3]) * np.float32(h) - _HALF, _ZERO), np.float32(h - 1.001))
    y = int(gy)
    f = gy - np.float32(y)
    for x in range(w):
        line[x] = plane[y, x] * (_ONE - f) + plane[y + 1, x] * f
    for c in range(out.size):
        n = at[c]
        out[c] = line[n] + (line[n + np.uint32(1)] - line[n]) * between[c]
