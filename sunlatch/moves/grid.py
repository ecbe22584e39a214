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

LOW_STOP, HIGH_STOP, BIN = -15.0, 9.0, 0.5
CELLS = 48
"""Grid cells along the long edge: the base means over about a twelfth of it."""
_FLOOR = 0.18 * 2.0**-14


@kernel("void(float32[:, ::1], float32[:, :, :, ::1])", fastmath=False)
def _splat(stops, grid):  # type: ignore[no-untyped-def]
    """Spread every pixel over its eight neighbouring cells: sum of values and of weights."""
    rows, columns, bins = grid.shape[0], grid.shape[1], grid.shape[2]
    h, w = stops.shape
    for r in range(h):
        gy = (r + 0.5) / h * rows - 0.5
        y0 = math.floor(gy)
        fy = gy - y0
        for c in range(w):
            gx = (c + 0.5) / w * columns - 0.5
            x0 = math.floor(gx)
            fx = gx - x0
            s = stops[r, c]
            gz = min(max((s - LOW_STOP) / BIN, 0.0), bins - 1.001)
            z0 = int(gz)
            fz = gz - z0
            for dy in range(2):
                y = min(max(y0 + dy, 0), rows - 1)
                wy = fy if dy else 1 - fy
                for dx in range(2):
                    x = min(max(x0 + dx, 0), columns - 1)
                    weight = wy * (fx if dx else 1 - fx)
                    grid[y, x, z0, 0] += weight * (1 - fz) * s
                    grid[y, x, z0, 1] += weight * (1 - fz)
                    grid[y, x, z0 + 1, 0] += weight * fz * s
                    grid[y, x, z0 + 1, 1] += weight * fz


def _blur(grid: F32, axis: int) -> F32:
    """Binomial blur (1 4 6 4 1)/16 along an axis, ends repeated with nothing."""
    pad = [(0, 0)] * grid.ndim
    pad[axis] = (2, 2)
    p = np.pad(grid, pad)
    n = grid.shape[axis]
    out = np.zeros_like(grid)
    for i, weight in enumerate((1, 4, 6, 4, 1)):
        out += np.float32(weight / 16) * np.take(p, np.arange(i, i + n), axis=axis)
    return out


def survey(rgb: F32, params: Any = None) -> F32:
    """Bilateral grid (rows, columns, bins, 2) of log luminance, from working RGB (3, h, w)."""
    luma = 0.2627 * rgb[0] + 0.6780 * rgb[1] + 0.0593 * rgb[2]
    stops = np.log2(np.maximum(luma, _FLOOR) / 0.18).astype(np.float32)
    h, w = stops.shape
    scale = CELLS / max(h, w)
    rows, columns = max(2, round(h * scale)), max(2, round(w * scale))
    bins = int((HIGH_STOP - LOW_STOP) / BIN) + 1
    grid = np.zeros((rows, columns, bins, 2), np.float32)
    _splat(np.ascontiguousarray(stops), grid)
    for axis in (0, 1, 2):
        grid = _blur(grid, axis)
    return np.ascontiguousarray(grid)


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


@part
def row_base(stops, slab, at, between, out):  # type: ignore[no-untyped-def]
    """The base of a row from its slab (columns, bins, 2); at, between: as `sampling.columns` gives them for it.
    Unsigned indices, no wrap-around test."""
    z_last = np.float32(slab.shape[1] - 1.001)
    one = np.uint32(1)
    for c in range(stops.size):
        gz = min(max((stops[c] - _LOW32) * _PER_BIN, _ZERO), z_last)
        x, z = at[c], np.uint32(gz)
        fx, fz = between[c], gz - np.float32(z)
        w00, w01 = (_ONE - fx) * (_ONE - fz), (_ONE - fx) * fz
        w10, w11 = fx * (_ONE - fz), fx * fz
        total = w00 * slab[x, z, 0] + w01 * slab[x, z + one, 0]
        total += w10 * slab[x + one, z, 0] + w11 * slab[x + one, z + one, 0]
        weight = w00 * slab[x, z, 1] + w01 * slab[x, z + one, 1]
        weight += w10 * slab[x + one, z, 1] + w11 * slab[x + one, z + one, 1]
        out[c] = total / weight if weight > np.float32(1e-3) else stops[c]


@part
def row_slab(aux, y, slab):  # type: ignore[no-untyped-def]
    """The grid (rows, columns, bins, 2) between its rows, at y in fractions of the canvas."""
    rows, columns, bins = aux.shape[0], aux.shape[1], aux.shape[2]
    gy = min(max(y * np.float32(rows) - _HALF, _ZERO), np.float32(rows - 1.001))
    n = int(gy)
    f = gy - np.float32(n)
    for x in range(columns):
        for z in range(bins):
            slab[x, z, 0] = aux[n, x, z, 0] * (_ONE - f) + aux[n + 1, x, z, 0] * f
            slab[x, z, 1] = aux[n, x, z, 1] * (_ONE - f) + aux[n + 1, x, z, 1] * f


@part
def row_of_base(aux, place, r, a, b, d, at, between, slab, stops, base):  # type: ignore[no-untyped-def]
    """Light and base (stops, (w,)) of row r of a band whose planes there are a, b, d. slab: (columns, bins, 2)
    to work in."""
    row_slab(aux, place[1] + np.float32(r) * place[3], slab)
    row_stops(a, b, d, stops)
    row_base(stops, slab, at, between, base)
