"""The one resampling where the map bends, turns, leans or enlarges: every px asks the map where it comes from.

The filters are filters.py's. Lanczos rings: at the edge of a bright sky that would be a dark rim of a stop and more, so
it is held within the four nearest px. The three colours may lie apart.
"""

import math
from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..blocks import Fetch
from ..compiled import inlined, kernel, part
from ..running.patience import go_on
from .filters import PHASES, SHARP, phase_table
from .lattice import Lattice, along_row, spread
from .map import Geometry
from .view import View

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
BLOCK_ROWS, BLOCK_COLUMNS = 96, 512
_ZERO = np.float32(0)


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
def _covered_row(plane, xs, ys, table, out):  # type: ignore[no-untyped-def]
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
def _held(places, low, last):  # type: ignore[no-untyped-def]
    for c in range(places.size):
        places[c] = min(max(low, places[c]), last)


@kernel(
    "void(float32[:, :, ::1], float64[:, :, ::1], int64, int64, int64, float64[::1], float32[:, ::1], boolean,"
    " float32[:, :, :])",
    fastmath=False,
)
def _warp(source, nodes, interval, top, left, raster, table, held, out):  # type: ignore[no-untyped-def]
    """out (planes, rows, columns), the block of a view that begins at (top, left). nodes (2 or 2·planes, …): where one in
    `interval` px comes from; raster: px per long edge across and down, where the block of source begins, x and y."""
    low = np.float32(table.shape[1] // 2 + 1)
    last_x, last_y = np.float32(source.shape[2] - 1) - low, np.float32(source.shape[1] - 1) - low
    apart = nodes.shape[0] > 2
    width = -(-out.shape[2] // interval) * interval
    line, xs, ys = np.empty(width // interval + 3), np.empty(width, np.float32), np.empty(width, np.float32)
    for r in range(out.shape[1]):
        for k in range(out.shape[0]):
            if k == 0 or apart:
                n = 2 * k if apart else 0
                along_row(nodes[n], top + r, left // interval, raster[0], raster[2], interval, line, xs)
                along_row(nodes[n + 1], top + r, left // interval, raster[1], raster[3], interval, line, ys)
                _held(xs, low, last_x)
                _held(ys, low, last_y)
            if held:
                _sharp_row(source[k], xs, ys, table, out[k, r])
            else:
                _covered_row(source[k], xs, ys, table, out[k, r])


def _block_source(
    nodes: Lattice,
    block: tuple[int, int, int, int],
    size: tuple[int, int],
    unit: F64,
    margin: int,
    wraps: bool,
) -> tuple[int, int, int, int]:
    """Top, bottom, left, right of the source px a block (first row, last, first column, last) needs."""
    first, last, left, right = block
    interval = nodes.interval
    near = nodes.values[
        :, first // interval : -(-last // interval) + 3, left // interval : -(-right // interval) + 3
    ]
    xs, ys = near[0::2] * unit[0], near[1::2] * unit[1]
    turns = size[0] if wraps else 0  # what goes round is read past its edges
    low_x, high_x = np.clip([xs.min(), xs.max()], -turns, size[0] + turns)
    low_y, high_y = np.clip([ys.min(), ys.max()], 0, size[1])
    room = margin + 2
    return (
        math.floor(low_y - room), math.ceil(high_y + room), math.floor(low_x - room), math.ceil(high_x + room)
    )  # fmt: skip


@dataclass(frozen=True)
class Drawn:
    """What was drawn of a view already, from a raster that differs only in places. planes (3, h, w); same: whether a
    block of source (top, bottom, left, right) is what it was drawn from."""

    planes: F32
    same: Callable[[int, int, int, int], bool]


def warp(
    fetch: Fetch,
    size: tuple[int, int],
    geometry: Geometry,
    view: View,
    pool: Executor | None = None,
    count: int = 3,
    drawn: Drawn | None = None,
) -> F32:
    """Planes (count, h, w) of a view, drawn through the map from a raster of size (width, height) px that
    holds the whole frame. A single plane is drawn where green lies."""
    scale = np.array([size[0] / geometry.width, size[1] / geometry.height])
    step = float(scale.max()) / geometry.scale(view)
    table = phase_table(round(step, 4), geometry.straight)
    unit = geometry.long_edge * scale
    apart = geometry.lens.lateral and count == 3
    nodes = geometry.lattice(view, geometry.apart_to_source if apart else geometry.turned_to_source)
    out = np.empty((count, view.size[1], view.size[0]), np.float32)
    margin = table.shape[1] // 2 + 2

    def block(first: int, left: int) -> None:
        go_on()
        last, right = min(first + BLOCK_ROWS, view.size[1]), min(left + BLOCK_COLUMNS, view.size[0])
        top, bottom, low, high = _block_source(
            nodes, (first, last, left, right), size, unit, margin, geometry.wraps
        )
        if drawn is not None and drawn.same(top, bottom, low, high):
            out[:, first:last, left:right] = drawn.planes[:, first:last, left:right]
            return
        raster = np.array([unit[0], unit[1], low + 0.5, top + 0.5])
        read = fetch(top, bottom, low, high)
        _warp(
            read,
            nodes.values,
            nodes.interval,
            first,
            left,
            raster,
            table,
            step <= SHARP,
            out[:, first:last, left:right],
        )

    places = [
        (r, c) for r in range(0, view.size[1], BLOCK_ROWS) for c in range(0, view.size[0], BLOCK_COLUMNS)
    ]
    if pool is None:
        for r, c in places:
            block(r, c)
    else:
        list(pool.map(lambda place: block(*place), places))
    return out


@kernel("void(float32[::1], float32[:, :])")
def _looked_up(table, plane):  # type: ignore[no-untyped-def]
    """What a table says of 0 to 1, in place."""
    last = np.float32(table.size - 1)
    for r in range(plane.shape[0]):
        row = plane[r]
        for c in range(plane.shape[1]):
            t = min(max(_ZERO, row[c] * last), last)
            i = min(int(t), table.size - 2)
            row[c] = table[i] + (t - np.float32(i)) * (table[i + 1] - table[i])


def source_map(geometry: Geometry, view: View, rows: tuple[int, int], out: F32) -> None:
    """Fill (3, rows, w) for the px of a view's rows first to before last: where they come from, u and v in fractions
    of the frame as it stands upright, and the gain that undoes the lens's falloff there."""
    base = geometry.base
    size = np.array([base.canvas.width, base.canvas.height])

    def ask(points: F64) -> F64:
        upright = base.to_canvas(geometry.turned_to_source(points)) / size
        return np.concatenate([upright, geometry.radius2(points)[..., None]], -1)

    x, y, dx, dy = geometry.corner(view)
    interval = geometry.interval(view)
    first, last = rows[0] // interval, -(-rows[1] // interval)
    count = math.ceil(view.size[0] / interval), last - first
    start, step = (x, y + first * interval * dy), (dx * interval, dy * interval)
    nodes = Lattice.over(start, step, count, ask, geometry.far, interval)
    spread(nodes, np.ones(3), np.zeros(3), rows[0] - first * interval, out)
    if geometry.wraps:
        np.mod(out[0], np.float32(1), out=out[0])
    gains = 1 / geometry.lens.transmitted(np.linspace(0, 1, 1025))
    _looked_up(gains.astype(np.float32), out[2])
