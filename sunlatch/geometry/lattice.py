"""The map at places spread evenly over the turned plane, and cubics between them.

Whoever asks for many places asks here: the formulas stay in map.py, and a lens, a turn, a projection or a field of
displacements costs the same. Between nodes 16 px apart the cubic through four of them each way (Lagrange) misses by
some ten-thousandths of a px, and by a twentieth on the wildest map a scene can have (tests/core/test_lattice.py).
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..compiled import inlined, kernel, part

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
INTERVAL: Final = 16
"""Px between nodes. A block of a view begins at a whole number of them."""
FAR: Final = 9.0
"""As far as a node is held from the frame, in long edges: what is seen at a grazing angle runs off without end."""


@dataclass(frozen=True)
class Lattice:
    """values (planes, rows, columns): of what was asked, at x0 + (column − 1)·step, y0 + (row − 1)·step of the turned
    plane: one node more than the places asked for lies before them, and two behind. step: (across, down); interval: px from
    node to node, where they lie over a view."""

    values: F64
    start: tuple[float, float]
    step: tuple[float, float]
    interval: int = INTERVAL

    @staticmethod
    def over(
        start: tuple[float, float],
        step: tuple[float, float],
        count: tuple[int, int],
        ask: Callable[[F64], F64],
        far: float = FAR,
        interval: int = INTERVAL,
    ) -> "Lattice":
        """Nodes from `start` for count (across, down) steps. ask: places (..., 2) of the turned plane to values
        (..., planes), which are held within ±far."""
        xs = start[0] + step[0] * np.arange(-1, count[0] + 2)
        ys = start[1] + step[1] * np.arange(-1, count[1] + 2)
        found = ask(np.stack(np.meshgrid(xs, ys), -1))
        values = np.ascontiguousarray(np.moveaxis(np.clip(found, -far, far), -1, 0))
        return Lattice(values, start, step, interval)

    def at(self, points: F64) -> F64:
        """Values (..., planes) at places (..., 2) of the turned plane within the nodes: the reference of the kernels."""
        t = (np.asarray(points, float) - self.start) / self.step
        rows, columns = self.values.shape[1] - 3, self.values.shape[2] - 3
        cell = np.clip(np.floor(t), 0, [columns - 1, rows - 1]).astype(int)
        wx, wy = (_weights(t[..., n] - cell[..., n]) for n in range(2))
        out = np.zeros((*t.shape[:-1], self.values.shape[0]))
        for j in range(4):
            for i in range(4):
                here = self.values[:, cell[..., 1] + j, cell[..., 0] + i]
                out += np.moveaxis(here, 0, -1) * (wy[..., j] * wx[..., i])[..., None]
        return out


def _weights(t: F64) -> F64:
    """Lagrange's cubic through −1, 0, 1, 2 at t: (..., 4)."""
    return np.stack(
        [
            -t * (t - 1) * (t - 2) / 6, (t + 1) * (t - 1) * (t - 2) / 2,
            -(t + 1) * t * (t - 2) / 2, (t + 1) * t * (t - 1) / 6,
        ],
        -1,
    )  # fmt: skip


@inlined
def lagrange(t):  # type: ignore[no-untyped-def]
    """The same weights, in kernels."""
    a, b, c = t + 1.0, t - 1.0, t - 2.0
    return -t * b * c / 6.0, a * b * c * 0.5, -a * t * c * 0.5, a * t * b / 6.0


@kernel("void(float64[:, :, ::1], float64[:, ::1], float64[:, ::1])")
def _at(values, places, out):  # type: ignore[no-untyped-def]
    """Planes of nodes at places (n, 2) counted in steps from the second node; beyond them, what their rim says."""
    rows, columns = values.shape[1], values.shape[2]
    for n in range(places.shape[0]):
        x = min(max(0.0, places[n, 0]), columns - 3.0)
        y = min(max(0.0, places[n, 1]), rows - 3.0)
        i, j = min(int(x), columns - 4), min(int(y), rows - 4)
        u0, u1, u2, u3 = lagrange(x - i)
        v0, v1, v2, v3 = lagrange(y - j)
        for k in range(values.shape[0]):
            p = values[k]
            out[n, k] = (
                v0 * (u0 * p[j, i] + u1 * p[j, i + 1] + u2 * p[j, i + 2] + u3 * p[j, i + 3])
                + v1 * (u0 * p[j + 1, i] + u1 * p[j + 1, i + 1] + u2 * p[j + 1, i + 2] + u3 * p[j + 1, i + 3])
                + v2 * (u0 * p[j + 2, i] + u1 * p[j + 2, i + 1] + u2 * p[j + 2, i + 2] + u3 * p[j + 2, i + 3])
                + v3 * (u0 * p[j + 3, i] + u1 * p[j + 3, i + 1] + u2 * p[j + 3, i + 2] + u3 * p[j + 3, i + 3])
            )


def scattered(nodes: Lattice, points: F64) -> F64:
    """Values (..., planes) at places (..., 2) of the turned plane, wherever they lie: beyond the nodes, what their rim says."""
    places = np.ascontiguousarray((np.asarray(points, float).reshape(-1, 2) - nodes.start) / nodes.step)
    out = np.empty((len(places), nodes.values.shape[0]))
    _at(nodes.values, np.nan_to_num(places), out)
    return out.reshape(*np.shape(points)[:-1], nodes.values.shape[0])


@part
def along_row(values, row, first, unit, origin, interval, line, out):  # type: ignore[no-untyped-def]
    """A plane of nodes at the px of one row: (value · unit − origin). row: counted from the node plane's first place;
    first: the node of the first px; line: room for a row of nodes; out: as many px as fit, in whole steps."""
    j = row // interval
    w0, w1, w2, w3 = lagrange((row - j * interval) / interval)
    steps = out.size // interval
    part = np.float32(1.0 / interval)
    for i in range(steps + 3):
        c = first + i
        total = w0 * values[j, c] + w1 * values[j + 1, c] + w2 * values[j + 2, c] + w3 * values[j + 3, c]
        line[i] = total * unit - origin
    for s in range(steps):
        p, q, r, t = line[s], line[s + 1], line[s + 2], line[s + 3]
        a0 = np.float32(q)
        a1 = np.float32(r - p / 3.0 - q / 2.0 - t / 6.0)
        a2 = np.float32((p + r) / 2.0 - q)
        a3 = np.float32((t - p) / 6.0 + (q - r) / 2.0)
        here = out[s * interval : (s + 1) * interval]
        for c in range(interval):
            f = np.float32(c) * part
            here[c] = a0 + f * (a1 + f * (a2 + f * a3))


@kernel("void(float64[:, :, ::1], float64[::1], float64[::1], int64, int64, float32[:, :, :])")
def _spread(values, scale, shift, top, interval, out):  # type: ignore[no-untyped-def]
    width = -(-out.shape[2] // interval) * interval
    line, row = np.empty(width // interval + 3), np.empty(width, np.float32)
    for k in range(out.shape[0]):
        for r in range(out.shape[1]):
            along_row(values[k], top + r, 0, scale[k], shift[k], interval, line, row)
            here = out[k, r]
            for c in range(out.shape[2]):
                here[c] = row[c]


def spread(nodes: Lattice, scale: F64, shift: F64, top: int, out: F32) -> None:
    """Fill (planes, rows, w) with value · scale + shift at every px of a view whose first px is the nodes' start,
    from row `top` on."""
    _spread(nodes.values, np.asarray(scale, float), -np.asarray(shift, float), top, nodes.interval, out)
