"""The base of a picture: an edge-aware mean of log luminance, for moves that change tones and keep detail.

It is held in a bilateral grid (Paris & Durand 2006; Chen, Paris & Durand 2007) built from the whole
picture at a fixed small size. Looking a pixel up in the grid by its own lightness finds the mean of its
own side of an edge, so there is no halo; and every view, tile and file looks up the same grid.
"""

import math
from typing import Any

import numpy as np

from ..compiled import kernel, part
from ..fastmath import log2
from .base import F32
from .sampling import add_quad, quad

LOW_STOP, HIGH_STOP, BIN = -15.0, 9.0, 0.5
CELLS = 48
"""Grid cells along the long edge: the base means over about a twelfth of it."""
_FLOOR = 0.18 * 2.0**-14


_ZERO, _ONE, _HALF = np.float32(0), np.float32(1), np.float32(0.5)
_FLOOR32, _LOG_GREY = np.float32(_FLOOR), np.float32(math.log2(0.18))
_LOW32, _PER_BIN = np.float32(LOW_STOP), np.float32(1.0 / BIN)


@part
def row_stops(a, b, d, out):  # type: ignore[no-untyped-def]
    for c in range(out.size):
        luma = np.float32(0.2627) * a[c] + np.float32(0.6780) * b[c] + np.float32(0.0593) * d[c]
        out[c] = log2(max(luma, _FLOOR32)) - _LOG_GREY


def stops_of(rgb: F32) -> F32:
    """Light in stops (h, w) of working RGB (3, h, w)."""
    stops = np.empty(rgb.shape[1:], np.float32)
    for r in range(rgb.shape[1]):
        row_stops(rgb[0, r], rgb[1, r], rgb[2, r], stops[r])
    return stops


@kernel("void(float32[:, ::1], float32[:, :, :, ::1])")
def _splat(stops, grid):  # type: ignore[no-untyped-def]
    """Spread every pixel over its eight neighbouring cells: sum of values and of weights."""
    rows, columns, bins = grid.shape[0], grid.shape[1], grid.shape[2]
    h, w = stops.shape
    flat = grid.reshape(grid.size)
    z_last = np.float32(bins - 1.001)
    at, between = np.empty((w, 2), np.intp), np.empty(w, np.float32)
    for c in range(w):
        gx = (c + 0.5) / w * columns - 0.5
        x = math.floor(gx)
        between[c] = gx - x
        at[c, 0], at[c, 1] = max(x, 0) * 2 * bins, min(x + 1, columns - 1) * 2 * bins
    for r in range(h):
        gy = (r + 0.5) / h * rows - 0.5
        y = math.floor(gy)
        fy = np.float32(gy - y)
        above, below = max(y, 0) * columns * 2 * bins, min(y + 1, rows - 1) * columns * 2 * bins
        for c in range(w):
            s = stops[r, c]
            gz = min(max(_ZERO, (s - _LOW32) * _PER_BIN), z_last)
            z = int(gz)
            fz = gz - np.float32(z)
            left, right = 2 * z + at[c, 0], 2 * z + at[c, 1]
            fx = between[c]
            add_quad(flat, above + left, s, fz, (_ONE - fy) * (_ONE - fx))
            add_quad(flat, above + right, s, fz, (_ONE - fy) * fx)
            add_quad(flat, below + left, s, fz, fy * (_ONE - fx))
            add_quad(flat, below + right, s, fz, fy * fx)


@kernel("void(float32[:, :, ::1])")
def _blur(grid):  # type: ignore[no-untyped-def]
    """Binomial blur (1 4 6 4 1)/16 along the middle axis, in place; beyond the ends lies nothing."""
    held = np.empty((2, grid.shape[2]), np.float32)
    side, near, own = np.float32(1 / 16), np.float32(4 / 16), np.float32(6 / 16)
    for a in range(grid.shape[0]):
        held[:] = np.float32(0)
        n = grid.shape[1]
        for b in range(n):
            far, last = held[b & 1], held[(b + 1) & 1]  # two before and one before, as they were
            for c in range(grid.shape[2]):
                one = grid[a, b, c]
                value = side * far[c] + near * last[c] + own * one
                if b + 1 < n:
                    value += near * grid[a, b + 1, c]
                if b + 2 < n:
                    value += side * grid[a, b + 2, c]
                far[c] = one
                grid[a, b, c] = value


def survey(rgb: F32, params: Any = None) -> F32:
    """Bilateral grid (rows, columns, bins, 2) of log luminance, from working RGB (3, h, w)."""
    stops = stops_of(rgb)
    h, w = stops.shape
    scale = CELLS / max(h, w)
    rows, columns = max(2, round(h * scale)), max(2, round(w * scale))
    bins = int((HIGH_STOP - LOW_STOP) / BIN) + 1
    grid = np.zeros((rows, columns, bins, 2), np.float32)
    _splat(stops, grid)
    _blur(grid.reshape(1, rows, -1))
    _blur(grid.reshape(rows, columns, -1))
    _blur(grid.reshape(-1, bins, 2))
    return grid


@part
def row_slab(aux, y, slab):  # type: ignore[no-untyped-def]
    """The grid (rows, columns, bins, 2) between its rows, at y in fractions of the canvas: slab, flat."""
    rows = aux.shape[0]
    gy = min(max(_ZERO, y * np.float32(rows) - _HALF), np.float32(rows - 1.001))
    n = int(gy)
    f = gy - np.float32(n)
    above, below = aux[n].reshape(slab.size), aux[n + 1].reshape(slab.size)
    for k in range(slab.size):
        slab[k] = above[k] + (below[k] - above[k]) * f


@part
def row_base(stops, slab, bins, at, between, work, out):  # type: ignore[no-untyped-def]
    """The base of a row from its slab; at, between: as `sampling.columns` gives them for the grid. work: (w,).
    Looking up does not run in vector registers; what can is kept apart."""
    z_last = np.float32(bins - 1.001)
    for c in range(stops.size):
        out[c] = min(max(_ZERO, (stops[c] - _LOW32) * _PER_BIN), z_last)
    for c in range(stops.size):
        z = np.uint32(out[c])
        left = 2 * (np.intp(at[c]) * bins + np.intp(z))
        out[c], work[c] = quad(slab, left, left + 2 * bins, between[c], out[c] - np.float32(z))
    for c in range(stops.size):
        out[c] = out[c] / work[c] if work[c] > np.float32(1e-3) else stops[c]


@part
def row_of_base(aux, place, r, a, b, d, at, between, slab, work, base):  # type: ignore[no-untyped-def]
    """Base (stops, (w,)) of row r of a band whose planes there are a, b, d. slab: (columns · bins · 2,) and
    work: (2, w), to work in."""
    row_slab(aux, place[1] + np.float32(r) * place[3], slab)
    row_stops(a, b, d, work[0])
    row_base(work[0], slab, aux.shape[2], at, between, work[1], base)
