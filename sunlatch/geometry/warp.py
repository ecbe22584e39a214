"""The one resampling where the map bends, turns or leans: every px asks the map where it comes from.

Lanczos of three lobes (Duchon 1979) where px are kept or enlarged; its ringing, which at the edge
of a bright sky would be a dark rim of a stop and more, is held within the four nearest px. Where
px are drawn together, a tent as wide as the step. The three colours may lie apart.
"""

import math
from concurrent.futures import Executor
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..blocks import Fetch
from ..compiled import inlined, kernel, part
from ..patience import go_on
from .lens import REACH
from .map import Geometry, View

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
PHASES = 1024
REACH2 = REACH**2
BLOCK_ROWS, BLOCK_COLUMNS = 96, 512
_ZERO, _ONE = np.float32(0), np.float32(1)


@lru_cache(32)
def phase_table(step: float) -> F32:
    """Weights (PHASES + 1, n), n even: row p for a place p / PHASES of the way from tap n/2 − 1 to the
    next. step: source px per output px."""
    if step <= 1.05:
        n = 6
        d = np.abs(np.arange(n) - (n // 2 - 1) - np.linspace(0, 1, PHASES + 1)[:, None])
        weights = np.sinc(d) * np.sinc(d / 3) * (d < 3)
    else:
        n = 2 * math.ceil(step)
        d = np.abs(np.arange(n) - (n // 2 - 1) - np.linspace(0, 1, PHASES + 1)[:, None])
        weights = np.maximum(1 - d / step, 0)
    return np.ascontiguousarray(weights / weights.sum(1, keepdims=True), np.float32)


_U0, _U1, _U2, _U3, _U4, _U5 = (np.uint64(k) for k in range(6))
_PHASES32, _HALF = np.float32(PHASES), np.float32(0.5)


@inlined
def _six(plane, y, x, table, p):  # type: ignore[no-untyped-def]
    """Six taps of a row, unrolled; unsigned indices spare the wrap-around test."""
    near = table[p, _U2] * plane[y, x + _U2] + table[p, _U3] * plane[y, x + _U3]
    next_ = table[p, _U1] * plane[y, x + _U1] + table[p, _U4] * plane[y, x + _U4]
    return near + next_ + table[p, _U0] * plane[y, x] + table[p, _U5] * plane[y, x + _U5]


@part
def _sharp_row(plane, xs, ys, table, out):  # type: ignore[no-untyped-def]
    """A plane at places (xs, ys), px centres at whole numbers, six taps each way, ringing held."""
    for n in range(out.size):
        ix, iy = int(xs[n]), int(ys[n])
        px = np.uint64((xs[n] - np.float32(ix)) * _PHASES32 + _HALF)
        py = np.uint64((ys[n] - np.float32(iy)) * _PHASES32 + _HALF)
        left, top = np.uint64(ix - 2), np.uint64(iy - 2)
        total = table[py, _U0] * _six(plane, top, left, table, px)
        total += table[py, _U1] * _six(plane, top + _U1, left, table, px)
        total += table[py, _U2] * _six(plane, top + _U2, left, table, px)
        total += table[py, _U3] * _six(plane, top + _U3, left, table, px)
        total += table[py, _U4] * _six(plane, top + _U4, left, table, px)
        total += table[py, _U5] * _six(plane, top + _U5, left, table, px)
        a, b = plane[top + _U2, left + _U2], plane[top + _U2, left + _U3]
        c, d = plane[top + _U3, left + _U2], plane[top + _U3, left + _U3]
        out[n] = min(max(min(min(a, b), min(c, d)), total), max(max(a, b), max(c, d)))


@part
def _tent_row(plane, xs, ys, table, out):  # type: ignore[no-untyped-def]
    """The same, with as many taps each way as the table has."""
    taps = table.shape[1]
    for n in range(out.size):
        ix, iy = int(xs[n]), int(ys[n])
        px = np.uint64((xs[n] - np.float32(ix)) * _PHASES32 + _HALF)
        py = np.uint64((ys[n] - np.float32(iy)) * _PHASES32 + _HALF)
        left, top = np.uint64(ix - taps // 2 + 1), np.uint64(iy - taps // 2 + 1)
        total = _ZERO
        for j in range(np.uint64(taps)):
            line = _ZERO
            for i in range(np.uint64(taps)):
                line += table[px, i] * plane[top + j, left + i]
            total += table[py, j] * line
        out[n] = total


@part
def _places_row(m, gx0, dx, gy, lens, raster, k, low, last_x, last_y, xs, ys):  # type: ignore[no-untyped-def]
    """Where a row of colour k comes from, in px of the block of source that was fetched."""
    k0, k1, k2, k3 = lens[0, 0], lens[0, 1], lens[0, 2], lens[0, 3]
    q0 = q1 = 0.0
    if k != 1:
        q0, q1 = lens[1 + k // 2, 0], lens[1 + k // 2, 1]
    mx, my, ux, uy = raster[0] - 0.5 - raster[5], raster[1] - 0.5 - raster[6], raster[2], raster[3]
    per = 1.0 / raster[4]
    ax, ay, az = m[1] * gy + m[2], m[4] * gy + m[5], m[7] * gy + m[8]
    for c in range(xs.size):
        gx = gx0 + c * dx
        deep = 1.0 / max(m[6] * gx + az, 1e-3)
        px, py = (m[0] * gx + ax) * deep, (m[3] * gx + ay) * deep
        r2 = min((px * px + py * py) * per, REACH2)
        f = 1.0 + k0 + r2 * (k1 + r2 * (k2 + r2 * k3))
        f *= 1.0 + q0 + r2 * f * f * q1
        xs[c] = min(max(low, px * f * ux + mx), last_x)
        ys[c] = min(max(low, py * f * uy + my), last_y)


@kernel(
    "void(float32[:, :, ::1], float64[::1], float64[::1], float64[:, ::1], float64[::1],"
    " float32[:, ::1], boolean, boolean, float32[:, :, :])",
    fastmath=False,
)
def _warp(source, m, at, lens, raster, table, held, apart, out):  # type: ignore[no-untyped-def]
    """out (planes, rows, columns). m: turned → ideal; at: x, y, dx, dy on the turned plane; lens: rows of
    distortion, red, blue; raster: middle x, y and units x, y in px, half diagonal², source's left, top."""
    margin = float(table.shape[1] // 2 + 1)
    last_x, last_y = source.shape[2] - 1 - margin, source.shape[1] - 1 - margin
    xs, ys = np.empty(out.shape[2], np.float32), np.empty(out.shape[2], np.float32)
    for r in range(out.shape[1]):
        for k in range(out.shape[0]):
            if k == 0 or apart:
                gy = at[1] + r * at[3]
                colour = k if apart else 1
                _places_row(m, at[0], at[2], gy, lens, raster, colour, margin, last_x, last_y, xs, ys)
            if held:
                _sharp_row(source[k], xs, ys, table, out[k, r])
            else:
                _tent_row(source[k], xs, ys, table, out[k, r])


def _block_source(
    geometry: Geometry, view: View, block: tuple[int, int, int, int], scale: tuple[float, float], margin: int
) -> tuple[int, int, int, int]:
    """Top, bottom, left, right of the source px a block (first row, last, first column, last) needs."""
    first, last, left, right = block
    x, y, dx, dy = geometry.corner(view)
    t = np.linspace(0, 1, 9)
    xs, ys = x + dx * (left + t * (right - 1 - left)), y + dy * (first + t * (last - 1 - first))
    inner = np.stack(np.meshgrid(xs, ys), -1)
    s = geometry.turned_to_source(inner) * geometry.long_edge * scale
    w, h = geometry.width * scale[0], geometry.height * scale[1]
    apart = 0.0
    if geometry.lens.lateral:
        lens = geometry.lens
        apart = max(abs(lens.red[0]) + abs(lens.red[1]), abs(lens.blue[0]) + abs(lens.blue[1])) * max(w, h)
    room = margin + 2 + apart
    low_x, high_x = np.clip([s[..., 0].min(), s[..., 0].max()], 0, w)
    low_y, high_y = np.clip([s[..., 1].min(), s[..., 1].max()], 0, h)
    return (
        math.floor(low_y - room), math.ceil(high_y + room), math.floor(low_x - room), math.ceil(high_x + room)
    )  # fmt: skip


def warp(
    fetch: Fetch,
    size: tuple[int, int],
    geometry: Geometry,
    view: View,
    pool: Executor | None = None,
    count: int = 3,
) -> F32:
    """Planes (count, h, w) of a view, drawn through the map from a raster of size (width, height) px that
    holds the whole frame. A single plane is drawn where green lies."""
    scale = (size[0] / geometry.width, size[1] / geometry.height)
    step = max(scale) / geometry.scale(view)
    table = phase_table(round(step, 4))
    unit = geometry.long_edge
    lens = np.zeros((3, 4))
    lens[0], lens[1, :2], lens[2, :2] = geometry.lens.distortion, geometry.lens.red, geometry.lens.blue
    x, y, dx, dy = geometry.corner(view)
    out = np.empty((count, view.size[1], view.size[0]), np.float32)
    margin = table.shape[1] // 2 + 2

    def block(first: int, left: int) -> None:
        go_on()
        last, right = min(first + BLOCK_ROWS, view.size[1]), min(left + BLOCK_COLUMNS, view.size[0])
        top, bottom, low, high = _block_source(geometry, view, (first, last, left, right), scale, margin)
        raster = np.array(
            [
                geometry.middle[0] * unit * scale[0], geometry.middle[1] * unit * scale[1],
                unit * scale[0], unit * scale[1], geometry.half_diagonal**2, low, top,
            ]
        )  # fmt: skip
        at = np.array([x + left * dx, y + first * dy, dx, dy])
        _warp(
            fetch(top, bottom, low, high), geometry.backward.ravel(), at, lens, raster, table,
            step <= 1.05, geometry.lens.lateral and count == 3, out[:, first:last, left:right],
        )  # fmt: skip

    places = [
        (r, c) for r in range(0, view.size[1], BLOCK_ROWS) for c in range(0, view.size[0], BLOCK_COLUMNS)
    ]
    if pool is None:
        for r, c in places:
            block(r, c)
    else:
        list(pool.map(lambda place: block(*place), places))
    return out


@kernel(
    "void(float64[::1], float64[::1], float64[::1], float64, float64[::1], float32[::1], float32[:, :, :])"
)
def _sources(m, at, distortion, diagonal2, affine, falloff, out):  # type: ignore[no-untyped-def]
    """out (3, h, w): u, v of the affine of the ideal point drawn by the lens; gain against falloff."""
    per = 1.0 / diagonal2
    for r in range(out.shape[1]):
        gy = at[1] + r * at[3]
        ax, ay, az = m[1] * gy + m[2], m[4] * gy + m[5], m[7] * gy + m[8]
        u, v, gain = out[0, r], out[1, r], out[2, r]
        for c in range(out.shape[2]):
            gx = at[0] + c * at[2]
            deep = 1.0 / max(m[6] * gx + az, 1e-3)
            px, py = (m[0] * gx + ax) * deep, (m[3] * gx + ay) * deep
            r2 = min((px * px + py * py) * per, REACH2)
            f = 1.0 + distortion[0] + r2 * (distortion[1] + r2 * (distortion[2] + r2 * distortion[3]))
            px, py = px * f, py * f
            u[c] = affine[0] * px + affine[1] * py + affine[2]
            v[c] = affine[3] * px + affine[4] * py + affine[5]
            s2 = np.float32(min(r2 * f * f, 1.0))
            gain[c] = _ONE / (_ONE + s2 * (falloff[0] + s2 * (falloff[1] + s2 * falloff[2])))


def sources(geometry: Geometry, view: View, out: F32) -> None:
    """Fill (3, h, w) for every px of a view: where it comes from, u and v in fractions of the frame as it
    stands upright, and the gain that undoes the lens's falloff there."""
    base = geometry.base
    size = np.array([base.canvas.width, base.canvas.height])
    affine = np.column_stack([base.forward[:2, :2] / size[:, None], [0.5, 0.5]]).ravel()
    _sources(
        geometry.backward.ravel(), np.array(geometry.corner(view)), np.array(geometry.lens.distortion),
        geometry.half_diagonal**2, affine, np.array(geometry.lens.falloff, np.float32), out,
    )  # fmt: skip
