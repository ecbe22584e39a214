"""Contrast about a chosen rung, on the base of the picture; its detail is kept and added back.

The base is an edge-aware mean of log luminance, held in a bilateral grid (Paris & Durand 2006;
Chen, Paris & Durand 2007) built from the whole picture at a fixed small size. Looking a pixel up
in the grid by its own lightness finds the mean of its own side of an edge, so there is no halo;
and every view, tile and file looks up the same grid.
"""

import math

import numpy as np
from numba import njit

from ..fastmath import exp2, log2
from ..parameters import Params, number
from .base import F32, KERNEL_SIGNATURE, MoveKind

LOW_STOP, HIGH_STOP, BIN = -15.0, 9.0, 0.5
CELLS = 48
"""Grid cells along the long edge: the base means over about a twelfth of it."""
_FLOOR = 0.18 * 2.0**-14


class ContrastParams(Params):
    """How much steeper tones run away from the pivot."""

    amount: float = number(
        "Contrast", default=0.0, low=-0.8, high=1.5, step=0.01, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip
    pivot: float = number(
        "about", default=-1.0, low=-8.0, high=4.0, step=0.1, unit="stops", signed=True, decimals=1,
        hint="The rung that stays where it is",
    )  # fmt: skip


@njit("void(float32[:, ::1], float32[:, :, :, ::1])", nogil=True, cache=True)
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


def survey(rgb: F32) -> F32:
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


@njit(KERNEL_SIGNATURE, nogil=True, cache=True, fastmath=True)
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Change by m·slope·(base − pivot) stops, the base looked up in the grid."""
    slope, pivot = coef[0], coef[1]
    rows, columns, bins = aux.shape[0], aux.shape[1], aux.shape[2]
    zero, one = np.float32(0), np.float32(1)
    floor = np.float32(0.18 * 2.0**-14)
    log_grey = np.float32(math.log2(0.18))
    for r in range(rgb.shape[1]):
        gy = (place[1] + r * place[3]) * rows - np.float32(0.5)
        gy = min(max(gy, zero), np.float32(rows - 1.001))
        y0 = int(gy)
        fy = gy - np.float32(y0)
        for c in range(rgb.shape[2]):
            m = mask[r, c]
            if m == zero:
                continue
            luma = (
                np.float32(0.2627) * rgb[0, r, c]
                + np.float32(0.6780) * rgb[1, r, c]
                + np.float32(0.0593) * rgb[2, r, c]
            )
            s = log2(max(luma, floor)) - log_grey
            gx = (place[0] + c * place[2]) * columns - np.float32(0.5)
            gx = min(max(gx, zero), np.float32(columns - 1.001))
            gz = (s - np.float32(LOW_STOP)) * np.float32(1.0 / BIN)
            gz = min(max(gz, zero), np.float32(bins - 1.001))
            x0, z0 = int(gx), int(gz)
            fx, fz = gx - np.float32(x0), gz - np.float32(z0)
            total, weight = zero, zero
            for dy in range(2):
                wy = fy if dy else one - fy
                for dx in range(2):
                    k = wy * (fx if dx else one - fx)
                    total += k * (aux[y0 + dy, x0 + dx, z0, 0] * (one - fz) + aux[y0 + dy, x0 + dx, z0 + 1, 0] * fz)
                    weight += k * (aux[y0 + dy, x0 + dx, z0, 1] * (one - fz) + aux[y0 + dy, x0 + dx, z0 + 1, 1] * fz)
            base = total / weight if weight > np.float32(1e-3) else s
            gain = exp2(m * slope * (base - pivot))
            rgb[0, r, c] *= gain
            rgb[1, r, c] *= gain
            rgb[2, r, c] *= gain


def coefficients(params: ContrastParams, strength: float) -> F32:
    """[slope − 1, pivot in stops]"""
    return np.array([params.amount * strength, params.pivot], np.float32)


MOVE = MoveKind(
    kind="contrast",
    revision=1,
    band="light",
    label="Contrast",
    question="How bright?",
    sentence="Contrast {amount} about {pivot}",
    params=ContrastParams,
    verbs=("contrast", "flatten"),
    signs={"flatten": -1},
    first="amount",
    place=30,
    kernel=kernel,
    coefficients=coefficients,
    survey=survey,
)
