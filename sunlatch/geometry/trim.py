"""Rectangles on the plane of the turned picture: the largest one without empty corners, and a
chosen one made to keep clear of them."""

import math
from dataclasses import dataclass
from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..compiled import inlined, kernel, part
from .lattice import lagrange

F64 = NDArray[np.float64]
SLACK: Final = 1e-7
"""A place this far outside the frame still counts as on it, in long edges."""

MIDDLE_WEIGHT: Final = 0.35
"""Half side a box must gain for every length it moves away from the middle."""
_EDGE: Final = np.array(sorted(np.linspace(-1, 1, 17), key=lambda t: (-abs(t), t)))
_RING: Final = np.concatenate([[(t, -1.0), (t, 1.0), (-1.0, t), (1.0, t)] for t in _EDGE])
"""The outline of a square of half side 1, its corners first."""


@dataclass(frozen=True)
class Box:
    """A rectangle: left, top, right, bottom, in long edges of the source."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def width(self) -> float:
        """x1 − x0."""
        return self.x1 - self.x0

    @property
    def height(self) -> float:
        """y1 − y0."""
        return self.y1 - self.y0

    @property
    def centre(self) -> tuple[float, float]:
        """Its middle."""
        return (self.x0 + self.x1) / 2, (self.y0 + self.y1) / 2

    @staticmethod
    def about(centre: tuple[float, float], width: float, height: float) -> "Box":
        """A box of a size around a place."""
        x, y = centre
        return Box(x - width / 2, y - height / 2, x + width / 2, y + height / 2)


class Cover(NamedTuple):
    """Where the frame lies on the turned plane. source (2, rows, columns): where nodes spread over the canvas come
    from (nodes.py); at: the first place's x and y, places per long edge, the frame's width and height, and 1 where
    its right edge goes on at its left; mask (rows, columns): which cells of the frame hold anything."""

    source: F64
    at: F64
    mask: NDArray[np.uint8]


EVERYWHERE: Final = np.ones((1, 1), np.uint8)


@inlined
def _lies_on(x, y, source, at, mask):  # type: ignore[no-untyped-def]
    """Whether a place of the turned plane shows something of the frame."""
    tx, ty = (x - at[0]) * at[2], (y - at[1]) * at[2]
    if not (tx > -1.0 and ty > -1.0 and tx < source.shape[2] - 2.0 and ty < source.shape[1] - 2.0):
        return False
    i, j = min(max(0, int(tx)), source.shape[2] - 4), min(max(0, int(ty)), source.shape[1] - 4)
    a, b, c, d = lagrange(tx - i)
    e, f, g, h = lagrange(ty - j)
    u = v = 0.0
    for n, weight in enumerate((e, f, g, h)):
        p, q = source[0, j + n], source[1, j + n]
        u += weight * (a * p[i] + b * p[i + 1] + c * p[i + 2] + d * p[i + 3])
        v += weight * (a * q[i] + b * q[i + 1] + c * q[i + 2] + d * q[i + 3])
    if at[5] > 0.0:
        u -= at[3] * math.floor(u / at[3])
    if not (-SLACK <= u <= at[3] + SLACK and -SLACK <= v <= at[4] + SLACK):
        return False
    row = min(max(0, int(v / at[4] * mask.shape[0])), mask.shape[0] - 1)
    column = min(max(0, int(u / at[3] * mask.shape[1])), mask.shape[1] - 1)
    return mask[row, column] > 0


@part
def _outside(x, y, ring, half, factor, source, at, mask):  # type: ignore[no-untyped-def]
    """Which place of the outline of a box grown by a factor lies in the open; −1 where none does."""
    for k in range(ring.shape[0]):
        if not _lies_on(
            x + ring[k, 0] * half[0] * factor, y + ring[k, 1] * half[1] * factor, source, at, mask
        ):
            return k
    return -1


@kernel(
    "void(float64[:, ::1], float64[::1], float64[:, ::1], float64[::1], float64, float64[:, :, ::1], float64[::1],"
    " uint8[:, ::1], int64, float64[::1])"
)
def _grow(centres, cost, ring, half, most, source, at, mask, halvings, out):  # type: ignore[no-untyped-def]
    best = -1e9
    asked = ring.copy()  # places that were in the way so far: seldom more than a few are
    count = 4
    for n in range(centres.shape[0]):
        x, y = centres[n, 0], centres[n, 1]
        needed = best + cost[n]  # what it must reach to be worth more than the best so far
        out[n] = 0.0
        if needed > 0.0 and (needed > most or _outside(x, y, ring, half, needed, source, at, mask) >= 0):
            continue
        while True:
            low, high = 0.0, most
            for _ in range(halvings):
                middle = (low + high) / 2
                if _outside(x, y, asked[:count], half, middle, source, at, mask) < 0:
                    low = middle
                else:
                    high = middle
            also = _outside(x, y, ring, half, low, source, at, mask)
            if also < 0 or low == 0.0 or count == ring.shape[0]:
                break
            asked[count] = ring[also]
            count += 1
        out[n] = low
        best = max(best, low - cost[n])


def _reach(
    centres: F64, half: F64, most: float, cover: Cover, halvings: int = 18, cost: F64 | None = None
) -> F64:
    """For each centre (n, 2): the largest factor ≤ most by which half (2,) may grow uncut. cost: what is taken from
    each before they are compared; of those that cannot be the best it is then not asked (0)."""
    out = np.empty(len(centres))
    asked = np.full(len(centres), -np.inf) if cost is None else cost
    _grow(np.ascontiguousarray(centres, float), asked, _RING, half, float(most), *cover, halvings, out)
    return out


def largest(bounds: Box, aspect: float, cover: Cover) -> Box:
    """A large box of an aspect (width / height) inside the frame: the largest, but for what it costs to
    leave the middle of the frame, where the photographer put what matters."""
    half = np.array([aspect, 1.0]) / max(aspect, 1.0)
    most = max(bounds.width / half[0], bounds.height / half[1]) / 2
    centre, span = np.zeros(2), np.array([bounds.width, bounds.height]) / 2
    best = 0.0
    for halvings in (8, 8, 10, 12, 14, 16, 18):  # each round holds the last one's centre
        steps = np.linspace(-1, 1, 7)
        grid = np.stack(np.meshgrid(steps, steps), -1).reshape(-1, 2) * span + centre
        cost = MIDDLE_WEIGHT * np.hypot(grid[:, 0], grid[:, 1])
        found = _reach(grid, half, most, cover, halvings, cost)
        n = int((found - cost).argmax())
        best, centre = float(found[n]), grid[n]
        span = span / 3
    width, height = 2 * best * half
    return Box.about((float(centre[0]), float(centre[1])), float(width), float(height))


def kept_inside(box: Box, cover: Cover, home: tuple[float, float]) -> Box:
    """The box, shrunk about its middle until it has no empty corner. If its middle itself lies in the
    open, it is first drawn toward `home`, a covered place."""
    half = np.array([box.width, box.height]) / 2
    if _reach(np.array([box.centre]), half, 2.0, cover, 1)[0] > 0:
        return box
    toward = np.linspace(0, 1, 41)[:, None]
    path = np.array(box.centre) * (1 - toward) + np.array(home) * toward
    found = _reach(path, half, 1.0, cover)
    # stay near where it was wanted: a little way toward home is worth it when it gains much
    n = int((found - 0.6 * toward[:, 0] * min(1.0, float(found.max()))).argmax())
    return Box.about(
        (float(path[n, 0]), float(path[n, 1])), *(float(v) for v in 2 * half * max(found[n], 1e-4))
    )


def widest(there: NDArray[np.bool_]) -> tuple[int, int, int, int] | None:
    """The largest rectangle of cells (rows, columns) that are all there: top, bottom, left, right, the ends not
    included; None where no cell is. For each row, the tallest columns that end there are walked once."""
    best, found = 0, None
    heights = np.zeros(there.shape[1] + 1, int)
    for bottom, row in enumerate(there, 1):
        heights[:-1] = (heights[:-1] + 1) * row
        stack: list[tuple[int, int]] = []
        for column, height in enumerate(heights.tolist()):
            start = column
            while stack and stack[-1][1] >= height:
                start, tall = stack.pop()
                if tall * (column - start) > best:
                    best = tall * (column - start)
                    found = (bottom - tall, bottom, start, column)
            stack.append((start, height))
    return found
